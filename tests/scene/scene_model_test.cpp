#include "math/odd_numbers.h"
#include "thrown.h"

#include <periscena/model/gltf.h>
#include <periscena/scene/scene_bounds.h>
#include <periscena/scene/scene_model.h>

using namespace periscena;

namespace {

/// A boat with a hull, a rudder on it, a lamp, a lookout's view, two liveries and air of its own.
Scene boat() {
  Scene scene;
  const MeshHandle hull = scene.add_mesh("hull", shapes::box({2, 1, 6}));
  const MeshHandle blade = scene.add_mesh("blade", shapes::box({0.1f, 1, 1}));
  const TextureHandle grain =
      scene.add_texture({.name = "grain", .image = std::make_shared<const Image>(2, 2, Format::rgba8)});
  Material wood{.name = "oak"};
  wood.base_color_map.texture = grain;
  const MaterialHandle oak = scene.add_material(wood), paint = scene.add_material({.name = "paint"}),
                       gold = scene.add_material({.name = "gold"});
  Node body{.name = "body"};
  body.mesh = hull;
  body.material = paint;
  const NodeHandle below = scene.add_node(body);
  Node rudder{.name = "rudder", .parent = below};
  rudder.mesh = blade;
  rudder.material = oak;
  rudder.placement = Transform::translate({0, 0, 3.5f});
  const NodeHandle steered = scene.add_node(rudder);
  scene.add_light(Light{.name = "lamp", .kind = PointLight{.intensity = 40, .position = {0, 2, 0}, .range = 9}});
  scene.add_view({"lookout", {.eye = {0, 2, 0}, .target = {0, 1, -9}}, steered});
  scene.add_variant({"night", {}, {{paint, gold}}, {{steered, gold}}});
  scene.add_fog({.name = "mist"});
  scene.add_light(AmbientLight{.name = "dusk"});
  return scene;
}

struct Counts {
  explicit Counts(const Scene& scene) {
    const auto named = [](const auto& things) {
      return std::count_if(things.begin(), things.end(), [](const auto& one) { return !one.name.empty(); });
    };
    all = {named(scene.nodes()),
           named(scene.materials()),
           named(scene.textures()),
           std::count_if(scene.mesh_names().begin(), scene.mesh_names().end(),
                         [](const std::string& name) { return !name.empty(); }),
           std::ssize(scene.lights()),
           std::ssize(scene.views()),
           std::ssize(scene.variants()),
           std::ssize(scene.fogs()),
           std::ssize(scene.ambient_lights())};
  }
  std::vector<std::ptrdiff_t> all;
  bool operator==(const Counts&) const = default;
};

Vec3 world_point(const Scene& scene, NodeHandle node, const Vec3& point) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(0, worlds);
  return worlds[node.index].apply_to_point(point);
}

}  // namespace

TEST_CASE("copies of a model share its meshes, textures and materials, and have nodes, lights and views each") {
  Scene scene;
  SceneModel model(scene, "boat", boat());
  CHECK(scene.nodes().empty());
  const ModelInstance left = model.place(scene, {.name = "left", .placement = Transform::translate({-5, 0, 0})});
  const ModelInstance right = model.place(scene, {.name = "right", .placement = Transform::scale(2)});
  CHECK(scene.meshes().size() == 2);
  CHECK(scene.materials().size() == 3);
  CHECK(scene.textures().size() == 1);
  CHECK(scene.nodes().size() == 6);
  CHECK(scene.find_material("boat/oak") == model.materials()[0]);
  CHECK(scene.at(model.materials()[0]).base_color_map.texture == model.textures()[0]);
  CHECK(left.node("rudder") == scene.find_node("left/rudder"));
  CHECK(scene.at(left.node("rudder")).mesh == scene.at(right.node("rudder")).mesh);
  CHECK_FALSE(left.node("mast").valid());
  CHECK_FALSE(left.light("mast").valid());
  // By the closed form: the rudder is 3.5 m behind its boat.
  CHECK(world_point(scene, left.node("rudder"), Vec3::zero()).is_near({-5, 0, 3.5f}, 1e-6f));
  CHECK(world_point(scene, right.node("rudder"), Vec3::zero()).is_near({0, 0, 7}, 1e-6f));
  const Box box = bounds_of(scene, right.root);
  CHECK(box.min.is_near({-2, -1, -6}, 1e-5f));
  CHECK(box.max.is_near({2, 1, 8}, 1e-5f));
  // Lights and views follow the copy, or their node in it.
  CHECK(scene.at(left.light("lamp")).node == left.root);
  CHECK(scene.at(right.view("lookout")).node == right.node("rudder"));
  CHECK(scene.at(right.light("lamp")).name == "right/lamp");
}

TEST_CASE("a model's variant swaps the materials of each of its copies") {
  Scene scene;
  SceneModel model(scene, "boat", boat());
  const ModelInstance left = model.place(scene, {.name = "left"}), right = model.place(scene, {.name = "right"});
  const Variant* night = scene.find_variant(model.variant_name("night"));
  REQUIRE(night);
  const MaterialHandle gold = scene.find_material("boat/gold");
  for (const ModelInstance& boat : {left, right}) {
    const auto dressed = scene.materials_of_nodes(night);
    CHECK(dressed[boat.node("body").index] == gold);
    CHECK(dressed[boat.node("rudder").index] == gold);
  }
  scene.remove(left.root);
  CHECK(scene.find_variant("boat/night")->choices.size() == 1);
}

