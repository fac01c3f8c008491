// One object on the screen: a scene, one pass, one picture. The same as 01_first_picture.toml.
//   build/release/examples/example_01_first_picture first.png

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;

int main(int argc, char** argv) try {
  auto scene = std::make_shared<Scene>();
  Node ring;
  ring.name = "ring";
  ring.mesh = scene->add_mesh("ring", shapes::torus(0.6f, 0.25f, 128, 64));
  ring.material = scene->add_material({.name = "brass", .base_color = {0.72f, 0.42f, 0.12f}});
  ring.placement = Transform::rotate(Vec3::unit_x(), radians(60)).then(rotate(Vec3::unit_y(), radians(25)));
  ring.motion = Motion{.kind = Motion::Kind::spin, .axis = Vec3::unit_z(), .period = 8};
  scene->add_node(ring);
  scene->add_view({"front", {.eye = {0, 0.4f, 2.8f}, .fov_y = radians(40)}});
  scene->add_light(Light{.name = "lamp", .kind = DirectionalLight{.illuminance = 3, .direction = {-0.6f, -0.7f, -1}}});
  scene->add_light(AmbientLight{.name = "room", .sky = {0.16f, 0.18f, 0.22f}, .ground = {0.05f, 0.04f, 0.03f}});

  FrameGraph frame;
  frame.set_background({0.05f, 0.07f, 0.1f, 1});
  auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::forward({.name = "picture",
                             .scene = scene,
                             .view = "front",
                             .lights = {"lamp", "room"},
                             .color = frame.output(),
                             .depth = depth}));

  auto device = gl::Device::headless();
  auto plan = frame.plan(960, 600, device.limits()).value();  // throws with all diagnostics if something is wrong
  gl::FrameRunner runner(device, plan);
  runner.run(0.0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "first.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
