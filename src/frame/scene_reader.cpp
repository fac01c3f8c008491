#include "frame/sections.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

struct MeshKeys {
  std::string kind;
  Vec3 size = Vec3::Ones();
  float radius = 0.5f, height = 1, tube = 0.1f;
  int segments = 32;
};

const Keys<MeshKeys>& mesh_keys() {
  static const auto keys = [] {
    Keys<MeshKeys> k;
    k.key("kind", &MeshKeys::kind,
          {.choices = {"box", "plane", "cylinder", "cone", "sphere", "torus"}, .required = true},
          "The shape; all are centred at the origin, cylinders and cones along Y, planes and tori in XZ")
        .key("size", &MeshKeys::size, {.unit = "metres", .minimum = 0},
             "Width, height, depth of a box; width and depth (x and z) of a plane")
        .key("radius", &MeshKeys::radius, {.unit = "metres", .minimum = 0, .above_minimum = true},
             "Of a cylinder, a cone's base, a sphere, or to the middle of a torus' tube")
        .key("height", &MeshKeys::height, {.unit = "metres", .minimum = 0, .above_minimum = true},
             "Of a cylinder or a cone")
        .key("tube", &MeshKeys::tube, {.unit = "metres", .minimum = 0, .above_minimum = true},
             "Radius of a torus' tube")
        .key("segments", &MeshKeys::segments, {.minimum = 1, .maximum = 4096},
             "Around a round shape, or along each side of a plane");
    return k;
  }();
  return keys;
}

Mesh make_mesh(const MeshKeys& given) {
  if (given.kind == "box") return shapes::box(given.size);
  if (given.kind == "plane") return shapes::plane(given.size.x(), given.size.z(), given.segments);
  if (given.kind == "cylinder") return shapes::cylinder(given.radius, given.height, given.segments);
  if (given.kind == "cone") return shapes::cone(given.radius, given.height, given.segments);
  if (given.kind == "sphere") return shapes::sphere(given.radius, given.segments);
  return shapes::torus(given.radius, given.tube, given.segments, std::max(3, given.segments / 2));
}

const Keys<Material>& material_keys() {
  static const auto keys = [] {
    Keys<Material> k;
    k.key("base_color", &Material::base_color, {.minimum = 0, .maximum = 1},
          "Share of light sent back: red, green, blue, linear")
        .key("emission", &Material::emission, {.unit = "nits", .minimum = 0},
             "Light of its own: red, green, blue, linear")
        .key("shows", &Material::shows, {},
             "A target that the pass reads under this name, as light of its own: it fills one metre of the mesh's "
             "texture "
             "coordinates around 0")
        .key("shows_mirrored", &Material::shows_mirrored, {}, "With left and right exchanged, as a mirror does");
    return k;
  }();
  return keys;
}

struct LightKeys {
  std::string kind;
  Vec3 direction = Vec3(0, -1, 0);
  Vec3 color = Vec3::Ones();
  float illuminance_lux = 3;
  Vec3 sky_nits = Vec3::Constant(0.1f), ground_nits = Vec3::Constant(0.1f);
};

const Keys<LightKeys>& light_keys() {
  static const auto keys = [] {
    Keys<LightKeys> k;
    k.key("kind", &LightKeys::kind, {.choices = {"directional", "ambient"}, .required = true},
          "Where the light comes from")
        .key("direction", &LightKeys::direction, {}, "Of a directional light: where it travels to; any length but 0")
        .key("color", &LightKeys::color, {.minimum = 0}, "Of a directional light: red, green, blue, linear")
        .key("illuminance_lux", &LightKeys::illuminance_lux, {.unit = "lux", .minimum = 0},
             "Of a directional light: on a surface that faces it")
        .key("sky_nits", &LightKeys::sky_nits, {.unit = "nits", .minimum = 0},
             "Of an ambient light: red, green, blue from above, linear")
        .key("ground_nits", &LightKeys::ground_nits, {.unit = "nits", .minimum = 0}, "Of an ambient light: from below");
    return k;
  }();
  return keys;
}

