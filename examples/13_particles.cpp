// Willow down, sparks, and a sparkler that is waved, a draw call for each cloud: the same as 13_particles.toml, which
// holds the view.
//   build/release/examples/example_13_particles down.png [13_particles.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

namespace {

ParticleCloud willow_down() {
  return {.count = 6000,
          .life = 18,
          .from_low = {-16, 0.3f, -30},
          .from_high = {14, 7, 26},
          .velocity_spread = {0.2f, 0.1f, 0.2f},
          .gravity = {0, -0.35f, 0},
          .wind = {0.5f, 0.1f, -0.2f},
          .drag = 4,
          .gust = 0.35f,
          .gust_size = 5,
          .bounds_low = {-40, 0.2f, -60},
          .bounds_high = {40, 12, 60}};
}

ParticleCloud sparks() {
  return {.count = 90,
          .seed = 7,
          .life = 2.4f,
          .from_low = {-9, 6.7f, 1.45f},
          .from_high = {-8.7f, 6.75f, 1.75f},
          .velocity = {0, 1.6f, 0},
          .velocity_spread = {0.3f, 0.5f, 0.3f},
          .gravity = {0, 0.6f, 0},
          .wind = {0.8f, 0, -0.2f},
          .drag = 1.5f,
          .gust = 0.9f,
          .gust_size = 1.2f,
          .gust_seconds = 2};
}

/// What is in the air stays behind its path; it burns for 9 of 12 seconds.
ParticleCloud sparkler() {
  return {.count = 1500,
          .seed = 3,
          .life = 1.5f,
          .velocity_spread = {0.35f, 0.35f, 0.35f},
          .gravity = {0, -1.6f, 0},
          .drag = 2,
          .path = Curve(
              {{0, {-3.2, 2.3, 5}}, {0.5, {-1.6, 3.6, 5}}, {1, {0, 2.3, 5}}, {1.5, {-1.6, 3, 5}}, {2, {-3.2, 2.3, 5}}},
              {.count = 3, .ease = Curve::Ease::cubic, .repeats = true}),
          .emission = Curve({{0, {1}}, {9, {0}}, {12, {1}}}, {.ease = Curve::Ease::step, .repeats = true}),
          .inherit_velocity = 0.15f};
}

}  // namespace

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/13_particles.toml").scene;
  const auto tuft = std::make_shared<Image>(read_image("demo/generated/down.png"));

  FrameGraph frame;
  const auto light = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::sky({.scene = scene, .view = "evening", .environment = "dusk", .color = light}));
  frame.add(passes::forward(
      {.scene = scene, .view = "evening", .lights = {"sun"}, .environment = "dusk", .color = light, .depth = depth}));
  frame.add(passes::particles({.name = "willow down",
                               .scene = scene,
                               .view = "evening",
                               .cloud = willow_down(),
                               .picture = tuft,
                               .size = 0.05f,
                               .size_spread = 0.6f,
                               .spin = radians(60),
                               .fade_seconds = 2,
                               .tint = {2600, 2000, 1400},
                               .fade_near = 0.1f,
                               .color = light,
                               .surfaces = depth}));
  frame.add(passes::particles({.name = "sparks",
                               .scene = scene,
                               .view = "evening",
                               .cloud = sparks(),
                               .size = 4,
                               .in_pixels = true,
                               .size_spread = 0.4f,
                               .fade_seconds = 0.7f,
                               .tint = {16000, 4200, 700},
                               .adds = true,
                               .color = light,
                               .surfaces = depth}));
  frame.add(passes::particles({.name = "sparkler",
                               .scene = scene,
                               .view = "evening",
                               .cloud = sparkler(),
                               .size = 3,
                               .in_pixels = true,
                               .size_spread = 0.5f,
                               .fade_seconds = 0.5f,
                               .tint = {15000, 6500, 1800},
                               .adds = true,
                               .color = light,
                               .surfaces = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 11, .light = light, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 675, device.limits()).value());
  runner.run(20);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "down.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
