// Surfaces first, light after, glass last: the same as 19_geometry_buffer.toml, which says the light.
//   build/release/examples/example_19_geometry_buffer deferred.png [19_geometry_buffer.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/19_geometry_buffer.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath", .environment = "day", .fog = "morning haze"};
  const auto sun = frame.target(
      "sun.depth",
      {.format = Format::depth32f, .size = TargetSize::pixels(1024, 1024), .layers = 4, .shape = TargetShape::array});
  const auto normal = frame.target("kept.normal", {.format = Format::rgba16});
  const auto base_color = frame.target("kept.base_color", {.format = Format::rgba8_srgb});
  const auto material = frame.target("kept.material", {.format = Format::rgba8});
  const auto emission = frame.target("kept.emission", {.format = Format::rgba16f});
  const auto id = frame.target("kept.id", {.format = Format::r32ui});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto corners = frame.target("corners", {.format = Format::r8});
  const auto light = frame.target("light", {.format = Format::rgba16f});

  frame.add(passes::shadow_map(lock, {.light = "low sun",
                                      .without_tags = {"ground"},
                                      .variant = "day",
                                      .depth = sun,
                                      .cascades = 4,
                                      .reach = 90,
                                      .radius = 2}));
  frame.add(passes::sky(lock, {.color = light}));
  frame.add(passes::geometry(lock, {.variant = "day",
                                    .normal = normal,
                                    .base_color = base_color,
                                    .material = material,
                                    .emission = emission,
                                    .id = id,
                                    .depth = depth}));
  frame.add(passes::ambient_occlusion(lock, {.radius = 0.6f, .depth = depth, .normal = normal, .occlusion = corners}));
  frame.add(passes::deferred(lock, {.lights = {"low sun"},
                                    .shadows = {sun},
                                    .depth = depth,
                                    .normal = normal,
                                    .base_color = base_color,
                                    .material = material,
                                    .emission = emission,
                                    .occlusion = corners,
                                    .color = light}));
  frame.add(passes::forward(lock, {.name = "glass",
                                   .lights = {"low sun"},
                                   .variant = "day",
                                   .shadows = {sun},
                                   .surfaces = Surfaces::blended,
                                   .color = light,
                                   .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 13.5f, .light = light, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "deferred.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