struct ViewKeys {
  Vec3 eye = Vec3(0, 0, 5), target = Vec3::Zero(), up = Vec3::UnitY();
  float fov_y_degrees = 50, near = 0.1f, parallel_height = 0;
  std::optional<float> far;
  std::string depth = "reversed";
};

const Keys<ViewKeys>& view_keys() {
  static const auto keys = [] {
    Keys<ViewKeys> k;
    k.key("eye", &ViewKeys::eye, {.unit = "metres"}, "Where the camera is")
        .key("target", &ViewKeys::target, {.unit = "metres"}, "What is in the middle of the picture")
        .key("up", &ViewKeys::up, {}, "What is up in the picture; not along the view")
        .key("fov_y_degrees", &ViewKeys::fov_y_degrees, {.unit = "degrees"},
             "Vertical field of view, more than 0 and less than 180")
        .key("near", &ViewKeys::near, {.unit = "metres"},
             "Nearer things are cut off; more than 0 for a perspective lens")
        .key("far", &ViewKeys::far, {.unit = "metres"}, "Farther things are cut off; left out, nothing is")
        .key("parallel_height", &ViewKeys::parallel_height, {.unit = "metres", .minimum = 0},
             "More than 0 makes the lens parallel: what the picture shows from bottom to top; it wants a far")
        .key("depth", &ViewKeys::depth, {.choices = {"reversed", "ordinary"}},
             "Reversed: near is 1, far is 0; ordinary: the other way");
    return k;
  }();
  return keys;
}

struct ObjectKeys {
  std::string name;
  Reference parent, mesh, material;
  Value transform, motion;
};

const Keys<ObjectKeys>& object_keys() {
  static const auto keys = [] {
    Keys<ObjectKeys> k;
    k.key("name", &ObjectKeys::name, {}, "For parents of other objects, and for --set")
        .key("parent", &ObjectKeys::parent, {}, "An object above this one, whose transform and motion this one follows")
        .key("mesh", &ObjectKeys::mesh, {}, "A mesh to show; without one the object only carries others")
        .key("material", &ObjectKeys::material, {}, "How the mesh answers light")
        .key("transform", &ObjectKeys::transform, {}, "A list of steps, in the order in which they happen")
        .key("motion", &ObjectKeys::motion, {}, "A motion in time, that happens before the transform");
    return k;
  }();
  return keys;
}

struct StepKeys {
  std::optional<Vec3> translate;
  std::optional<float> rotate_degrees;
  Vec3 axis = Vec3::UnitY();
  Value scale;
  Vec3 pivot = Vec3::Zero();
};

const Keys<StepKeys>& step_keys() {
  static const auto keys = [] {
    Keys<StepKeys> k;
    k.key("translate", &StepKeys::translate, {.unit = "metres"}, "Moves")
        .key("rotate_degrees", &StepKeys::rotate_degrees, {.unit = "degrees"},
             "Turns about the axis, counter-clockwise seen from its tip")
        .key("axis", &StepKeys::axis, {}, "Of a rotation; any length but 0")
        .key("scale", &StepKeys::scale, {}, "One factor, or three along x, y, z")
        .key("pivot", &StepKeys::pivot, {.unit = "metres"}, "The point that a rotation or scale leaves in place");
    return k;
  }();
  return keys;
}

struct MotionKeys {
  std::string kind;
  Vec3 axis = Vec3::UnitY(), pivot = Vec3::Zero();
  float from_degrees = 0, to_degrees = 0, from_metres = 0, to_metres = 0, period_seconds = 1, phase = 0, hold_from = 0,
        hold_to = 0;
};

