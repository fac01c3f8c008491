#include "gl/device.h"
#include "passes/rendering.h"

#include <periscena/passes/particles.h>

#include <cmath>

using namespace periscena;
using passes::Particles;

namespace {

constexpr int width = 320, height = 200;
constexpr float half_height = 5;  // metres on the picture

std::shared_ptr<Scene> scene_with_view() {
  auto scene = std::make_shared<Scene>();
  Camera camera;
  camera.eye = {0, 0, 20};
  camera.parallel_height = 2 * half_height;
  camera.near = 1;
  camera.far = 60;
  scene->add_view({"front", camera});
  return scene;
}

/// In air that swirls, over a few lives.
Particles drift(std::uint32_t count) {
  Particles options;
  options.scene = scene_with_view();
  options.view = "front";
  ParticleCloud& cloud = options.cloud;
  cloud.count = count;
  cloud.life = 3;
  cloud.from_low = {-6, -4, -3};
  cloud.from_high = {6, 4, 3};
  cloud.velocity_spread = {0.5f, 0.5f, 0.5f};
  cloud.gravity = {0, -0.4f, 0};
  cloud.wind = {0.6f, 0, 0.2f};
  cloud.drag = 2;
  cloud.gust = 0.4f;
  cloud.bounds_low = {-7, -4.5f, -8};
  cloud.bounds_high = {7, 5, 8};
  options.size = 0.2f;
  options.fade_seconds = 0.4f;
  options.spin = 1;
  options.adds = true;
  return options;
}

class Stage {
 public:
  Stage(gl::Device& device, Particles options) {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    frame.keep(color);
    options.color = color;
    frame.add(passes::particles(options));
    runner_.emplace(device, frame.plan(width, height, device.limits()).value());
  }
  Image at(double seconds) {
    runner_->run(seconds);
    return runner_->read("color");
  }
  gl::FrameRunner& runner() { return *runner_; }

 private:
  std::optional<gl::FrameRunner> runner_;
};

/// What the formulas on the CPU make of a cloud of spots that add.
std::vector<double> expected(const Particles& options, double seconds) {
  const ParticleCloud& cloud = options.cloud;
  const std::int64_t step = cloud.step_at(seconds);
  const auto past = static_cast<float>(seconds - static_cast<double>(step) / cloud.steps_a_second);
  const float part = past * cloud.steps_a_second, fade = options.fade_seconds * cloud.steps_a_second;
  const float scale = static_cast<float>(height) / (2 * half_height), radius = 0.5f * options.size * scale;
  std::vector<double> picture(width * height);
  for (const Particle& one : cloud.after_step(step)) {
    if (!one.alive) continue;
    const float age = static_cast<float>(one.age) + part, left = static_cast<float>(one.left) - part;
    const float shown = std::clamp(std::min(age, left) / fade, 0.0f, 1.0f);
    const Vec3 place = one.position + past * one.velocity;
    const Vec2 pixel(width / 2.0f + place.x() * scale, height / 2.0f - place.y() * scale);
    const auto from_x = static_cast<int>(pixel.x() - radius), from_y = static_cast<int>(pixel.y() - radius);
    for (int y = std::max(0, from_y); y <= std::min(height - 1, static_cast<int>(pixel.y() + radius)); ++y) {
      for (int x = std::max(0, from_x); x <= std::min(width - 1, static_cast<int>(pixel.x() + radius)); ++x) {
        const Vec2 away = (Vec2(static_cast<float>(x) + 0.5f, static_cast<float>(y) + 0.5f) - pixel) / radius;
        const float spot = std::max(0.0f, 1 - away.squared_norm());
        picture[static_cast<std::size_t>(y * width + x)] += shown * spot * spot;
      }
    }
  }
  return picture;
}

/// @return mean absolute difference over the mean, and the largest one
std::pair<double, double> difference(const Image& found, const std::vector<double>& wanted) {
  double apart = 0, sum = 0, worst = 0;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const double value = wanted[static_cast<std::size_t>(y * width + x)];
      const double off = std::abs(found.at(x, y)[0] - value);
      apart += off;
      sum += value;
      worst = std::max(worst, off);
    }
  }
  REQUIRE(sum > 100);
  return {apart / sum, worst};
}

}  // namespace

