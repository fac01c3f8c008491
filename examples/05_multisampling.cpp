// One, two and four samples a pixel at oblique edges, enlarged: the same as 05_multisampling.toml, which says the
// scene.
//   build/release/examples/example_05_multisampling edges.png [05_multisampling.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/05_multisampling.toml").scene;

  FrameGraph frame;
  std::vector<Read> pictures;
  for (const auto& [name, samples] : {std::pair{"one", 1}, std::pair{"two", 2}, std::pair{"four", 4}}) {
    const auto size = TargetSize::pixels(50, 80);
    auto color = frame.target(name, {.size = size, .samples = samples, .clear_color = {0.42f, 0.55f, 0.72f, 1}});
    auto depth = frame.target(std::string(name) + ".depth", {.format = Format::depth32f, .size = size});
    frame.add(passes::forward({.name = std::string(name) + " at a pixel",
                               .scene = scene,
                               .view = "close",
                               .lights = {"sun", "sky"},
                               .color = color,
                               .depth = depth}));
    pictures.push_back({name, color});
  }
  frame.add(
      passes::fullscreen({.name = "enlarge",
                          .shader = gl::ShaderText::file("examples/shaders/05_enlarge.frag", passes::pass_shaders()),
                          .reads = pictures,
                          .writes = {{"color", frame.output()}}}));

  auto device = gl::Device::headless();
  const PlanResult planned = frame.plan(1200, 640, device.limits());
  std::printf("%s", to_text(planned.diagnostics()).c_str());  // says which counts the device gives
  gl::FrameRunner runner(device, planned.value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "edges.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
