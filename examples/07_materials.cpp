// A row of spheres, roughness by metalness: the same as 07_materials.toml, said in C++.
//   build/release/examples/example_07_materials materials.png [07_materials.toml]

#include <periscena/periscena.h>

#include <cmath>
#include <cstdio>
#include <string>

using namespace periscena;

int main(int argc, char** argv) try {
  auto made = std::make_shared<Scene>();
  made->add_environment(
      {.name = "dusk",
       .images = {std::make_shared<const Image>(read_image(argc > 2 ? argv[2] : "demo/generated/dusk.hdr"))},
       .rotation = radians(60)});
  made->add_light(
      Light{.name = "lamp", .kind = DirectionalLight{.illuminance = 4000, .direction = {-0.5f, -0.7f, -1}}});  // lux
  Camera camera;
  camera.eye = {0, 0, 10};
  camera.fov_y = radians(23.5f);
  made->add_view({"front", camera});
  // As many digits as the frame file gives.
  const auto rounded = [](float number) { return std::round(1000 * number) / 1000; };
  const MeshHandle ball = made->add_mesh("ball", shapes::sphere(0.5f, 96));
  const Vec3 colors[] = {{0.55f, 0.06f, 0.045f}, {0.75f, 0.45f, 0.2f}, {0.95f, 0.7f, 0.32f}};
  for (int row = 0; row < 3; ++row) {
    for (int i = 0; i < 8; ++i) {
      Node node;
      node.mesh = ball;
      node.material = made->add_material({.name = "m" + std::to_string(row) + "r" + std::to_string(i),
                                          .base_color = colors[row],
                                          .metallic = 0.5f * static_cast<float>(row),
                                          .roughness = rounded(static_cast<float>(i) / 7)});
      node.placement =
          translate({rounded(1.12f * (static_cast<float>(i) - 3.5f)), rounded(1.12f * static_cast<float>(1 - row)), 0});
      made->add_node(node);
    }
  }
  const std::shared_ptr<const Scene> scene = made;

  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "front", .environment = "dusk"};
  const auto color = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::sky(lock, {.blur = 0.6f, .color = color}));
  frame.add(passes::forward(lock, {.color = color, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.4f, .light = color, .color = frame.output()}));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 520, device.limits()).value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "materials.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
