// What passes of a runner share: found by what it is made of, and let go when no plan needs it.
#include "gl/device.h"
#include "held_memory.h"
#include "passes/white_things.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/shadow_map.h>
#include <periscena/scene/mesh.h>

#include <epoxy/gl.h>
#include <catch2/catch.hpp>

#include <map>
#include <random>
#include <tuple>

using namespace periscena;

namespace {

/// A box over a floor in a colour of its own, with a sun that stands otherwise in each.
std::shared_ptr<const Scene> scene_of(int number) {
  auto scene = std::make_shared<Scene>();
  Material material;
  material.name = "all";
  material.base_color = Vec3(0.3f, 0.9f, 0.5f) * (0.4f + 0.2f * static_cast<float>(number));
  scene->add_material(material);
  show_white(*scene, "floor", shapes::plane(4, 4), Vec3::zero());
  show_white(*scene, "box", shapes::box(Vec3(0.6f, 0.6f, 0.6f)), Vec3(0.2f * static_cast<float>(number), 0.6f, 0));
  Light sun;
  sun.name = "sun";
  sun.kind = DirectionalLight{.illuminance = 3, .direction = Vec3(0.3f * static_cast<float>(number - 1), -1, -0.4f)};
  scene->add_light(sun);
  AmbientLight sky;
  sky.name = "sky";
  sky.sky = Vec3::constant(0.2f * static_cast<float>(1 + number));
  scene->add_light(sky);
  for (const float side : {-1.0f, 1.0f}) {
    Camera camera;
    camera.eye = Vec3(side * 2, 3, 3);
    camera.target = Vec3(0, 0.3f, 0);
    scene->add_view({side < 0 ? "left" : "right", camera});
  }
  return scene;
}

/// Which graph it is: its view, with or without shadows, of which way to batch.
struct Variety {
  int scene, view, shadows, batching, size;
  auto operator<=>(const Variety&) const = default;
};

FrameGraph graph_of(const std::shared_ptr<const Scene>& scene, const Variety& variety) {
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
  frame.keep(color);
  passes::Forward lit{.scene = scene,
                      .view = variety.view == 0 ? "left" : "right",
                      .batching = variety.batching == 0 ? batch::Batching::merged : batch::Batching::unmerged,
                      .color = color,
                      .depth = frame.target("depth", {.format = Format::depth32f})};
  if (variety.shadows > 0) {
    const TargetHandle map =
        frame.target("map", {.format = Format::depth32f, .size = TargetSize::pixels(64 * variety.shadows, 64)});
    frame.add(passes::shadow_map({.scene = scene, .light = "sun", .depth = map}));
    lit.shadows = {map};
  }
  frame.add(passes::forward(lit));
  return frame;
}

/// Names in use. Drivers go on counting: a new name of each kind tells how far they are.
int textures_and_buffers() {
  GLuint texture = 0, buffer = 0;
  glGenTextures(1, &texture);
  glGenBuffers(1, &buffer);
  int count = 0;
  for (GLuint name = 1; name < texture; ++name) count += glIsTexture(name);
  for (GLuint name = 1; name < buffer; ++name) count += glIsBuffer(name);
  glDeleteTextures(1, &texture);
  glDeleteBuffers(1, &buffer);
  return count;
}

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "a runner that alternates 1,000 graphs, scenes and sizes draws each rightly, and keeps nothing") {
  std::mt19937 random(7);
  const auto pick = [&](int count) { return static_cast<int>(random() % static_cast<unsigned>(count)); };
  std::map<Variety, Image> expected;
  const Variety first{0, 0, 1, 0, 0};
  const auto size_of = [](const Variety& variety) { return 12 + 5 * variety.size; };
  // Scenes that live on, and some that are made anew for each frame, at whatever address is free.
  const std::array lasting{scene_of(0), scene_of(1)};
  const auto plan_of = [&](const Variety& variety) {
    const auto scene = variety.scene < 2 ? lasting[static_cast<std::size_t>(variety.scene)] : scene_of(variety.scene);
    return graph_of(scene, variety).plan(size_of(variety), 10, device.limits()).value();
  };
  gl::FrameRunner runner(device, plan_of(first));
  runner.run(0);
  // What a runner makes once, when it first sends something, is there from then on.
  runner.use(plan_of({1, 1, 2, 1, 1}));
  runner.run(0);
  runner.use(plan_of(first));
  runner.run(0);
  const int before = textures_and_buffers();
  std::size_t held = 0;
  for (int i = 0; i < 1000; ++i) {
    const Variety variety{pick(4), pick(2), pick(3), pick(2), pick(3)};
    if (!expected.contains(variety)) {
      gl::FrameRunner alone(device, plan_of(variety));
      alone.run(0);
      expected.emplace(variety, alone.read("color"));
    }
    runner.use(plan_of(variety));
    runner.run(0);
    const Image image = runner.read("color"), &wanted = expected.at(variety);
    INFO("frame " << i << ": scene " << variety.scene << ", shadows " << variety.shadows);
    if (i == 200) held = held_bytes();
    REQUIRE(std::equal(image.bytes().begin(), image.bytes().end(), wanted.bytes().begin(), wanted.bytes().end()));
  }
  runner.use(plan_of(first));
  runner.run(0);
  CHECK(textures_and_buffers() == before);
  CHECK(held_bytes() < held + (8u << 20));
}