const Keys<MotionKeys>& motion_keys() {
  static const auto keys = [] {
    Keys<MotionKeys> k;
    k.key("kind", &MotionKeys::kind, {.choices = {"swing", "spin", "slide"}, .required = true},
          "swing: to and fro about the axis; spin: a turn each period; slide: to and fro along the axis")
        .key("axis", &MotionKeys::axis, {}, "In the object's own coordinates")
        .key("pivot", &MotionKeys::pivot, {.unit = "metres"}, "A point on the axis")
        .key("from_degrees", &MotionKeys::from_degrees, {.unit = "degrees"}, "Of a swing: at time 0")
        .key("to_degrees", &MotionKeys::to_degrees, {.unit = "degrees"}, "Of a swing: half a period later")
        .key("from_metres", &MotionKeys::from_metres, {.unit = "metres"}, "Of a slide: at time 0")
        .key("to_metres", &MotionKeys::to_metres, {.unit = "metres"}, "Of a slide: half a period later")
        .key("period_seconds", &MotionKeys::period_seconds, {.unit = "seconds", .minimum = 0, .above_minimum = true},
             "To and fro, or one turn")
        .key("phase", &MotionKeys::phase, {.unit = "periods"}, "How far ahead it is")
        .key("hold_from", &MotionKeys::hold_from, {.minimum = 0, .maximum = 1},
             "Of a swing or slide: share of the period that it rests where it is at time 0")
        .key("hold_to", &MotionKeys::hold_to, {.minimum = 0, .maximum = 1},
             "The same for the other end; together less than 1");
    return k;
  }();
  return keys;
}

void read_meshes(const Value& root, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "mesh", diagnostics)) {
    const std::string what = fmt::format("mesh \"{}\"", section->name);
    MeshKeys given;
    Diagnostics found;
    mesh_keys().read(section->value, what, given, found);
    report_unknown_keys(section->value, what, mesh_keys().names(), found);
    if (!found.has_errors())
      collect_mistakes(section->place, found, [&] { scene.add_mesh(section->name, make_mesh(given)); });
    diagnostics.append(found);
    // Objects that show it should not be told off as well.
    if (!scene.find_mesh(section->name).valid()) scene.add_mesh(section->name, shapes::box(Vec3::Ones()));
  }
}

void read_materials(const Value& root, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "material", diagnostics)) {
    const std::string what = fmt::format("material \"{}\"", section->name);
    Material material;
    material_keys().read(section->value, what, material, diagnostics);
    report_unknown_keys(section->value, what, material_keys().names(), diagnostics);
    material.name = section->name;
    collect_mistakes(section->place, diagnostics, [&] { scene.add_material(material); });
  }
}

void read_lights(const Value& root, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "light", diagnostics)) {
    const std::string what = fmt::format("light \"{}\"", section->name);
    LightKeys given;
    light_keys().read(section->value, what, given, diagnostics);
    report_unknown_keys(section->value, what, light_keys().names(), diagnostics);
    collect_mistakes(section->place, diagnostics, [&] {
      if (given.kind == "ambient") {
        scene.add_light(AmbientLight{section->name, given.sky_nits, given.ground_nits});
      } else {
        scene.add_light(DirectionalLight{section->name, given.direction, given.color, given.illuminance_lux});
      }
    });
  }
}

void read_views(const Value& root, Scene& scene, Diagnostics& diagnostics) {
  for (const ValueMember* section : named_tables(root, "view", diagnostics)) {
    const std::string what = fmt::format("view \"{}\"", section->name);
    ViewKeys given;
    Diagnostics found;
    view_keys().read(section->value, what, given, found);
    report_unknown_keys(section->value, what, view_keys().names(), found);
    View view{section->name, {}};
    if (!found.has_errors()) {
      view.camera = {given.eye,
                     given.target,
                     given.up,
                     radians(given.fov_y_degrees),
                     given.near,
                     given.far.value_or(std::numeric_limits<float>::infinity()),
                     given.parallel_height,
                     given.depth == "reversed" ? DepthOrder::reversed : DepthOrder::ordinary};
      const std::size_t before = found.size();
      collect_mistakes(section->place, found, [&] { scene.add_view(view); });
      if (found.size() == before) continue;
    }
    // Passes that look through it should not be told off as well.
    view.camera = {};
    Diagnostics ignored;
    collect_mistakes(section->place, ignored, [&] { scene.add_view(view); });
    diagnostics.append(found);
  }
}

