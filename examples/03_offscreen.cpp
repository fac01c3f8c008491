// A scene drawn into a small target with four samples, which a screen in the scene then shows: the same as
// 03_offscreen.toml, which says the scene.
//   build/release/examples/example_03_offscreen offscreen.png [03_offscreen.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/03_offscreen.toml").scene;

  FrameGraph frame;
  frame.set_background({0.05f, 0.07f, 0.1f, 1});
  const auto size = TargetSize::pixels(320, 200);
  auto small = frame.target(
      "small.color", {.format = Format::rgba16f, .size = size, .samples = 4, .clear_color = {0.10f, 0.16f, 0.24f, 1}});
  auto small_depth = frame.target("small.depth", {.format = Format::depth32f, .size = size});  // as many samples
  auto depth = frame.target("depth", {.format = Format::depth32f, .samples = 4});  // and so the output has four, too
  frame.add(passes::forward({.name = "from above",
                             .scene = scene,
                             .view = "above",
                             .lights = {"lamp", "room"},
                             .color = small,
                             .depth = small_depth}));
  frame.add(passes::forward({.name = "room",
                             .scene = scene,
                             .view = "room",
                             .lights = {"lamp", "room"},
                             .color = frame.output(),
                             .depth = depth,
                             .reads = {{"camera", small}}}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(960, 600, device.limits()).value());
  runner.run(0);
  for (const PlannedPass& pass : runner.plan().passes()) std::printf("%s (%s)\n", pass.name.c_str(), pass.kind.c_str());
  write_png(runner.read("output"), argc > 1 ? argv[1] : "offscreen.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
