// A lens that is focused on the balance beam. The same as 27_depth_of_field.toml, which says the scene.
//   build/release/examples/example_27_depth_of_field lens.png [27_depth_of_field.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/27_depth_of_field.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "day"};
  const auto light = frame.target("scene.color", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("scene.depth", {.format = Format::depth32f});
  const auto lens = frame.target("scene.lens", {.format = Format::rgba16f});

  frame.add(passes::sky(lock, {.color = light}));
  frame.add(passes::forward(lock, {.lights = {"noon sun"}, .color = light, .depth = depth}));
  frame.add(passes::depth_of_field(
      lock, {.name = "lens", .focus_distance = 9, .f_number = 0.2f, .light = light, .depth = depth, .color = lens}));
  frame.add(passes::tone_map({.exposure_ev100 = 13.5f, .light = lens, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "lens.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
