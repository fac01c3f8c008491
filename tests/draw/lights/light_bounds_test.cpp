#include "gl/device.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/geometry.h>

#include <fmt/format.h>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

constexpr int width = 200, height = 150;

/// A yard of walls and floors with many lamps, of which each reaches only so far: balls and cones, some around the eye,
/// some behind it, some on the near plane.
struct Yard {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  Camera camera;

  explicit Yard(int lamps, DepthOrder order = DepthOrder::reversed, bool parallel = false) {
    camera.eye = {0, 2.5f, 12};
    camera.target = {0, 1, 0};
    camera.near = 0.1f;
    camera.far = 80;
    camera.depth = order;
    if (parallel) camera.parallel_height = 14;
    scene->add_view({"gate", camera});
    scene->add_light(
        Light{.name = "moon", .kind = DirectionalLight{.illuminance = 0.3f, .direction = {-0.5f, -1, -0.4f}}});
    scene->add_light(Light{.name = "beacon", .kind = PointLight{.intensity = 5, .position = {0, 9, -20}}});
    show("floor", shapes::plane(60, 80), {0, 0, -20});
    std::mt19937 dice(7);
    std::uniform_real_distribution<float> across(-12, 12), along(-30, 13), share(0, 1);
    for (int i = 0; i < 40; ++i)
      show(fmt::format("pillar {}", i), shapes::box({0.8f, 4, 0.8f}), {across(dice), 2, along(dice) - 4});
    for (int i = 0; i < lamps; ++i) {
      Light light{.name = fmt::format("lamp {}", i), .color = {share(dice), share(dice), share(dice)}};
      SpotLight spot{.intensity = 4,
                     .position = {across(dice), 4 * share(dice), along(dice)},
                     .direction = {share(dice) - 0.5f, -share(dice), share(dice) - 0.5f},
                     .range = 0.5f + 3 * share(dice),
                     .outer_cone = 0.15f + 1.3f * share(dice)};
      if (i == 0) spot.position = camera.eye;
      if (i == 1) spot.position = camera.eye - Vec3(0, 0, 0.1f);
      light.kind = spot;
      if (i % 3 != 0) light.kind = PointLight{spot.intensity, spot.position, spot.range};
      scene->add_light(light);
    }
  }

  void show(const std::string& name, Mesh mesh, const Vec3& at) {
    Node node;
    node.name = name;
    node.mesh = scene->add_mesh(name, std::move(mesh));
    node.material = scene->add_material({.name = name, .base_color = {0.7f, 0.65f, 0.6f}, .roughness = 0.6f});
    node.placement = Transform::translate(at);
    scene->add_node(node);
  }

  float empty_depth() const { return camera.depth == DepthOrder::reversed ? 0.0f : 1.0f; }

  /// One picture for each way of bounding.
  FrameGraph frame(const std::vector<batch::LightBounds>& forward, const std::vector<batch::LightBounds>& deferred,
                   Format format = Format::rgba16f) const {
    FrameGraph frame;
    const TargetDescription depth{.format = Format::depth32f, .clear_depth = empty_depth()};
    for (const batch::LightBounds bounds : forward) {
      passes::Forward options{
          .name = fmt::format("forward {}", static_cast<int>(bounds)), .scene = scene, .view = "gate"};
      options.light_bounds = bounds;
      options.color = frame.target(options.name, {.format = format});
      options.depth = frame.target(options.name + " depth", depth);
      frame.keep(options.color);
      frame.add(passes::forward(options));
    }
    if (deferred.empty()) return frame;
    passes::Geometry buffer;
    buffer.scene = scene;
    buffer.view = "gate";
    buffer.normal = frame.target("normal", {.format = Format::rgba16});
    buffer.base_color = frame.target("base_color", {.format = Format::rgba8_srgb});
    buffer.material = frame.target("material", {.format = Format::rgba8});
    buffer.depth = frame.target("depth", depth);
    frame.add(passes::geometry(buffer));
    for (const batch::LightBounds bounds : deferred) {
      passes::Deferred options{
          .name = fmt::format("deferred {}", static_cast<int>(bounds)), .scene = scene, .view = "gate"};
      options.light_bounds = bounds;
      options.depth = buffer.depth;
      options.normal = buffer.normal;
      options.base_color = buffer.base_color;
      options.material = buffer.material;
      options.color = frame.target(options.name, {.format = format});
      frame.keep(options.color);
      frame.add(passes::deferred(options));
    }
    return frame;
  }
};

