#include "gl/draws.h"
#include "passes/white_things.h"

#include <periscena/image/statistics.h>
#include <periscena/passes/accumulate.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/shadow_map.h>
#include <periscena/passes/shrink.h>
#include <periscena/passes/velocity.h>

#include <cmath>

using namespace periscena;

namespace {

/// A leaning plank before a floor, and a ball that goes to and fro.
std::shared_ptr<Scene> yard(bool rolls) {
  auto scene = std::make_shared<Scene>();
  Camera camera;
  camera.eye = {0, 1.5f, 6};
  camera.target = {0, 0.5f, 0};
  scene->add_view({"front", camera});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 2.5f, .direction = {0.3f, -1, -0.4f}}});
  scene->add_material({.name = "white"});
  show_white(*scene, "floor", shapes::box({9, 0.2f, 5}), {0, -0.6f, 0});
  show_white(*scene, "plank", shapes::box({3, 0.12f, 0.3f}), {0, 1, 0});
  Node ball;
  ball.mesh = scene->add_mesh("ball", shapes::sphere(0.4f));
  ball.material = scene->add_material({.name = "lit", .emission = {2, 0.5f, 0.1f}});
  ball.placement = Transform::translate({0, 0, 1});
  if (rolls)
    ball.motion = Motion{.kind = Motion::Kind::slide, .axis = {1, 0, 0}, .from = -1.6f, .to = 1.6f, .period = 2};
  scene->add_node(ball);
  return scene;
}

constexpr int wide = 96, high = 64;

struct OverTime {
  FrameGraph frame;
  std::unique_ptr<gl::FrameRunner> runner;

  OverTime(gl::Device& device, const std::shared_ptr<const Scene>& scene, passes::Accumulate options, int width = wide,
           int height = high) {
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f}),
                       depth = frame.target("depth", {.format = Format::depth32f});
    const TargetHandle velocity = frame.target("velocity", {.format = Format::rg32f}),
                       steady = frame.target("steady", {.format = Format::rgba32f});
    const TargetHandle count = frame.target("count", {.format = Format::r16f});
    for (const TargetHandle kept : {color, steady, count}) frame.keep(kept);
    frame.add(passes::forward({.scene = scene, .view = "front", .color = color, .depth = depth}));
    frame.add(passes::velocity({.scene = scene, .view = "front", .depth = depth, .velocity = velocity}));
    options.scene = scene;
    options.view = "front";
    options.from = color;
    options.velocity = velocity;
    options.depth = depth;
    options.color = steady;
    options.count = count;
    frame.add(passes::accumulate(options));
    runner = std::make_unique<gl::FrameRunner>(device, planned(frame, device, width, height));
  }

  Image run(double seconds) {
    runner->run(seconds);
    return runner->read("steady");
  }

  /// Of how many frames the pixel in the upper left corner is the mean, where nothing is.
  double count() const { return runner->read("count").at(0, 0)[0]; }
};

/// The mean of 64 samples in each pixel.
Image many_samples(gl::Device& device, const std::shared_ptr<const Scene>& scene, double seconds) {
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f, .size = TargetSize::of_frame(8)});
  const TargetHandle mean = frame.target("mean", {.format = Format::rgba32f});
  frame.keep(mean);
  frame.add(
      passes::forward({.scene = scene,
                       .view = "front",
                       .color = color,
                       .depth = frame.target("depth", {.format = Format::depth32f, .size = TargetSize::of_frame(8)})}));
  frame.add(passes::shrink({.filter = passes::ShrinkFilter::box, .from = color, .color = mean}));
  gl::FrameRunner runner(device, planned(frame, device, wide, high));
  runner.run(seconds);
  return runner.read("mean");
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "frames of a still view come together to the mean of many samples in each pixel") {
  const auto scene = yard(false);
  const Image truth = many_samples(device, scene, 0);
  OverTime over_time(device, scene, {.places = 64, .frames = 64});
  const double one = compare(truth, over_time.run(0)).rmse;
  double several = 0, many = 0;
  for (int i = 1; i < 64; ++i) {
    const double error = compare(truth, over_time.run(i / 60.0)).rmse;
    if (i == 7) several = error;
    many = error;
  }
  INFO(one << ", after 8 frames " << several << ", after 64 " << many);
  CHECK(several < 0.35 * one);
  CHECK(many < 0.1 * one);
  CHECK(over_time.count() == 64);
}

