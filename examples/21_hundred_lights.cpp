// Two hundred and fifty-six lanterns, of which each pixel asks only those that can reach it. The same as
// 21_hundred_lights.toml, which says the sky.
//   build/release/examples/example_21_hundred_lights lanterns.png [21_hundred_lights.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/21_hundred_lights.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "night", .fog = "night mist"};
  const auto normal = frame.target("kept.normal", {.format = Format::rgba16});
  const auto base_color = frame.target("kept.base_color", {.format = Format::rgba8_srgb});
  const auto material = frame.target("kept.material", {.format = Format::rgba8});
  const auto emission = frame.target("kept.emission", {.format = Format::rgba16f});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto light = frame.target("light", {.format = Format::rgba16f});

  frame.add(passes::sky(lock, {.color = light}));
  frame.add(passes::geometry(lock, {.variant = "night",
                                    .normal = normal,
                                    .base_color = base_color,
                                    .material = material,
                                    .emission = emission,
                                    .depth = depth}));
  frame.add(passes::deferred(lock, {.lights = {"lanterns"},
                                    .light_bounds = batch::LightBounds::tiles,
                                    .depth = depth,
                                    .normal = normal,
                                    .base_color = base_color,
                                    .material = material,
                                    .emission = emission,
                                    .color = light}));
  frame.add(passes::tone_map({.exposure_ev100 = 1.4f, .light = light, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  for (const gl::Choice& choice : runner.choices(2)) std::printf("%s: %s\n", choice.of.c_str(), choice.way.c_str());
  write_png(runner.read("output"), argc > 1 ? argv[1] : "lanterns.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