struct Difference {
  double worst = 0;  ///< of a channel, as a share of the light and a hundredth
  int lit = 0;
};

Difference between(const Image& a, const Image& b) {
  Difference found;
  for (int y = 0; y < a.height(); ++y) {
    for (int x = 0; x < a.width(); ++x) {
      const auto p = a.at(x, y), q = b.at(x, y);
      for (std::size_t c = 0; c < 3; ++c) {
        found.lit += p[c] > 0.05f;
        found.worst = std::max(found.worst, static_cast<double>(std::abs(p[c] - q[c])) / (std::abs(p[c]) + 0.01));
      }
    }
  }
  return found;
}

using batch::LightBounds;

}  // namespace

TEST_CASE_METHOD(
    TestDevice,
    "lights kept to tiles and clusters give the same bytes as asking all, and drawn as quads and added nearly so") {
  for (const DepthOrder order : {DepthOrder::reversed, DepthOrder::ordinary}) {
    for (const bool parallel : {false, true}) {
      const Yard yard(256, order, parallel);
      const FrameGraph frame = yard.frame({LightBounds::none, LightBounds::clusters},
                                          {LightBounds::none, LightBounds::tiles, LightBounds::quads});
      gl::FrameRunner runner(device, frame.plan(width, height, device.limits()).value());
      for (int i = 0; i < 2; ++i) runner.run(0);
      const Image forward = runner.read("forward 1"), clusters = runner.read("forward 4");
      const Image deferred = runner.read("deferred 1"), tiles = runner.read("deferred 3"),
                  quads = runner.read("deferred 2");
      INFO("order " << static_cast<int>(order) << ", parallel " << parallel);
      CHECK(between(forward, clusters).lit > 10000);
      CHECK(between(forward, clusters).worst == 0);
      CHECK(between(deferred, tiles).worst == 0);
      // Half floats are rounded once for each light instead of once.
      const Difference added = between(deferred, quads);
      INFO("quads: " << added.worst);
      CHECK(added.worst < 0.01);
    }
  }
}

TEST_CASE_METHOD(TestDevice, "four thousand lights are found by tiles and clusters, whatever the picture's size") {
  const Yard yard(4096);
  for (const auto& [across, up] : {std::pair{width, height}, {33, 17}, {1, 1}}) {
    const FrameGraph frame =
        yard.frame({LightBounds::none, LightBounds::clusters}, {LightBounds::none, LightBounds::tiles});
    gl::FrameRunner runner(device, frame.plan(across, up, device.limits()).value());
    runner.run(0);
    INFO(across << " x " << up);
    CHECK(between(runner.read("forward 1"), runner.read("forward 4")).worst == 0);
    CHECK(between(runner.read("deferred 1"), runner.read("deferred 3")).worst == 0);
  }
}

