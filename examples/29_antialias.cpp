// A finished picture of one sample a pixel whose edges are smoothed by their shapes: the way that 29_antialias.toml
// takes unless it is told another; it says the scene, too.
//   build/release/examples/example_29_antialias smooth.png [29_antialias.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/29_antialias.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "day"};
  const auto light = frame.target("color", {.format = Format::rgba16f});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto picture = frame.target("picture", {.format = Format::rgba16f});

  frame.add(passes::sky(lock, {.color = light}));
  frame.add(passes::forward(lock, {.lights = {"noon sun"}, .color = light, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 13.5f, .light = light, .color = picture}));
  frame.add(passes::smooth_edges({.way = passes::EdgeWay::shapes, .from = picture, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "smooth.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
