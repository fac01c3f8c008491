// A light's shadow map, and a pass that asks it: the same as 15_first_shadow_map.toml, which says the scene.
//   build/release/examples/example_15_first_shadow_map shadows.png [15_first_shadow_map.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/15_first_shadow_map.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "quay", .environment = "day"};
  const auto sun = frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(2048, 2048)});
  const auto color = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::shadow_map(lock, {.light = "sun", .without_tags = {"ground", "rope"}, .depth = sun}));
  frame.add(passes::sky(lock, {.color = color}));
  frame.add(passes::forward(lock, {.shadows = {sun}, .without_receivers = {"board"}, .color = color, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 13.6f, .light = color, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 675, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "shadows.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