TEST_CASE_METHOD(TestDevice, "a pass with no lights that end, or none at all, is not upset by bounds") {
  for (const int lamps : {0, 1}) {
    Yard yard(lamps);
    const FrameGraph frame =
        yard.frame({LightBounds::none, LightBounds::clusters, LightBounds::automatic},
                   {LightBounds::none, LightBounds::tiles, LightBounds::quads, LightBounds::automatic});
    gl::FrameRunner runner(device, frame.plan(64, 48, device.limits()).value());
    runner.run(0);
    for (const char* other : {"forward 4", "forward 0"})
      CHECK(between(runner.read("forward 1"), runner.read(other)).worst == 0);
    for (const char* other : {"deferred 3", "deferred 0"})
      CHECK(between(runner.read("deferred 1"), runner.read(other)).worst == 0);
    CHECK(between(runner.read("deferred 1"), runner.read("deferred 2")).worst < 0.01);
  }
  FrameGraph frame;
  passes::Forward dark{.scene = Yard(3).scene, .view = "gate", .lights = ChosenNames(std::vector<Reference>{})};
  dark.light_bounds = LightBounds::clusters;
  dark.color = frame.target("dark", {.format = Format::rgba16f});
  frame.keep(dark.color);
  frame.add(passes::forward(dark));
  gl::FrameRunner runner(device, frame.plan(64, 48, device.limits()).value());
  runner.run(0);
  CHECK(runner.read("dark").at(32, 10)[0] == 0);
}

TEST_CASE_METHOD(TestDevice, "a hundred thousand lights are lit by tiles, and what no list can hold is refused") {
  Yard yard(0);
  for (int i = 0; i < 100000; ++i) {
    const Vec3 at(0.1f * static_cast<float>(i % 317) - 16, 0.1f, -0.1f * static_cast<float>(i / 317));
    yard.scene->add_light(Light{.name = fmt::format("spark {}", i),
                                .kind = PointLight{.intensity = 0.05f, .position = at, .range = 0.2f}});
  }
  const FrameGraph frame = yard.frame({}, {LightBounds::tiles});
  const auto plan = frame.plan(96, 64, device.limits());
  CHECK_THAT(to_text(plan.diagnostics()),
             Catch::Contains("warning[many-lights]: pass \"deferred 3\" is lit by 100000 lights"));
  gl::FrameRunner runner(device, plan.value());
  runner.run(0);
  CHECK(runner.read("deferred 3").at(48, 50)[0] > 0.01);
  const FrameGraph large = yard.frame({LightBounds::clusters}, {});
  CHECK_THROWS_WITH(gl::FrameRunner(device, large.plan(4096, 4608, device.limits()).value()),
                    Catch::Contains("too-many-lights"));
}

TEST_CASE_METHOD(TestDevice, "bounds follow lamps that move, views that move, and pictures that change their size") {
  Yard yard(0);
  Motion swing{.kind = Motion::Kind::slide};
  swing.axis = {1, 0, 0};
  swing.from = -8;
  swing.to = 8;
  swing.period = 4;
  Node carrier;
  carrier.name = "carrier";
  carrier.motion = swing;
  const NodeHandle node = yard.scene->add_node(carrier);
  for (int i = 0; i < 12; ++i) {
    Light light{.name = fmt::format("swung {}", i),
                .kind = PointLight{.intensity = 6, .position = {0, 1, -2.0f * static_cast<float>(i)}, .range = 3}};
    light.node = node;
    yard.scene->add_light(light);
  }
  const FrameGraph frame = yard.frame({LightBounds::none, LightBounds::clusters},
                                      {LightBounds::none, LightBounds::tiles, LightBounds::quads});
  gl::FrameRunner runner(device, frame.plan(width, height, device.limits()).value());
  for (const double t : {0.0, 1.0, 1.5}) {
    runner.run(t);
    CHECK(between(runner.read("forward 1"), runner.read("forward 4")).worst == 0);
    CHECK(between(runner.read("deferred 1"), runner.read("deferred 3")).worst == 0);
    CHECK(between(runner.read("deferred 1"), runner.read("deferred 2")).worst < 0.01);
  }
  runner.use(frame.plan(320, 100, device.limits()).value());
  runner.run(2.5);
  CHECK(between(runner.read("forward 1"), runner.read("forward 4")).worst == 0);
  CHECK(between(runner.read("deferred 1"), runner.read("deferred 3")).worst == 0);
  CHECK(between(runner.read("deferred 1"), runner.read("deferred 2")).worst < 0.01);
}
