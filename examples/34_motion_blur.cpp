// What moves while a shutter is open is smeared along its way. The same as 34_motion_blur.toml, which says the scene.
//   build/release/examples/example_34_motion_blur moved.png [34_motion_blur.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/34_motion_blur.toml").scene;

  FrameGraph frame;
  const auto light = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto velocity = frame.target("velocity", {.format = Format::rg16f});
  const auto moved = frame.target("moved", {.format = Format::rgba16f});
  const auto glowing = frame.target("glowing", {.format = Format::rgba16f});

  frame.add(passes::sky({.scene = scene, .view = "gliding", .environment = "dusk", .color = light}));
  frame.add(passes::forward(
      {.scene = scene, .view = "gliding", .lights = {"sun"}, .environment = "dusk", .color = light, .depth = depth}));
  // How far all has come within a twenty-fifth of a second; the shutter is open for half of it.
  frame.add(
      passes::velocity({.scene = scene, .view = "gliding", .seconds = 0.04f, .depth = depth, .velocity = velocity}));
  frame.add(passes::motion_blur({.scene = scene,
                                 .view = "gliding",
                                 .shutter = 0.5f,
                                 .light = light,
                                 .velocity = velocity,
                                 .depth = depth,
                                 .color = moved}));
  frame.add(passes::bloom({.name = "glow", .strength = 0.1f, .light = moved, .color = glowing}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.2f, .light = glowing, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(3);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "moved.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
