// Behind the panes of a window lies another scene, and behind a picture in that one a sky. The same as
// 32_openings.toml, which says the scenes.
//   build/release/examples/example_32_openings openings.png [32_openings.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const std::filesystem::path file = argc > 2 ? argv[2] : "examples/32_openings.toml";
  const auto lock = read_frame_file(file).scene;
  // Another scene is seen by the same camera.
  const auto room = std::make_shared<Scene>(read_scene_file(file.parent_path() / "../demo/cottage_room.toml"));
  room->add_view(*lock->find_view("window"));

  FrameGraph frame;
  const auto color = frame.target("color", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f_stencil8});
  const auto glowing = frame.target("glowing", {.format = Format::rgba16f});

  frame.add(passes::sky({.scene = lock, .view = "window", .environment = "dusk", .color = color}));
  frame.add(passes::forward({.name = "cottage",
                             .scene = lock,
                             .view = "window",
                             .lights = {"sun"},
                             .environment = "dusk",
                             .without_tags = {"pane"},
                             .color = color,
                             .depth = depth}));
  frame.add(passes::opening({.name = "panes", .scene = lock, .view = "window", .tags = {"pane"}, .depth = depth}));

  Pass inside = passes::forward(
      {.name = "room", .scene = room, .view = "window", .without_tags = {"picture"}, .color = color, .depth = depth});
  inside.inside = "panes";
  frame.add(std::move(inside));

  Pass hole =
      passes::opening({.name = "picture", .scene = room, .view = "window", .tags = {"picture"}, .depth = depth});
  hole.inside = "panes";
  frame.add(std::move(hole));

  Pass day = passes::sky({.name = "day", .scene = lock, .view = "window", .environment = "day", .color = color});
  day.inside = "picture";
  frame.add(std::move(day));

  frame.add(passes::bloom({.name = "glow", .strength = 0.06f, .light = color, .color = glowing}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.2f, .light = glowing, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "openings.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
