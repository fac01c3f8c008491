// Twenty thousand objects in a handful of draw calls, and what became of them: the same as 10_instances.toml.
//   build/release/examples/example_10_instances bed.png [10_instances.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/10_instances.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "bed", .environment = "dusk"};
  const auto sun = frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(4096, 4096)});
  const auto color = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::shadow_map(lock, {.light = "sun", .without_tags = {"ground"}, .depth = sun}));
  frame.add(passes::sky(lock, {.color = color}));
  frame.add(passes::forward(lock, {.name = "bed", .shadows = {sun}, .color = color, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.6f, .light = color, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 675, device.limits()).value());
  runner.run(0);
  std::printf("%s\n%s", inspect::counts_text(runner).c_str(), inspect::batches_text(runner).c_str());
  write_png(runner.read("output"), argc > 1 ? argv[1] : "bed.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
