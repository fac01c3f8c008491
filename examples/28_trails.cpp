// Light trails that fade at the same pace at any frame rate. The same as 28_trails.toml, which says the scene.
//   build/release/examples/example_28_trails trails.png [28_trails.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/28_trails.toml").scene;

  FrameGraph frame;
  const auto light = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto trails = frame.target("trails", {.format = Format::rgba16f});
  const auto glowing = frame.target("glowing", {.format = Format::rgba16f});

  frame.add(passes::forward({.scene = scene, .view = "front", .lights = {"sky"}, .color = light, .depth = depth}));
  frame.add(passes::trails({.seconds = 0.4f, .from = light, .color = trails}));
  frame.add(passes::bloom({.strength = 0.25f, .light = trails, .color = glowing}));
  frame.add(passes::tone_map({.exposure_ev100 = 9, .light = glowing, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(800, 500, device.limits()).value());
  runner.run_settled(4, 48, 48);  // four seconds in, after 48 frames
  write_png(runner.read("output"), argc > 1 ? argv[1] : "trails.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