TEST_CASE("a model that is put in and taken out again leaves nothing behind") {
  Scene scene;
  scene.add_light(Light{.name = "sun", .kind = DirectionalLight{}});
  const Counts before(scene);
  for (int round = 0; round < 20; ++round) {
    SceneModel model(scene, "boat", boat());
    const ModelInstance one = model.place(scene), two = model.place(scene);
    CHECK(scene.at(one.root).name == "boat");
    CHECK(scene.at(two.root).name == "boat 2");
    CHECK(thrown_slug([&] { model.remove(scene); }) == "in-use");
    scene.remove(one.root);
    CHECK(thrown_slug([&] { model.remove(scene); }) == "in-use");
    scene.remove(two.root);
    model.remove(scene);
    REQUIRE(Counts(scene) == before);
    CHECK(thrown_slug([&] { model.place(scene); }) == "stale-handle");
    CHECK(thrown_slug([&] { model.remove(scene); }) == "stale-handle");
  }
  CHECK(scene.nodes().size() <= 6);
}

TEST_CASE("a model that others use is not removed, and says who does") {
  Scene scene;
  SceneModel model(scene, "boat", boat());
  Material sign{.name = "sign"};
  sign.base_color_map.texture = model.textures()[0];
  const MaterialHandle user = scene.add_material(sign);
  CHECK(thrown_slug([&] { model.remove(scene); }) == "in-use");
  CHECK(scene.find_mesh("boat/hull").valid());
  scene.remove(user);
  const MaterialHandle red = scene.add_material({.name = "red"});
  scene.add_variant({"festive", {}, {{model.materials()[1], red}}, {}});
  CHECK(thrown_slug([&] { model.remove(scene); }) == "in-use");
  scene.remove_variant("festive");
  model.remove(scene);
  CHECK_FALSE(scene.find_mesh("boat/hull").valid());
}

TEST_CASE("a program that removes a model's variant, fog or light itself can place and remove the model all the same") {
  Scene scene;
  const Counts before(scene);
  SceneModel model(scene, "boat", boat());
  scene.remove_variant("boat/night");
  scene.remove(scene.fog_handle("boat/mist"));
  scene.remove(scene.ambient_light_handle("boat/dusk"));
  const ModelInstance one = model.place(scene);
  scene.remove(one.root);
  model.remove(scene);
  CHECK(Counts(scene) == before);
}

TEST_CASE("names that are taken are refused before anything is added") {
  Scene scene;
  scene.add_fog({.name = "boat/mist"});
  const Counts before(scene);
  CHECK(thrown_slug([&] { SceneModel(scene, "boat", boat()); }) == "taken-name");
  CHECK(Counts(scene) == before);
  SceneModel model(scene, "barge", boat());
  scene.add_light(Light{.name = "left/lamp", .kind = PointLight{}});
  const Counts held(scene);
  CHECK(thrown_slug([&] { model.place(scene, {.name = "left"}); }) == "taken-name");
  CHECK(thrown_slug([&] { model.place(scene, {.name = "right", .parent = {7}}); }) == "unknown-parent");
  CHECK(Counts(scene) == held);
}

TEST_CASE("variants are replaced and removed by their names") {
  Scene scene = boat();
  const MaterialHandle oak = scene.find_material("oak"), gold = scene.find_material("gold");
  const auto before = scene.versions().structure;
  scene.change_variant({"night", {}, {{oak, gold}}, {}});
  CHECK(scene.versions().structure > before);
  CHECK(scene.find_variant("night")->materials.front().first == oak);
  CHECK(thrown_slug([&] { scene.change_variant({"nigth", {}, {}, {}}); }) == "unknown-variant");
  CHECK(thrown_slug([&] { scene.change_variant({"night", {}, {{oak, {99}}}, {}}); }) == "unknown-material");
  CHECK(scene.find_variant("night")->materials.size() == 1);
  scene.remove_variant("night");
  CHECK_FALSE(scene.find_variant("night"));
  CHECK(thrown_slug([&] { scene.remove_variant("night"); }) == "unknown-variant");
}

TEST_CASE("the box of a node is that of it and all below it, as they stand in the world") {
  Scene scene;
  SceneModel model(scene, "boat", boat());
  const ModelInstance one = model.place(scene, {.placement = Transform::translate({10, 0, 0})});
  CHECK(bounds_of(scene, one.node("rudder")).min.is_near({9.95f, -0.5f, 3}, 1e-5f));
  scene.set_visible(one.node("rudder"), false);
  CHECK(bounds_of(scene, one.node("rudder")).empty());
  CHECK(bounds_of(scene, one.root).max.is_near({11, 0.5f, 3}, 1e-5f));
  scene.remove(one.root);
  CHECK(thrown_slug([&] { bounds_of(scene, one.root); }) == "stale-handle");
}

TEST_CASE("a sky of three colours has each where it belongs") {
  const Vec3 zenith(1, 2, 6), horizon(5, 6, 7), ground(0.5f, 0.25f, 0);
  const Environment sky{.name = "sky", .images = {gradient_sky(zenith, horizon, ground)}};
  const CubeImage cube = to_cube(sky);
  CHECK(cube.at({0, 1, 0}, 0).is_near(zenith, 0.02f));
  CHECK(cube.at({0, -1, 0}, 0).is_near(ground, 1e-4f));
  CHECK(cube.at({0.3f, -0.2f, 1}, 0).is_near(ground, 1e-4f));
  // The square root of the sine of the elevation, from the horizon's colour to the zenith's.
  const Vec3 up_30 = horizon + std::sqrt(0.5f) * (zenith - horizon);
  CHECK(cube.at({std::sqrt(0.75f), 0.5f, 0}, 0).is_near(up_30, 0.05f));
  CHECK(thrown_slug([&] { gradient_sky({-1, 0, 0}, horizon, ground); }) == "bad-environment");
  CHECK(thrown_slug([&] { gradient_sky(zenith, {infinity, 0, 0}, ground); }) == "bad-environment");
}