namespace {

/// Steps on, stands still, leaps ahead over more than a life, and goes back, to before time 0 as well.
void follows_the_cpu(gl::Device& device, const Particles& options) {
  Stage stage(device, options);
  for (const double seconds : {0.0, 0.02, 0.05, 1.0, 1.0, 1.6, 1.7, 3.9, 4.0, 1000.4, 2.5, -7.3, 0.05}) {
    CAPTURE(seconds);
    const Image found = stage.at(seconds);
    const auto [mean, worst] = difference(found, expected(options, seconds));
    CHECK(mean < 1e-3);
    CHECK(worst < 0.02);
    CHECK(stage.runner().counts().draw_calls == 1);
    Stage fresh(device, options);
    CHECK(fresh.at(seconds) == found);
  }
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "particles are where the same formulas on the CPU put them, whatever was asked before") {
  follows_the_cpu(device, drift(3000));
}

TEST_CASE_METHOD(TestDevice, "emitters that move, start and stop are those of the CPU, whatever was asked before") {
  Particles options = drift(3000);
  options.cloud.bounds_low = {-9, -9, -9};
  options.cloud.bounds_high = {9, 9, 9};
  options.cloud.from_low = {-1, -1, -1};
  options.cloud.from_high = {1, 1, 1};
  options.cloud.path = Curve({{0, {-4, 0, 0}}, {2, {4, 1, 0}}, {5, {-4, -1, 0}}}, {.count = 3, .repeats = true});
  options.cloud.emission = Curve({{0, {1}}, {1.5, {0}}, {2.5, {0.4}}, {7, {1}}}, {.ease = Curve::Ease::step});
  options.cloud.inherit_velocity = 0.7f;
  follows_the_cpu(device, options);
  // All that was in the air has gone, a life after a stop.
  options.cloud.emission = Curve({{0, {1}}, {1, {0}}}, {.ease = Curve::Ease::step});
  Stage stopped(device, options);
  const Image empty = stopped.at(4.1);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) REQUIRE(empty.at(x, y)[0] == 0);
}

TEST_CASE_METHOD(TestDevice, "an emitter that a program moves, starts and stops leaves what it would have left") {
  Particles options = drift(2000);
  options.cloud.path = Curve::constant({}, 3);
  options.cloud.emission = Curve({{0, {1}}}, {.ease = Curve::Ease::step});
  options.cloud.bounds_low = {-12, -12, -12};
  options.cloud.bounds_high = {12, 12, 12};
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
  frame.keep(color);
  options.color = color;
  frame.add(passes::particles(options));
  gl::FrameRunner runner(device, frame.plan(width, height, device.limits()).value());
  passes::Live<Particles> live(frame, options.name);
  ParticleCloud whole = options.cloud;
  for (int i = 1; i <= 90; ++i) {
    const double seconds = 0.07 * i;
    const Curve::Key at{seconds, {4 * std::sin(seconds), 2 * std::cos(2 * seconds), 0}};
    const bool switches = i % 20 == 0;
    const double emission = i % 40 == 0 ? 1 : 0;
    whole.path.add(at);
    if (switches) whole.emission.add({seconds, {emission}});
    live.change([&](Particles& one) {
      one.cloud.path.add(at);
      one.cloud.path.forget_before(seconds - one.cloud.life - 0.1);
      if (switches) one.cloud.emission.add({seconds, {emission}});
    });
    runner.run(seconds);
    if (i % 15 != 0) continue;
    Particles said = options;
    said.cloud = whole;
    CHECK(runner.read("color") == Stage(device, said).at(seconds));
    CHECK(difference(runner.read("color"), expected(said, seconds)).first < 1e-3);
  }
  // A past that is another one, and a life that is.
  for (const double life : {3.0, 2.0}) {
    live.change([&](Particles& one) {
      one.cloud.path = Curve::constant({1, 2, 0}, 3);
      one.cloud.life = static_cast<float>(life);
    });
    runner.run(6.4);
    CHECK(runner.read("color") == Stage(device, live.get()).at(6.4));
  }
}

