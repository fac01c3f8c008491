// Four shadow maps that share out what the view sees: the same as 17_cascades.toml, which says the light.
//   build/release/examples/example_17_cascades cascades.png [17_cascades.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/17_cascades.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "day", .fog = "morning haze"};
  const auto sun = frame.target(
      "sun.depth",
      {.format = Format::depth32f, .size = TargetSize::pixels(1024, 1024), .layers = 4, .shape = TargetShape::array});
  const auto color = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::shadow_map(lock, {.light = "low sun",
                                      .without_tags = {"ground"},
                                      .variant = "day",
                                      .depth = sun,
                                      .cascades = 4,
                                      .reach = 90,
                                      .radius = 2}));
  frame.add(passes::sky(lock, {.color = color}));
  frame.add(passes::forward(
      lock, {.lights = {"low sun"}, .variant = "day", .shadows = {sun}, .color = color, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 13.5f, .light = color, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "cascades.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
