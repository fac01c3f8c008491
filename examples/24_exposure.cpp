// A meter finds the exposure, and a curve bends what is too bright. The same as 24_exposure.toml, which says the scene.
//   build/release/examples/example_24_exposure exposed.png [24_exposure.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/24_exposure.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "night"};
  const auto light = frame.target("scene.color", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("scene.depth", {.format = Format::depth32f});
  const auto exposure = frame.target("exposure", {.format = Format::rgba32f, .size = TargetSize::pixels(1, 1)});

  frame.add(passes::sky(lock, {.color = light}));
  frame.add(passes::forward(lock, {.lights = {"moon", "lamps"}, .variant = "night", .color = light, .depth = depth}));
  frame.add(passes::meter({.light = light, .exposure = exposure}));
  frame.add(passes::tone_map({.compensation_ev = -1,
                              .curve = passes::ToneCurve::aces,
                              .dither = true,
                              .light = light,
                              .exposure = exposure,
                              .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "exposed.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