TEST_CASE_METHOD(TestDevice, "two hundred thousand particles are one call, and follow the formulas") {
  Particles options = drift(200'000);
  options.cloud.life = 1;
  options.size = 0.1f;
  options.fade_seconds = 0.1f;
  Stage stage(device, options);
  stage.at(2.9);
  const Image found = stage.at(3.25);
  CHECK(stage.runner().counts().draw_calls == 1);
  CHECK(stage.runner().counts().triangles == 400'000);
  CHECK(difference(found, expected(options, 3.25)).first < 2e-3);
}

TEST_CASE_METHOD(TestDevice, "particles are hidden behind surfaces, and fade out before them") {
  Particles options = drift(1);
  auto scene = std::make_shared<Scene>(*options.scene);
  const MeshHandle wall = scene->add_mesh("wall", shapes::box({20, 20, 1}));
  Node node;
  node.mesh = wall;
  node.material = scene->add_material({.name = "white"});
  node.placement = Transform::translate(Vec3(0, 0, -0.5f));
  scene->add_node(node);
  options.scene = scene;
  options.cloud = {};
  options.cloud.count = 1;
  options.cloud.gravity = Vec3::zero();
  options.size = 2;
  options.fade_seconds = 0;
  options.fade_near = 0.8f;
  const auto brightness = [&](float z, bool fades) {
    options.cloud.from_low = options.cloud.from_high = Vec3(0, 0, z);
    FrameGraph frame;
    const TargetHandle light = frame.target("light", {.format = Format::rgba32f});
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    const TargetHandle depth = frame.target("depth", {.format = Format::depth32f});
    frame.keep(color);
    frame.keep(light);
    frame.add(passes::forward({.scene = scene, .view = "front", .color = light, .depth = depth}));
    Particles own = options;
    own.color = color;
    (fades ? own.surfaces : own.depth) = depth;
    frame.add(passes::particles(own));
    gl::FrameRunner runner(device, frame.plan(width, height, device.limits()).value());
    runner.run(0.5);
    return runner.read("color").at(width / 2, height / 2)[0];
  };
  const double full = brightness(2, false);
  CHECK(full > 0.99);
  CHECK(brightness(-0.1f, false) == 0);
  CHECK(brightness(0.1f, false) == full);
  CHECK(brightness(2, true) == Approx(full));
  CHECK(brightness(0.6f, true) == Approx(0.75 * full).epsilon(1e-3));
  CHECK(brightness(0.2f, true) == Approx(0.25 * full).epsilon(1e-3));
  CHECK(brightness(-0.2f, true) == 0);
}

TEST_CASE_METHOD(TestDevice, "particles show a picture, cover what is below, and keep sizes in pixels") {
  Particles options = drift(1);
  auto picture = std::make_shared<Image>(2, 2, Format::rgba8_srgb);
  for (int y = 0; y < 2; ++y) {
    for (int x = 0; x < 2; ++x) picture->set(x, y, {255, 255, 255, 255});
  }
  options.cloud = {};
  options.cloud.count = 1;
  options.cloud.gravity = Vec3::zero();
  options.picture = picture;
  options.in_pixels = true;
  options.size = 40;
  options.fade_seconds = 0;
  options.adds = false;
  options.tint = {0.25f, 0.5f, 1};
  options.alpha = 0.5f;
  const Image found = Stage(device, options).at(0);
  double area = 0;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) area += found.at(x, y)[3] / 0.5;
  }
  CHECK(area == Approx(1600).epsilon(0.03));  // turned, so that edges cut pixels
  const auto middle = found.at(width / 2, height / 2);
  CHECK(middle[0] == Approx(0.125));
  CHECK(middle[2] == Approx(0.5));
  CHECK(middle[3] == Approx(0.5));
}

TEST_CASE("particles that can't be drawn are told by the plan") {
  const auto slugs = [](auto change) {
    Particles options = drift(10);
    change(options);
    FrameGraph frame;
    options.color = frame.output();
    frame.add(passes::particles(options));
    std::vector<std::string> found;
    for (const Diagnostic& one : frame.plan(64, 64).diagnostics()) found.push_back(one.slug);
    return found;
  };
  using Slugs = std::vector<std::string>;
  CHECK(slugs([](Particles&) {}) == Slugs{});
  CHECK(slugs([](Particles& p) { p.view = "fornt"; }) == Slugs{"unknown-view"});
  CHECK(slugs([](Particles& p) { p.cloud.count = 0; }) == Slugs{"out-of-range"});
  CHECK(slugs([](Particles& p) { p.size = NAN; }) == Slugs{"not-finite"});
  CHECK(slugs([](Particles& p) { p.size_spread = 2; }) == Slugs{"out-of-range"});
  CHECK(slugs([](Particles& p) { p.picture = std::make_shared<Image>(2, 2, Format::rgba32f); }) ==
        Slugs{"image-format"});
  CHECK(slugs([](Particles& p) { p.scene = nullptr; }) == Slugs{"no-scene"});
  CHECK(slugs([](Particles& p) { p.cloud.emission = Curve::constant({2}); }) == Slugs{"out-of-range"});
  CHECK(slugs([](Particles& p) { p.cloud.path = Curve::constant({2}); }) == Slugs{"bad-particles"});
}
