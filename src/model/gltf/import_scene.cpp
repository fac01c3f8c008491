#include "model/gltf/import.h"
#include "scene/scene_keys.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

namespace periscena::gltf {
namespace {

LightKind read_kind(const JsonReader& json, const LightKeys& own) {
  const float strength = json.number("intensity", 1);
  const float range = json.number("range", std::numeric_limits<float>::infinity());
  const std::string type = json.at("type").text();
  if (type == "directional") return DirectionalLight{strength, own.direction};
  if (type == "point") return PointLight{strength, own.position, range};
  if (type != "spot") json.at("type").refuse(fmt::format("is \"{}\"", type));
  SpotLight spot{strength, own.position, own.direction, range};
  if (const auto cones = json.find("spot")) {
    spot.inner_cone = cones->number("innerConeAngle", 0);
    spot.outer_cone = cones->number("outerConeAngle", pi / 4);
  }
  return spot;
}

}  // namespace

void Importer::add_light(const JsonReader& json, NodeHandle node) {
  const auto use = json.extension("KHR_lights_punctual");
  if (!use) return;
  const auto declared = document_.root().extension("KHR_lights_punctual");
  const auto lights = declared ? declared->find("lights") : std::nullopt;
  const std::size_t number = use->at("light").index(lights ? lights->size() : 0, "lights");
  const JsonReader source = lights->item(number);
  Light light;
  LightKeys keys;
  if (const auto own = source.own())
    own->read(light_keys(), keys);
  else
    keys.direction = {0, 0, -1};  // of its node, where it shines from the origin
  light.kind = read_kind(source, keys);
  light.color = source.vec3("color", Vec3::ones());
  light.node = node;
  light.tags = keys.tags;
  std::string name = source.text("name", "");
  if (name.empty()) name = json.text("name", "light");
  Scene& scene = result_.scene;
  light.name =
      light_names_.next(name, [&](const std::string& n) { return scene.find_light(n) || scene.find_ambient_light(n); });
  try {
    scene.add_light(light);
  } catch (const Mistake& mistake) {
    source.refuse(mistake.diagnostics()[0].message, mistake.diagnostics()[0].mend);
  }
}

bool Importer::add_own_thing(const JsonReader& json, NodeHandle parent) {
  const auto own = json.own();
  if (!own) return false;
  if (own->boolean("only_light", false)) {
    add_light(json, parent);
    return true;
  }
  const auto view = own->find("view");
  if (!view) return false;
  Camera camera;
  camera.eye = view->vec3("eye", camera.eye);
  camera.target = view->vec3("target", camera.target);
  camera.up = view->vec3("up", camera.up);
  camera.fov_y = view->number("fov_y", camera.fov_y);
  camera.near = view->number("near", camera.near);
  if (view->has("far")) camera.far = view->number("far", camera.far);
  camera.parallel_height = view->number("parallel_height", 0);
  if (view->boolean("ordinary_depth", false)) camera.depth = DepthOrder::ordinary;
  const std::string keep = view->text("keep", "height");
  camera.keep = keep == "width" ? Keep::width : keep == "both" ? Keep::both : Keep::height;
  if (camera.keep != Keep::height) camera.keep_aspect = view->number("keep_aspect", camera.keep_aspect);
  try {
    if (const auto lens = view->find("lens")) {
      const std::vector<float> numbers = lens->numbers(16);
      Mat4 matrix = Mat4::identity();
      for (int i = 0; i < 16; ++i) matrix(i % 4, i / 4) = numbers[static_cast<std::size_t>(i)];
      camera.lens = Projection::of_matrix(matrix, ClipDepth::from_zero);
    }
    result_.scene.add_view({json.text("name", "view"), camera, parent});
  } catch (const Mistake& mistake) {
    view->refuse(mistake.diagnostics()[0].message, mistake.diagnostics()[0].mend);
  }
  return true;
}

void Importer::add_views() {
  Scene& scene = result_.scene;
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(0, worlds);
  const std::vector<bool> moving = scene.moving_nodes();
  for (std::size_t i = 0; i < nodes_.size(); ++i) {
    const JsonReader json = document_.item("nodes", i);
    const auto index = json.index("camera", document_.count("cameras"), "cameras");
    if (!index || !nodes_[i].valid()) continue;
    const JsonReader source = document_.item("cameras", *index);
    // A camera on something that moves follows it; the others are placed once.
    const NodeHandle followed = moving[nodes_[i].index] ? nodes_[i] : NodeHandle{};
    const Transform world = followed.valid() ? Transform::identity() : worlds[nodes_[i].index];
    Camera camera;
    camera.eye = world.apply_to_point(Vec3::zero());
    camera.target = camera.eye + world.apply_to_direction(Vec3(0, 0, -1)).normalized();
    camera.up = world.apply_to_direction(Vec3::unit_y()).normalized();
    if (source.text("type", "perspective") == "orthographic") {
      const JsonReader lens = source.at("orthographic");
      camera.parallel_height = 2 * lens.number("ymag", 1);
      camera.near = lens.number("znear", 0);
      camera.far = lens.number("zfar", 100);
    } else {
      const JsonReader lens = source.at("perspective");
      camera.fov_y = lens.number("yfov", 1);
      camera.near = lens.number("znear", 0.1f);
      if (lens.has("zfar")) camera.far = lens.number("zfar", 100);
    }
    std::string name = source.text("name", "");
    if (name.empty()) name = json.text("name", "");
    if (name.empty()) name = fmt::format("camera {}", *index);
    try {
      scene.add_view({view_names_.next(name, [&](const std::string& n) { return scene.find_view(n) != nullptr; }),
                      camera, followed});
    } catch (const Mistake& mistake) {
      warn("unusable-camera",
           fmt::format("{} can't be looked through: {}", source.path(), mistake.diagnostics()[0].message),
           "it is left out");
    }
  }
}

/// What a variant changes, as it was said and not as the meshes of the file spell it out.
void Importer::read_own_variant(const JsonReader& own, Variant& into) {
  if (own.has("tags")) into.objects.tags = own.texts("tags");
  into.objects.without = own.texts("without_tags");
  const auto pair_of = [](const JsonReader& json) {
    const std::vector<JsonReader> two = json.items();
    if (two.size() != 2) json.refuse("must be two numbers");
    return std::pair(two[0], two[1]);
  };
  const std::size_t materials = result_.scene.materials().size(), nodes = result_.scene.nodes().size();
  if (own.has("materials") || own.has("choices")) into.choices.clear();
  for (const JsonReader& json : own.items("materials")) {
    const auto [from, to] = pair_of(json);
    into.materials.push_back({{static_cast<std::uint32_t>(from.index(materials, "materials"))},
                              {static_cast<std::uint32_t>(to.index(materials, "materials"))}});
  }
  for (const JsonReader& json : own.items("choices")) {
    const auto [node, material] = pair_of(json);
    into.choices.push_back({{static_cast<std::uint32_t>(node.index(nodes, "nodes"))},
                            {static_cast<std::uint32_t>(material.index(materials, "materials"))}});
  }
}

void Importer::add_own_scene() {
  Scene& scene = result_.scene;
  std::vector<std::string> names;
  if (const auto variants = document_.root().extension("KHR_materials_variants")) {
    for (const JsonReader& variant : variants->items("variants")) {
      Variant made;
      made.name = variant_names_.next(variant.at("name").text(),
                                      [&](const std::string& n) { return scene.find_variant(n) != nullptr; });
      made.choices = std::move(variant_choices_[scene.variants().size()]);
      if (const auto own = variant.own()) read_own_variant(*own, made);
      scene.add_variant(std::move(made));
    }
  }
  const auto own = document_.root().own();
  if (!own) return;
  for (const JsonReader& json : own->items("ambient_lights")) {
    LightKeys keys;
    json.read(light_keys(), keys);
    scene.add_light(AmbientLight{json.at("name").text(), keys.sky_nits, keys.ground_nits});
  }
  for (const JsonReader& json : own->items("environments")) {
    Environment environment;
    environment.name = json.at("name").text();
    for (const JsonReader& view : json.items("images")) environment.images.push_back(own_image(view));
    environment.rotation = json.number("rotation", environment.rotation);
    environment.intensity = json.number("intensity", environment.intensity);
    scene.add_environment(std::move(environment));
  }
  for (const JsonReader& json : own->items("fogs")) {
    Fog fog;
    fog.name = json.at("name").text();
    json.read(fog_keys(), fog);
    scene.add_fog(std::move(fog));
  }
}

}  // namespace periscena::gltf