TEST_CASE_METHOD(TestDevice,
                 "what moves takes its past along, leaves no ghost, and its edges are smoother than one frame's") {
  const auto scene = yard(true);
  OverTime over_time(device, scene, {});
  double steady = 0, single = 0;
  Image last(1, 1, Format::rgba32f);
  // The ball goes from one end to the other.
  for (int i = 0; i <= 60; ++i) {
    last = over_time.run(i / 60.0);
    if (i % 12 != 6) continue;
    const Image truth = many_samples(device, scene, i / 60.0);
    steady += compare(truth, last).rmse;
    single += compare(truth, over_time.runner->read("color")).rmse;
  }
  INFO(steady << " beside " << single);
  CHECK(steady < 0.75 * single);
  // Where it was, the floor is as it would be had it never been there.
  const Image truth = many_samples(device, scene, 1);
  double ghost = 0;
  for (int y = 38; y < 44; ++y) {
    for (int x = 10; x < 50; ++x) {
      ghost = std::max(ghost, std::abs(truth.at(x, y)[2] - last.at(x, y)[2]));
    }
  }
  CHECK(ghost < 0.02);
}

TEST_CASE_METHOD(
    TestDevice,
    "it begins anew at the first frame, at cuts, when time goes back or leaps, and when its history is reset") {
  OverTime over_time(device, yard(true), {.places = 4, .frames = 100, .cuts = {0.5f, 3}});
  const auto count_at = [&](double seconds) {
    over_time.run(seconds);
    return over_time.count();
  };
  CHECK(count_at(0.3) == 1);
  CHECK(count_at(0.4) == 2);
  CHECK(count_at(0.49) == 3);
  CHECK(count_at(0.5) == 1);  // a cut
  CHECK(count_at(0.6) == 2);
  CHECK(count_at(0.6) == 3);
  CHECK(count_at(0.55) == 1);  // back
  CHECK(count_at(0.7) == 2);
  CHECK(count_at(1.1) == 1);  // a leap
  CHECK(count_at(1.2) == 2);
  over_time.runner->reset_history();
  CHECK(count_at(1.25) == 1);
  // The same frames after each other are the same again.
  over_time.runner->run_settled(2, 8, 60);
  const Image once = over_time.runner->read("steady");
  over_time.runner->run_settled(2, 8, 60);
  CHECK(compare(once, over_time.runner->read("steady")).pixels == 0);
}

TEST_CASE_METHOD(
    TestDevice,
    "jitter moves only views that are accumulated, by less than a pixel, and its frames' mean stays in place") {
  const auto scene = yard(false);
  OverTime still(device, scene, {.places = 1, .frames = 1});
  const Image middle = still.run(0);
  CHECK(compare(middle, still.run(0.1)).pixels == 0);
  FrameGraph plain;
  const TargetHandle color = plain.target("color", {.format = Format::rgba32f});
  plain.keep(color);
  plain.add(passes::forward(
      {.scene = scene, .view = "front", .color = color, .depth = plain.target("depth", {.format = Format::depth32f})}));
  gl::FrameRunner runner(device, planned(plain, device, wide, high));
  runner.run(0);
  CHECK(compare(middle, runner.read("color")).pixels == 0);
  OverTime jittered(device, scene, {.places = 16, .frames = 1});
  double least = 1, most = -1;
  for (int i = 0; i < 16; ++i) {
    jittered.run(i / 60.0);
    const Camera* camera = jittered.runner->camera(0);
    REQUIRE(camera);
    CHECK(*camera == scene->find_view("front")->camera);
    double mean = 0;
    const Image drawn = jittered.runner->read("color");
    for (int y = 0; y < high; ++y) mean += drawn.at(wide / 2, y)[0] / high;
    least = std::min(least, mean);
    most = std::max(most, mean);
  }
  CHECK(most > least);
}

