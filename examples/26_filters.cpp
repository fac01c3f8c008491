// A chain of filters that plan() makes one pass of. The same as 26_filters.toml, which says the scene.
//   build/release/examples/example_26_filters look.png [26_filters.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/26_filters.toml").scene;

  FrameGraph frame;
  const auto light = frame.target("scene.color", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("scene.depth", {.format = Format::depth32f});
  std::vector<TargetHandle> picture;
  for (int i = 0; i < 5; ++i)
    picture.push_back(frame.target("picture." + std::to_string(i), {.format = Format::rgba16f}));

  frame.add(passes::sky({.scene = scene, .view = "towpath", .environment = "dusk", .color = light}));
  frame.add(passes::forward(
      {.scene = scene, .view = "towpath", .lights = {"sun"}, .environment = "dusk", .color = light, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.2f, .light = light, .color = picture[0]}));
  frame.add(passes::fringe({.name = "lens", .strength = 0.004f, .from = picture[0], .color = picture[1]}));
  frame.add(passes::color_table(
      {.name = "look", .file = "examples/26_evening.cube", .strength = 0.6f, .from = picture[1], .color = picture[2]}));
  frame.add(passes::grade(
      {.name = "warm", .gain = {1.05f, 1, 0.96f}, .saturation = 1.1f, .from = picture[2], .color = picture[3]}));
  frame.add(passes::vignette({.name = "corners", .strength = 0.45f, .from = picture[3], .color = picture[4]}));
  frame.add(passes::grain({.name = "film", .strength = 0.025f, .from = picture[4], .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "look.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