/// One step of a transform: exactly one of translate, rotate_degrees, scale.
Transform read_step(const Value& value, const std::string& what, Diagnostics& diagnostics) {
  StepKeys step;
  if (!value.table()) {
    diagnostics.error(
        "wrong-type", value.place,
        fmt::format("a step of the transform of {} wants a table, but this is {}", what, value.describe()),
        "write { translate = [1, 0, 0] }");
    return Transform::identity();
  }
  step_keys().read(value, "a step of the transform of " + what, step, diagnostics);
  report_unknown_keys(value, "a step of the transform of " + what, step_keys().names(), diagnostics);
  const int kinds = step.translate.has_value() + step.rotate_degrees.has_value() + !step.scale.empty();
  if (kinds != 1) {
    diagnostics.error("unclear-step", value.place,
                      fmt::format("a step of the transform of {} says {} of translate, rotate_degrees and scale", what,
                                  kinds == 0 ? "none" : "several"),
                      "each step does one thing; steps happen from first to last");
    return Transform::identity();
  }
  Transform transform = Transform::identity();
  collect_mistakes(value.place, diagnostics, [&] {
    if (step.translate) {
      transform = translate(*step.translate);
    } else if (step.rotate_degrees) {
      transform = rotate(step.axis, radians(*step.rotate_degrees), {step.pivot});
    } else if (double factor = 1; step.scale.number(factor)) {
      transform = scale(static_cast<float>(factor), {step.pivot});
    } else {
      Vec3 factors = Vec3::Ones();
      KeyType<Vec3>::read(step.scale, {"scale", "a number or 3 numbers", {}, "", "One factor, or three along x, y, z"},
                          factors, diagnostics);
      transform = scale(factors, {step.pivot});
    }
  });
  return transform;
}

Transform read_transform(const Value& value, const std::string& what, Diagnostics& diagnostics) {
  Transform transform = Transform::identity();
  if (value.empty()) return transform;
  const Value::Array* steps = value.array();
  if (!steps) {
    diagnostics.error("wrong-type", value.place,
                      fmt::format("the transform of {} wants a list of steps, but this is {}", what, value.describe()),
                      "write transform = [{ scale = 2 }, { translate = [1, 0, 0] }]");
    return transform;
  }
  for (const Value& step : *steps) transform = transform.then(read_step(step, what, diagnostics));
  return transform;
}

std::optional<Motion> read_motion(const Value& value, const std::string& what, Diagnostics& diagnostics) {
  if (value.empty()) return std::nullopt;
  if (!value.table()) {
    diagnostics.error("wrong-type", value.place,
                      fmt::format("the motion of {} wants a table, but this is {}", what, value.describe()),
                      "write motion = { kind = \"spin\", period_seconds = 4 }");
    return std::nullopt;
  }
  MotionKeys given;
  motion_keys().read(value, "the motion of " + what, given, diagnostics);
  report_unknown_keys(value, "the motion of " + what, motion_keys().names(), diagnostics);
  Motion motion;
  motion.axis = given.axis;
  motion.pivot = given.pivot;
  motion.period = given.period_seconds;
  motion.phase = given.phase;
  motion.hold_from = given.hold_from;
  motion.hold_to = given.hold_to;
  if (given.kind == "slide") {
    motion.kind = Motion::Kind::slide;
    motion.from = given.from_metres;
    motion.to = given.to_metres;
  } else {
    motion.kind = given.kind == "spin" ? Motion::Kind::spin : Motion::Kind::swing;
    motion.from = radians(given.from_degrees);
    motion.to = radians(given.to_degrees);
  }
  return motion;
}