TEST_CASE_METHOD(TestDevice,
                 "accumulation takes pictures of any size, and a pixel that is no number goes when it does") {
  for (const auto& [width, height] : {std::pair(1, 1), std::pair(17, 9)}) {
    OverTime over_time(device, yard(true), {}, width, height);
    for (int i = 0; i < 3; ++i) CHECK(std::isfinite(over_time.run(0.1 * i).at(0, 0)[0]));
  }
  const auto scene = yard(true);
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f}),
                     depth = frame.target("depth", {.format = Format::depth32f});
  const TargetHandle velocity = frame.target("velocity", {.format = Format::rg32f}),
                     steady = frame.target("steady", {.format = Format::rgba32f});
  frame.keep(steady);
  frame.add(passes::forward(
      {.scene = scene, .view = "front", .color = frame.target("drawn", {.format = Format::rgba32f}), .depth = depth}));
  frame.add(
      fill("spoilt", "frame.time < 0.05 && gl_FragCoord.x < 20.0 ? vec4(sqrt(-uv.y)) : vec4(0.5)", {.target = color}));
  frame.add(passes::velocity({.scene = scene, .view = "front", .depth = depth, .velocity = velocity}));
  frame.add(passes::accumulate({.scene = scene,
                                .view = "front",
                                .from = color,
                                .velocity = velocity,
                                .depth = depth,
                                .color = steady,
                                .count = frame.target("count", {.format = Format::r16f})}));
  gl::FrameRunner runner(device, planned(frame, device, wide, high));
  for (int i = 0; i < 12; ++i) {
    runner.run(0.02 * i);
    const Image image = runner.read("steady");
    for (int x = 0; x < wide; ++x) CHECK(std::isfinite(image.at(x, 30)[0]));
  }
  CHECK(runner.read("steady").at(4, 30)[0] == Approx(0.5).margin(0.01));
}

TEST_CASE("accumulation wants motions since the frame before, of its own view") {
  const auto scene = yard(true);
  auto viewed = std::make_shared<Scene>(*scene);
  viewed->add_view({"side", Camera{}});
  for (const char* const view : {"front", "side"}) {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba16f}),
                       depth = frame.target("depth", {.format = Format::depth32f});
    const TargetHandle velocity = frame.target("velocity", {.format = Format::rg16f}),
                       steady = frame.target("steady", {.format = Format::rgba16f});
    frame.keep(steady);
    frame.add(passes::forward({.scene = viewed, .view = view, .color = color, .depth = depth}));
    frame.add(
        passes::velocity({.scene = viewed, .view = view, .seconds = 0.04f, .depth = depth, .velocity = velocity}));
    frame.add(passes::accumulate({.scene = viewed,
                                  .view = "front",
                                  .from = color,
                                  .velocity = velocity,
                                  .depth = depth,
                                  .color = steady,
                                  .count = frame.target("count", {.format = Format::r16f})}));
    CHECK_THAT(to_text(frame.plan(wide, high).diagnostics()),
               Catch::Contains(view == std::string("front") ? "other-interval" : "other-view"));
  }
}

TEST_CASE_METHOD(TestDevice, "jitter does not draw shadows anew") {
  const auto scene = yard(false);
  OverTime over_time(device, scene, {});
  FrameGraph frame = over_time.frame;
  const TargetHandle map = frame.target(
      "map",
      {.format = Format::depth32f, .size = TargetSize::pixels(256, 256), .layers = 2, .shape = TargetShape::array});
  frame.keep(map);
  frame.add(
      passes::shadow_map({.scene = scene, .light = "sun", .depth = map, .cascades = 2, .view = "front", .reach = 20}));
  gl::FrameRunner runner(device, planned(frame, device, wide, high));
  std::size_t pass = 0;
  while (runner.plan().passes()[pass].kind != "shadow_map") ++pass;
  runner.run(0);
  CHECK(runner.counts(pass).draw_calls > 0);
  for (int i = 1; i < 4; ++i) {
    runner.run(i / 60.0);
    CHECK(runner.counts(pass).draw_calls == 0);
  }
}
