// Stepping stones that are no triangles: GLSL says how far it is to them. The same as 30_distance_field.toml, which
// says the scene.
//   build/release/examples/example_30_distance_field stones.png [30_distance_field.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/30_distance_field.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "day"};
  const auto light = frame.target("scene.color", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("scene.depth", {.format = Format::depth32f});

  frame.add(passes::sky(lock, {.color = light}));
  frame.add(passes::forward(lock, {.lights = {"noon sun"}, .color = light, .depth = depth}));
  frame.add(passes::distance_field(
      lock, {.name = "stones",
             .shader = gl::ShaderText::file("examples/shaders/30_stones.frag", passes::pass_shaders()),
             .lights = {"noon sun"},
             .lowest = {2.5f, 0.7f, 10},
             .highest = {6, 1.5f, 17},
             .color = light,
             .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 13.5f, .light = light, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "stones.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