std::vector<std::string> node_names(const Scene& scene) {
  std::vector<std::string> names;
  for (const Node& node : scene.nodes()) {
    if (!node.name.empty()) names.push_back(node.name);
  }
  return names;
}

std::vector<std::string> material_names(const Scene& scene) {
  std::vector<std::string> names;
  for (const Material& material : scene.materials()) names.push_back(material.name);
  return names;
}

/// Reports a name that an object refers to and that was not found. @param names  gives what it could have meant
template <class HandleType, class Names>
void expect_found(const Reference& reference, HandleType found, const std::string& what, const char* kind, Names names,
                  Diagnostics& diagnostics) {
  if (reference.empty() || found.valid()) return;
  const std::vector<std::string> known = names();
  diagnostics.error(
      fmt::format("unknown-{}", kind), reference.place,
      fmt::format("{} uses {} \"{}\", which is not there", what, kind, reference.name),
      known.empty() ? fmt::format("declare it: [{}.{}]", kind, reference.name) : name_hint(reference.name, known));
}

void report_unknown_parent(const Reference& parent, const std::string& what, const Value& root, const Scene& scene,
                           Diagnostics& diagnostics) {
  const Value::Array* objects = root.find("object")->array();
  const bool below = std::any_of(objects->begin(), objects->end(), [&](const Value& object) {
    const Value* name = object.find("name");
    return name && name->text() && *name->text() == parent.name;
  });
  const std::string hint = name_hint(parent.name, node_names(scene));
  diagnostics.error(
      "unknown-parent", parent.place,
      fmt::format("{} has the parent \"{}\", which {}", what, parent.name, below ? "stands below it" : "is not there"),
      below ? fmt::format("move [[object]] \"{}\" above this one: parents stand before their children", parent.name)
      : hint.empty() ? fmt::format("add an [[object]] with name = \"{}\" above this one", parent.name)
                     : hint);
}

MaterialHandle default_material(Scene& scene) {
  const MaterialHandle found = scene.find_material("");
  return found.valid() ? found : scene.add_material({});
}

void read_objects(const Value& root, Scene& scene, Diagnostics& diagnostics) {
  int number = 0;
  for (const Value* item : listed_tables(root, "object", diagnostics)) {
    ++number;
    ObjectKeys given;
    const Value* name = item->find("name");
    const std::string what =
        name && name->text() ? fmt::format("object \"{}\"", *name->text()) : fmt::format("object {}", number);
    object_keys().read(*item, what, given, diagnostics);
    report_unknown_keys(*item, what, object_keys().names(), diagnostics);
    Node node;
    node.name = given.name;
    node.parent = scene.find_node(given.parent.name);
    node.mesh = scene.find_mesh(given.mesh.name);
    node.material = given.material.empty() ? MaterialHandle{} : scene.find_material(given.material.name);
    if (given.parent.empty()) node.parent = {};
    if (!given.parent.empty() && !node.parent.valid())
      report_unknown_parent(given.parent, what, root, scene, diagnostics);
    expect_found(
        given.mesh, node.mesh, what, "mesh", [&] { return scene.mesh_names(); }, diagnostics);
    expect_found(
        given.material, node.material, what, "material", [&] { return material_names(scene); }, diagnostics);
    if (node.mesh.valid() && !node.material.valid()) node.material = default_material(scene);
    node.placement = read_transform(given.transform, what, diagnostics);
    Diagnostics motion_problems;
    node.motion = read_motion(given.motion, what, motion_problems);
    if (motion_problems.has_errors()) node.motion.reset();
    diagnostics.append(motion_problems);
    collect_mistakes(name ? name->place : item->place, diagnostics, [&] { scene.add_node(node); });
  }
}

}  // namespace

