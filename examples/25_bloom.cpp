// A share of the light spreads around what is bright, and the mean of the picture stays. The same as 25_bloom.toml,
// which says the scene.
//   build/release/examples/example_25_bloom glow.png [25_bloom.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/25_bloom.toml").scene;

  FrameGraph frame;
  const auto light = frame.target("scene.color", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("scene.depth", {.format = Format::depth32f});
  const auto glowing = frame.target("scene.glowing", {.format = Format::rgba16f});

  frame.add(passes::sky({.scene = scene, .view = "towpath", .environment = "dusk", .color = light}));
  frame.add(passes::forward(
      {.scene = scene, .view = "towpath", .lights = {"sun"}, .environment = "dusk", .color = light, .depth = depth}));
  frame.add(passes::bloom({.name = "glow", .strength = 0.15f, .radius = 0.12f, .light = light, .color = glowing}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.2f, .light = glowing, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "glow.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
