// A light pre-pass: normals first, then lights into a buffer, then the objects again with their own materials. The same
// as 20_light_prepass.toml, which says the sky.
//   build/release/examples/example_20_light_prepass prepass.png [20_light_prepass.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  const auto scene = read_frame_file(argc > 2 ? argv[2] : "examples/20_light_prepass.toml").scene;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "towpath"};
  const auto moon = frame.target(
      "moon.depth",
      {.format = Format::depth32f, .size = TargetSize::pixels(2048, 2048), .layers = 3, .shape = TargetShape::array});
  const auto normal = frame.target("kept.normal", {.format = Format::rgba16});
  const auto material = frame.target("kept.material", {.format = Format::rgba8});
  const auto diffuse = frame.target("lights.diffuse", {.format = Format::rgba16f});
  const auto specular = frame.target("lights.specular", {.format = Format::rgba16f});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto light = frame.target("light", {.format = Format::rgba16f});

  frame.add(passes::shadow_map(lock, {.light = "moon",
                                      .without_tags = {"ground"},
                                      .variant = "night",
                                      .depth = moon,
                                      .cascades = 3,
                                      .reach = 80,
                                      .radius = 2}));
  frame.add(passes::sky(lock, {.environment = "night", .fog = "night mist", .color = light}));
  frame.add(passes::geometry(lock, {.variant = "night", .normal = normal, .material = material, .depth = depth}));
  frame.add(passes::light_buffer(lock, {.lights = {"moon", "lamps"},
                                        .shadows = {moon},
                                        .depth = depth,
                                        .normal = normal,
                                        .material = material,
                                        .diffuse = diffuse,
                                        .specular = specular}));
  frame.add(passes::forward(lock, {.name = "lock, drawn again",
                                   .environment = "night",
                                   .fog = "night mist",
                                   .variant = "night",
                                   .surfaces = Surfaces::opaque,
                                   .light_diffuse = diffuse,
                                   .light_specular = specular,
                                   .color = light,
                                   .depth = depth}));
  frame.add(passes::forward(lock, {.name = "glass",
                                   .lights = {"moon", "lamps"},
                                   .environment = "night",
                                   .fog = "night mist",
                                   .variant = "night",
                                   .shadows = {moon},
                                   .surfaces = Surfaces::blended,
                                   .color = light,
                                   .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 1.7f, .light = light, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1280, 720, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "prepass.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
