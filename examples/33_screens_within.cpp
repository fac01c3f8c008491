// A screen and a mirror that show other views, of fewer pixels, drawn in every fourth and second frame. The same as
// 33_screens_within.toml, which says the scene.
//   build/release/examples/example_33_screens_within screens.png [33_screens_within.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

namespace {

/// What a view sees, into a target of light, in every n-th frame.
void add_view(FrameGraph& frame, const std::shared_ptr<const Scene>& scene, const char* view, int every,
              TargetHandle color, TargetHandle depth, std::vector<Read> shown = {}) {
  const std::string name = view;
  Pass sky = passes::sky({.name = name + " sky", .scene = scene, .view = view, .environment = "dusk", .color = color});
  Pass lock = passes::forward({.name = name,
                               .scene = scene,
                               .view = view,
                               .lights = {"sun"},
                               .environment = "dusk",
                               .color = color,
                               .depth = depth,
                               .reads = std::move(shown)});
  sky.every = lock.every = every;
  frame.add(std::move(sky));
  frame.add(std::move(lock));
}

}  // namespace

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/33_screens_within.toml").scene;

  FrameGraph frame;
  const auto watched = frame.target("watched.color", {.format = Format::rgba16f, .size = TargetSize::of_frame(0.25f)});
  const auto watched_depth =
      frame.target("watched.depth", {.format = Format::depth32f, .size = TargetSize::of_frame(0.25f)});
  const auto mirror =
      frame.target("mirror.color", {.format = Format::rgba16f, .size = TargetSize::pixels(256, 256), .samples = 4});
  const auto mirror_depth =
      frame.target("mirror.depth", {.format = Format::depth32f, .size = TargetSize::pixels(256, 256)});
  const auto color = frame.target("color", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto glowing = frame.target("glowing", {.format = Format::rgba16f});

  add_view(frame, scene, "gates", 4, watched, watched_depth);
  add_view(frame, scene, "mirror", 2, mirror, mirror_depth);
  add_view(frame, scene, "screens", 1, color, depth,
           {{.slot = "mirror", .target = mirror}, {.slot = "gates", .target = watched}});
  frame.add(passes::bloom({.name = "glow", .strength = 0.05f, .light = color, .color = glowing}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.2f, .light = glowing, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(9);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "screens.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
