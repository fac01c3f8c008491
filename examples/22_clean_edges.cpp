// Smooth edges over a geometry buffer with four samples: of those pixels each surface is lit, and samples are brought
// together after they are exposed. The same as 22_clean_edges.toml, which says the light.
//   build/release/examples/example_22_clean_edges clean.png [22_clean_edges.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/22_clean_edges.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "day", .fog = "morning haze"};
  const auto normal = frame.target("four.normal", {.format = Format::rgba16, .samples = 4});
  const auto base_color = frame.target("four.base_color", {.format = Format::rgba8_srgb, .samples = 4});
  const auto material = frame.target("four.material", {.format = Format::rgba8, .samples = 4});
  const auto depth = frame.target("four.depth", {.format = Format::depth32f, .samples = 4});
  const auto light = frame.target("four.light", {.format = Format::rgba16f, .samples = 4});

  frame.add(passes::sky(lock, {.color = light}));
  frame.add(passes::geometry(
      lock, {.variant = "day", .normal = normal, .base_color = base_color, .material = material, .depth = depth}));
  frame.add(passes::deferred(lock, {.lights = {"low sun"},
                                    .depth = depth,
                                    .normal = normal,
                                    .base_color = base_color,
                                    .material = material,
                                    .color = light}));
  frame.add(passes::tone_map({.exposure_ev100 = 13.5f, .each_sample = true, .light = light, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "clean.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
