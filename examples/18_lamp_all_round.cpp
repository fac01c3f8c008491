// A point light that casts shadows to all sides: the same as 18_lamp_all_round.toml, which says what stands around it.
//   build/release/examples/example_18_lamp_all_round lamp.png [18_lamp_all_round.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/18_lamp_all_round.toml").scene;

  FrameGraph frame;
  frame.set_background({0.002f, 0.003f, 0.005f, 1});
  const auto sides = frame.target(
      "lamp.depth",
      {.format = Format::depth32f, .size = TargetSize::pixels(1024, 1024), .layers = 6, .shape = TargetShape::array});
  const auto color = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(
      passes::shadow_map({.scene = scene, .light = "lamp", .without_tags = {"glass"}, .depth = sides, .radius = 2}));
  frame.add(passes::forward({.scene = scene,
                             .view = "door",
                             .lights = {"lamp", "dusk"},
                             .shadows = {sides},
                             .color = color,
                             .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 1.3f, .light = color, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 675, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "lamp.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
