// Objects that the device culls, from a camera that walks along a wall: the same as 14_culling_on_the_device.toml.
//   build/release/examples/example_14_culling_on_the_device ruin.png [14_culling_on_the_device.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/14_culling_on_the_device.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "walker", .environment = "dusk"};
  const auto sun = frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(4096, 4096)});
  const auto color = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::shadow_map(lock, {.light = "sun", .without_tags = {"ground"}, .depth = sun}));
  frame.add(passes::sky(lock, {.color = color}));
  frame.add(passes::forward(
      lock, {.name = "bed", .shadows = {sun}, .culling = batch::Culling::device, .color = color, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.6f, .light = color, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 675, device.limits()).value());
  // What was seen in one frame hides others in the next.
  for (const double seconds : {2.9, 2.95, 3.0}) {
    runner.run(seconds);
    std::printf("at %.2f s, %llu objects are drawn, and %llu left out\n", seconds,
                static_cast<unsigned long long>(runner.counts().instances),
                static_cast<unsigned long long>(runner.counts().culled));
  }
  write_png(runner.read("output"), argc > 1 ? argv[1] : "ruin.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
