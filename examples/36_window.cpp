// A cube in a window: drag turns the camera, the wheel brings it nearer, and the picture follows the window's size.
// Keys: s saves the picture, f fills the screen, Escape ends.
//   build/release/examples/example_36_window window.png

#include <periscena/periscena.h>
#include <periscena/window/window_frame.h>

#include <cmath>
#include <cstdio>

using namespace periscena;
using namespace periscena::window;

std::shared_ptr<Scene> cube_on_a_quay() {
  auto scene = std::make_shared<Scene>();
  const auto show = [&](const char* name, Mesh mesh, Material material, const Vec3& at) {
    Node node{.name = name};
    node.mesh = scene->add_mesh(name, std::move(mesh));
    material.name = name;
    node.material = scene->add_material(material);
    node.placement = Transform::translate(at);
    scene->add_node(node);
  };
  show("cube", shapes::box({1, 1, 1}), {.base_color = {0.72f, 0.42f, 0.12f}, .roughness = 0.4f}, {0, 0.5f, 0});
  show("quay", shapes::box({5, 0.2f, 5}), {.base_color = {0.3f, 0.32f, 0.34f}, .roughness = 0.9f}, {0, -0.1f, 0});
  // Tall windows see as much at the sides as this shape does, wide ones as much above and below.
  scene->add_view(
      {"front", {.eye = {2.5f, 2, 3.5f}, .target = {0, 0.3f, 0}, .fov_y = radians(40), .keep = Keep::both}});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {-0.6f, -1, -0.4f}}});
  scene->add_light(AmbientLight{.name = "dusk", .sky = {0.2f, 0.22f, 0.3f}, .ground = {0.08f, 0.06f, 0.05f}});
  return scene;
}

FrameGraph frame_of(const std::shared_ptr<Scene>& scene) {
  FrameGraph frame;
  // Four samples a pixel; the frame resolves them into the output.
  auto color =
      frame.target("color", {.format = Format::rgba8_srgb, .samples = 4, .clear_color = {0.05f, 0.07f, 0.1f, 1}});
  auto depth = frame.target("depth", {.format = Format::depth32f, .samples = 4});
  frame.add(passes::forward({.name = "picture", .scene = scene, .view = "front", .color = color, .depth = depth}));
  frame.add(passes::resolve({.name = "show", .from = {.target = color}, .to = {.target = frame.output()}}));
  return frame;
}

int main(int argc, char** argv) try {
  Window window({.title = "36 Window", .width = 960, .height = 600});
  auto scene = cube_on_a_quay();
  WindowFrame shown(window, frame_of(scene));
  const ViewHandle view = scene->view_handle("front");
  OrbitController orbit(scene->at(view).camera);
  bool drags = false;
  while (window.begin_frame()) {
    const auto height = static_cast<float>(window.height());
    for (const Event& event : window.events()) {
      std::visit(Cases{[&](const ButtonPressed& one) { drags = one.button == Button::left; },
                       [&](const ButtonReleased&) { drags = false; },
                       [&](const PointerMoved& one) {
                         if (drags) orbit.turn(3 * one.by.x() / height, -3 * one.by.y() / height);
                       },
                       [&](const Scrolled& one) { orbit.dolly(std::pow(0.9f, one.by.y())); },
                       [&](const KeyPressed& one) {
                         if (one.key == Key::escape) window.close();
                         if (one.key == Key::f) window.set_full_screen(!window.is_full_screen());
                         // What was drawn last is in the frame's output.
                         if (one.key == Key::s)
                           write_png(shown.runner().read("output"), argc > 1 ? argv[1] : "window.png");
                       },
                       [](const auto&) {}},
                 event);
    }
    scene->set_camera(view, orbit.camera());
    shown.draw(window.seconds());
    window.end_frame();
  }
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
