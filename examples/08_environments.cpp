// The same kettle under three skies: the same as 08_environments.toml, which says the scene.
//   build/release/examples/example_08_environments environments.png [08_environments.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/08_environments.toml").scene;

  FrameGraph frame;
  std::vector<TargetHandle> pictures;
  const auto third = TargetSize::pixels(400, 600);
  for (const auto& [sky, ev100] : {std::pair{"day", 12.6f}, std::pair{"dusk", 10.0f}, std::pair{"night", 0.4f}}) {
    const std::string name = sky;
    const auto color = frame.target(name, {.format = Format::rgba16f, .size = third, .samples = 4});
    const auto depth = frame.target(name + ".depth", {.format = Format::depth32f, .size = third});
    pictures.push_back(frame.target(name + ".picture", {.format = Format::rgba8_srgb, .size = third}));
    frame.add(
        passes::sky({.name = name + " sky", .scene = scene, .view = "front", .environment = name, .color = color}));
    frame.add(passes::forward(
        {.name = "by " + name, .scene = scene, .view = "front", .environment = name, .color = color, .depth = depth}));
    frame.add(passes::tone_map(
        {.name = "develop " + name, .exposure_ev100 = ev100, .light = color, .color = pictures.back()}));
  }
  frame.add(passes::fullscreen(
      {.name = "side by side",
       .shader = gl::ShaderText::file("examples/shaders/08_side_by_side.frag", passes::pass_shaders()),
       .reads = {{"first", pictures[0]}, {"second", pictures[1]}, {"third", pictures[2]}},
       .writes = {{"color", frame.output()}}}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 600, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "environments.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
