// A model is imported and lit: the same as 06_import_and_light.toml, said in C++.
//   build/release/examples/example_06_import_and_light gates.png [markers]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  Import import = read_gltf("demo/generated/osier_lock.glb");
  std::printf("%s", to_text(import.notes).c_str());  // what was left out of the model
  Scene& model = import.scene;
  model.add_environment({.name = "dusk",
                         .images = {std::make_shared<const Image>(read_image("demo/generated/dusk.hdr"))},
                         .rotation = radians(200)});
  const MaterialHandle oak = model.find_material("oak1");
  Material changed = model.materials()[oak.index];
  changed.base_color = {0.26f, 0.15f, 0.075f};
  changed.roughness = 0.7f;
  model.change_material(oak, changed);
  model.add_light(Light{.name = "lantern",
                        .kind = PointLight{.intensity = 9000,  // candela
                                           .position = {1.4f, 1.9f, 12.2f},
                                           .range = 9},
                        .color = {1, 0.6f, 0.25f}});
  const auto scene = std::make_shared<const Scene>(std::move(model));

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "gates", .environment = "dusk"};
  const auto color = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::sky(lock, {.color = color}));
  frame.add(passes::forward(lock, {.lights = {"sun", "lantern"}, .color = color, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 10, .light = color, .color = frame.output()}));
  frame.add(
      passes::light_markers(lock, {.lights = {"lantern"}, .show = argc > 2, .color = frame.output(), .depth = depth}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 675, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "gates.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
