// Which object is at a pixel, without waiting for the device: the same frame as 23_picking.toml, which says the scene.
//   build/release/examples/example_23_picking picture.png [23_picking.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/23_picking.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "day", .fog = "morning haze"};
  const auto light = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto ids = frame.target("object.ids", {.format = Format::r32ui});
  const auto ids_depth = frame.target("object.depth", {.format = Format::depth32f});
  frame.keep(ids);

  frame.add(passes::sky(lock, {.color = light}));
  frame.add(passes::forward(lock, {.lights = {"noon sun"}, .variant = "day", .color = light, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 13.5f, .light = light, .color = frame.output()}));
  frame.add(passes::geometry(
      lock, {.name = "numbers", .without_tags = {"ground"}, .variant = "day", .id = ids, .depth = ids_depth}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  passes::Picker picker(scene);
  const int pixels[][2] = {{360, 300}, {700, 270}, {1200, 400}, {640, 60}, {740, 600}};
  std::size_t asked = 0, answered = 0;
  while (answered < std::size(pixels)) {
    runner.run(0);
    if (asked < std::size(pixels) && picker.ask(runner, "object.ids", pixels[asked][0], pixels[asked][1])) ++asked;
    while (const auto picked = picker.answer()) {
      const auto& pixel = pixels[answered++];
      const char* name = picked->name.empty() ? "something without a name" : picked->name.c_str();
      std::printf("%d, %d: %s\n", pixel[0], pixel[1], picked->node.valid() ? name : "nothing to pick");
    }
  }
  write_png(runner.read("output"), argc > 1 ? argv[1] : "picture.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
