// Low fog along a path: the same as 09_fog.toml, which says the scene.
//   build/release/examples/example_09_fog fog.png [09_fog.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/09_fog.toml").scene;

  FrameGraph frame;
  const auto color = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::sky({.scene = scene, .view = "path", .environment = "dusk", .fog = "low", .color = color}));
  frame.add(passes::forward(
      {.scene = scene, .view = "path", .environment = "dusk", .fog = "low", .color = color, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 9.9f, .light = color, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 600, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "fog.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
