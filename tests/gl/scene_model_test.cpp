#include "gl/device.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

#include <random>

using namespace periscena;

namespace {

Scene lantern() {
  Scene scene;
  Node node{.name = "body"};
  node.mesh = scene.add_mesh("body", shapes::box({0.6f, 1, 0.6f}));
  const MaterialHandle paper = scene.add_material({.name = "paper", .base_color = {0.9f, 0.7f, 0.3f}}),
                       red = scene.add_material({.name = "red", .base_color = {0.9f, 0.1f, 0.1f}});
  node.material = paper;
  const NodeHandle body = scene.add_node(node);
  node = {.name = "handle", .parent = body};
  node.mesh = scene.add_mesh("handle", shapes::torus(0.2f, 0.05f, 16, 6));
  node.material = red;
  node.placement = Transform::translate({0, 0.7f, 0});
  const NodeHandle handle = scene.add_node(node);
  scene.add_light(Light{.name = "flame",
                        .kind = PointLight{.intensity = 3, .position = {0, 0, 0.6f}, .range = 4},
                        .node = handle,
                        .tags = {"flames"}});
  scene.add_variant({"festive", {}, {{paper, red}}, {{handle, paper}}});
  return scene;
}

std::shared_ptr<Scene> garden() {
  auto scene = std::make_shared<Scene>();
  Node ground{.name = "ground"};
  ground.mesh = scene->add_mesh("ground", shapes::plane(20, 20));
  ground.material = scene->add_material({.name = "grass", .base_color = {0.2f, 0.4f, 0.1f}});
  scene->add_node(ground);
  scene->add_light(Light{.name = "moon", .kind = DirectionalLight{.illuminance = 1, .direction = {-1, -2, -1}}});
  scene->add_view({"front", {.eye = {0, 4, 9}, .target = {0, 0.5f, 0}}});
  return scene;
}

FrameGraph frame_of(const std::shared_ptr<Scene>& scene, const std::string& variant) {
  FrameGraph frame;
  const auto moon = frame.target("moon", {.format = Format::depth32f, .size = TargetSize::pixels(256, 256)});
  const auto light = frame.target("light", {.format = Format::rgba16f});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const passes::Defaults around{.scene = scene, .view = "front"};
  frame.add(passes::shadow_map(around, {.name = "shadow", .light = "moon", .depth = moon}));
  frame.add(passes::forward(around,
                            {.name = "garden", .variant = variant, .shadows = {moon}, .color = light, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 0, .light = light, .color = frame.output()}));
  return frame;
}

/// By hand: node by node, as a program would that has no model.
void add_by_hand(Scene& scene, const Scene& model, const std::string& name, const Transform& at) {
  const NodeHandle root = scene.add_node({.name = name, .placement = at});
  const auto mesh = [&](const char* of) {
    const MeshHandle there = scene.find_mesh(of);
    return there.valid() ? there : scene.add_mesh(of, model.meshes()[model.find_mesh(of).index]);
  };
  const auto material = [&](const char* of) {
    const MaterialHandle there = scene.find_material(of);
    return there.valid() ? there : scene.add_material(model.materials()[model.find_material(of).index]);
  };
  Node body{.name = name + " body", .parent = root};
  body.mesh = mesh("body");
  body.material = material("paper");
  Node handle{.name = name + " handle", .parent = scene.add_node(body)};
  handle.mesh = mesh("handle");
  handle.material = material("red");
  handle.placement = Transform::translate({0, 0.7f, 0});
  Light flame = model.lights()[0];
  flame.name = name + " flame";
  flame.node = scene.add_node(handle);
  scene.add_light(flame);
}

Image picture(gl::Device& device, const FrameGraph& frame) {
  gl::FrameRunner runner(device, frame.plan(120, 80, device.limits()).value());
  runner.run(0);
  return runner.read("output");
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "copies of a model that come, move and go draw as the same objects added one by one") {
  const auto scene = garden();
  const Scene model = lantern();
  gl::FrameRunner runner(device, frame_of(scene, "").plan(120, 80, device.limits()).value());
  runner.run(0);
  const Image empty = runner.read("output");
  SceneModel held(*scene, "lantern", lantern());
  struct Copy {
    std::string name;
    ModelInstance instance;
    Transform at;
  };
  std::vector<Copy> copies;
  std::mt19937 random(5);
  const auto number = [&](float from, float to) { return std::uniform_real_distribution<float>(from, to)(random); };
  for (int step = 0; step < 30; ++step) {
    const Transform at = Transform::rotate(Vec3::unit_y(), number(0, 6))
                             .then(Transform::translate({number(-4, 4), number(0.2f, 1.5f), number(-3, 3)}));
    // No more than five lamps: lists of eight and more, next to a second driver, are another test's.
    if (copies.size() < 2 || (copies.size() < 5 && step % 3 != 0)) {
      const std::string name = "copy " + std::to_string(step);
      copies.push_back({name, held.place(*scene, {.name = name, .placement = at}), at});
    } else if (step % 2 == 0) {
      scene->remove(copies[1].instance.root);
      copies.erase(copies.begin() + 1);
    } else {
      scene->set_local_transform(copies[0].instance.root, at);
      copies[0].at = at;
    }
    const auto wanted = garden();
    for (const Copy& copy : copies) add_by_hand(*wanted, model, copy.name, copy.at);
    runner.run(0);
    INFO("step " << step);
    REQUIRE(runner.read("output") == picture(device, frame_of(wanted, "")));
  }
  // The model's variant is all copies' own: as if the materials had been swapped by hand.
  const auto wanted = garden();
  Scene dressed = lantern();
  dressed.change_material(dressed.find_material("paper"), {.name = "paper", .base_color = {0.9f, 0.1f, 0.1f}});
  dressed.change_material(dressed.find_material("red"), {.name = "red", .base_color = {0.9f, 0.7f, 0.3f}});
  for (const Copy& copy : copies) add_by_hand(*wanted, dressed, copy.name, copy.at);
  CHECK(picture(device, frame_of(scene, "lantern/festive")) == picture(device, frame_of(wanted, "")));
  for (const Copy& copy : copies) scene->remove(copy.instance.root);
  held.remove(*scene);
  runner.run(0);
  CHECK(runner.read("output") == empty);
}

TEST_CASE_METHOD(TestDevice, "a scene that holds nothing any more is drawn empty, and filled again") {
  const auto scene = std::make_shared<Scene>();
  scene->add_light(Light{.name = "moon", .kind = DirectionalLight{.illuminance = 1, .direction = {-1, -2, -1}}});
  scene->add_view({"front", {.eye = {0, 0, 5}}});
  gl::FrameRunner runner(device, frame_of(scene, "").plan(120, 80, device.limits()).value());
  runner.run(0);
  const Image empty = runner.read("output");
  Image full = empty;
  for (int round = 0; round < 3; ++round) {
    SceneModel model(*scene, "lantern", lantern());
    const ModelInstance copy = model.place(*scene);
    runner.run(0);
    CHECK(runner.read("output") != empty);
    if (round > 0) CHECK(runner.read("output") == full);
    full = runner.read("output");
    scene->remove(copy.root);
    runner.run(0);
    CHECK(runner.read("output") == empty);
    model.remove(*scene);
    runner.run(0);
    CHECK(runner.read("output") == empty);
  }
}
