#include "frame/sections.h"
#include "scene/scene_keys.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena {
namespace {

struct ObjectKeys {
  std::string name;
  Reference parent, mesh, material, model;
  std::vector<std::string> tags;
  Value transform, motion;
};

const Keys<ObjectKeys>& object_keys() {
  static const auto keys = [] {
    Keys<ObjectKeys> k;
    k.key("name", &ObjectKeys::name, {}, "For parents of other objects, and for --set")
        .key("parent", &ObjectKeys::parent, {}, "An object above this one, whose transform and motion this one follows")
        .key("mesh", &ObjectKeys::mesh, {}, "A mesh to show; without one the object only carries others")
        .key("material", &ObjectKeys::material, {}, "How the mesh answers light")
        .key("model", &ObjectKeys::model, {},
             "Instead of mesh and material: a model, all of which hangs on this object. Its objects, lights and views "
             "are called \"NAME/theirs\"")
        .key("tags", &ObjectKeys::tags, {},
             "Words of yours for passes and variants to choose by; they hold for what "
             "stands below, too")
        .key("transform", &ObjectKeys::transform, {}, "A list of steps, in the order in which they happen")
        .key("motion", &ObjectKeys::motion, {}, "A motion in time, that happens before the transform");
    return k;
  }();
  return keys;
}

struct StepKeys {
  std::optional<Vec3> translate;
  std::optional<float> rotate_degrees;
  Vec3 axis = Vec3::unit_y();
  Value scale;
  Vec3 pivot = Vec3::zero();
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
  Diagnostics misspelt;
  report_unknown_keys(value, "a step of the transform of " + what, step_keys().names(), misspelt);
  const int kinds = step.translate.has_value() + step.rotate_degrees.has_value() + !step.scale.empty();
  diagnostics.append(misspelt);
  if (kinds == 0 && misspelt.has_errors()) return Transform::identity();
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
      Vec3 factors = Vec3::ones();
      KeyType<Vec3>::read(step.scale, {"scale", "a number or 3 numbers", {}, "", "One factor, or three along x, y, z"},
                          factors, diagnostics);
      transform = scale(factors, {step.pivot});
    }
  });
  return transform;
}

}  // namespace

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

namespace {

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
  return given.motion();
}

void report_unknown_parent(const Reference& parent, const std::string& what, const Value& root, const Scene& scene,
                           Diagnostics& diagnostics) {
  if (diagnostics.full()) return diagnostics.error("unknown-parent", parent.place, {});  // only counted
  const Value::Array* objects = root.find("object")->array();
  const bool below = std::any_of(objects->begin(), objects->end(), [&](const Value& object) {
    const Value* name = object.find("name");
    return name && name->text() && *name->text() == parent.name;
  });
  const std::string hint = name_hint(parent.name, names_of(scene.nodes()));
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

/// The model that an object carries; null for none.
SceneModel* find_model(const ObjectKeys& given, const std::string& what, Models& models, Diagnostics& diagnostics) {
  if (given.model.empty()) return nullptr;
  const auto found = models.find(given.model.name);
  expect_found(
      given.model, found != models.end(), what, "model",
      [&] {
        std::vector<std::string> names;
        for (const auto& [name, model] : models) names.push_back(name);
        return names;
      },
      diagnostics);
  if (!given.mesh.empty() || !given.material.empty()) {
    diagnostics.error("unclear-object", given.model.place,
                      fmt::format("{} has a model, which brings its own meshes and materials", what),
                      "leave out mesh and material; [material.\"MODEL/NAME\"] changes one of a model's materials");
    return nullptr;
  }
  return found == models.end() ? nullptr : &found->second;
}

}  // namespace

void read_objects(const Value& root, Models& models, Scene& scene, Diagnostics& diagnostics) {
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
        given.mesh, node.mesh.valid(), what, "mesh", [&] { return scene.mesh_names(); }, diagnostics);
    expect_found(
        given.material, node.material.valid(), what, "material", [&] { return names_of(scene.materials()); },
        diagnostics);
    SceneModel* model = find_model(given, what, models, diagnostics);
    if (node.mesh.valid() && !node.material.valid()) node.material = default_material(scene);
    node.tags = given.tags;
    node.placement = read_transform(given.transform, what, diagnostics);
    Diagnostics motion_problems;
    node.motion = read_motion(given.motion, what, motion_problems);
    if (motion_problems.has_errors()) node.motion.reset();
    diagnostics.append(motion_problems);
    collect_mistakes(name ? name->place : item->place, diagnostics, [&] {
      if (model) {
        model->place(scene, node);
      } else {
        scene.add_node(node);
      }
    });
  }
}

std::vector<SectionInfo> object_sections() {
  return {
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
