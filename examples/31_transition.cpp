// Day turns to night by a wipe; before and after it, only the picture that shows is drawn. The same as
// 31_transition.toml, which says the scene.
//   build/release/examples/example_31_transition nightfall.png [31_transition.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

namespace {

struct Look {
  const char* name;
  ChosenNames lights;
  batch::LightBounds bounds;
  float exposure_ev100;
};

/// The lock in one light, developed.
TargetHandle add_picture(FrameGraph& frame, const std::shared_ptr<const Scene>& scene, const Look& look) {
  const std::string name = look.name;
  const auto light = frame.target(name + ".color", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target(name + ".depth", {.format = Format::depth32f});
  const auto picture = frame.target(name + ".picture", {.format = Format::rgba16f});
  frame.add(
      passes::sky({.name = name + " sky", .scene = scene, .view = "towpath", .environment = name, .color = light}));
  frame.add(passes::forward({.name = name,
                             .scene = scene,
                             .view = "towpath",
                             .lights = look.lights,
                             .environment = name,
                             .variant = name,
                             .light_bounds = look.bounds,
                             .color = light,
                             .depth = depth}));
  frame.add(passes::tone_map(
      {.name = "develop " + name, .exposure_ev100 = look.exposure_ev100, .light = light, .color = picture}));
  return picture;
}

}  // namespace

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/31_transition.toml").scene;

  FrameGraph frame;
  const auto day = add_picture(frame, scene, {"day", {"noon sun"}, batch::LightBounds::automatic, 13.5f});
  const auto night = add_picture(frame, scene, {"night", {"moon", "lamps"}, batch::LightBounds::clusters, 3});
  frame.add(passes::transition({.name = "nightfall",
                                .way = passes::TransitionWay::wipe,
                                .start_seconds = 2,
                                .seconds = 3,
                                .direction_degrees = -20,
                                .softness = 0.25f,
                                .from = day,
                                .to = night,
                                .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(3.5);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "nightfall.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
