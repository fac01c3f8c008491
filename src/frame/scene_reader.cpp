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
  std::vector<SectionInfo> sections{
      {"[mesh.NAME]", "A shape for objects to show.", mesh_keys().infos(),
       "[mesh.post]\nkind   = \"cylinder\"\nradius = 0.1\nheight = 1.2\n"},
      {"[material.NAME]", "How a surface answers light.", material_keys().infos(),
       "[material.oak]\nbase_color = [0.25, 0.16, 0.09]\n"},
      {"[light.NAME]", "A light for passes to use.", light_keys().infos(),
       "[light.sun]\nkind            = \"directional\"\ndirection       = [-0.5, -0.3, -0.8]\ncolor           = [1, "
       "0.8, 0.6]\nilluminance_lux = 3\n"},
      {"[view.NAME]", "A camera for passes to look through.", view_keys().infos(),
       "[view.towpath]\neye    = [6, 2, 9]\ntarget = [0, 1, 0]\n"},
  };
  for (SectionInfo& section : object_sections()) sections.push_back(std::move(section));
  return sections;
}

}  // namespace periscena