std::vector<const ValueMember*> named_tables(const Value& root, const std::string& section, Diagnostics& diagnostics) {
  std::vector<const ValueMember*> found;
  const Value* value = root.find(section);
  if (!value) return found;
  const Value::Table* table = value->table();
  if (!table) {
    diagnostics.error("wrong-type", value->place, fmt::format("\"{}\" is {}", section, value->describe()),
                      fmt::format("write a table for each: [{}.NAME]", section));
    return found;
  }
  for (const ValueMember& member : *table) {
    if (member.value.table()) {
      found.push_back(&member);
    } else {
      diagnostics.error(
          "wrong-type", member.place,
          fmt::format("\"{}.{}\" wants a table, but this is {}", section, member.name, member.value.describe()),
          fmt::format("write [{}.NAME], then the keys; a name with a dot needs quotes: [{}.\"scene.color\"]", section,
                      section));
    }
  }
  return found;
}

std::vector<const Value*> listed_tables(const Value& root, const std::string& section, Diagnostics& diagnostics) {
  std::vector<const Value*> found;
  const Value* value = root.find(section);
  if (!value) return found;
  const Value::Array* list = value->array();
  if (!list) {
    diagnostics.error("wrong-type", value->place, fmt::format("\"{}\" is {}", section, value->describe()),
                      fmt::format("write two brackets, once for each: [[{}]]", section));
    return found;
  }
  for (const Value& item : *list) {
    if (item.table()) {
      found.push_back(&item);
    } else {
      diagnostics.error("wrong-type", item.place,
                        fmt::format("\"{}\" wants tables, but this is {}", section, item.describe()),
                        fmt::format("write [[{}]], then the keys", section));
    }
  }
  return found;
}

void read_scene_sections(const Value& root, Scene& scene, Diagnostics& diagnostics) {
  read_meshes(root, scene, diagnostics);
  read_materials(root, scene, diagnostics);
  read_lights(root, scene, diagnostics);
  read_views(root, scene, diagnostics);
  read_objects(root, scene, diagnostics);
}

const std::vector<std::string>& scene_section_names() {
  static const std::vector<std::string> names{"mesh", "material", "light", "view", "object"};
  return names;
}

std::vector<SectionInfo> scene_sections() {
  return {
      {"[mesh.NAME]", "A shape for objects to show.", mesh_keys().infos(),
       "[mesh.post]\nkind   = \"cylinder\"\nradius = 0.1\nheight = 1.2\n"},
      {"[material.NAME]", "How a surface answers light.", material_keys().infos(),
       "[material.oak]\nbase_color = [0.25, 0.16, 0.09]\n"},
      {"[light.NAME]", "A light for passes to use.", light_keys().infos(),
       "[light.sun]\nkind            = \"directional\"\ndirection       = [-0.5, -0.3, -0.8]\ncolor           = [1, "
       "0.8, 0.6]\nilluminance_lux = 3\n"},
      {"[view.NAME]", "A camera for passes to look through.", view_keys().infos(),
       "[view.towpath]\neye    = [6, 2, 9]\ntarget = [0, 1, 0]\n"},
      {"[[object]]", "A place in the tree that may show a mesh. Parents stand above their children.",
       object_keys().infos(),
       "[[object]]\nname      = \"gate\"\nmesh      = \"leaf\"\nmaterial  = \"oak\"\n"
       "transform = [{ rotate_degrees = 90, axis = [0, 1, 0], pivot = [1, 0, 0] }, { translate = [0, 2, 0] }]\n"
       "motion    = { kind = \"swing\", axis = [0, 1, 0], to_degrees = 60, period_seconds = 24 }\n"},
      {"transform = [{ … }, …]", "A step of an object's transform: one of translate, rotate_degrees, scale.",
       step_keys().infos(), ""},
      {"motion = { … }", "An object's motion in absolute time.", motion_keys().infos(), ""},
  };
}

}  // namespace periscena
