// An offscreen picture on all sides of two cubes, and a lens over everything that follows the pointer; the wheel
// changes its strength. Its GLSL is a file: change it, and r shows what it says now. Keys: space lets the cubes rest, s
// saves the picture, Escape ends.
//   build/release/examples/example_39_screens_and_lens lens.png [shaders/39_lens.frag]

#include <periscena/periscena.h>
#include <periscena/window/window_frame.h>

#include <algorithm>
#include <cstdio>

using namespace periscena;
using namespace periscena::window;

/// A ring that turns before a dark blue ground: what the cubes show.
std::shared_ptr<Scene> ring() {
  auto scene = std::make_shared<Scene>();
  scene->add_node(
      {.name = "ring",
       .mesh = scene->add_mesh("ring", shapes::torus(0.8f, 0.28f, 64, 24)),
       .material = scene->add_material({.name = "willow", .base_color = {0.25f, 0.6f, 0.2f}, .roughness = 0.4f}),
       .dynamic = true});
  scene->add_view({"ring", {.eye = {0, 0, 4}, .fov_y = radians(40)}});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{3, {-0.4f, -0.7f, -1}}});
  scene->add_light(AmbientLight{.name = "dusk", .sky = {0.2f, 0.25f, 0.4f}, .ground = {0.1f, 0.1f, 0.1f}});
  return scene;
}

std::shared_ptr<Scene> two_cubes() {
  auto scene = std::make_shared<Scene>();
  const MeshHandle cube = scene->add_mesh("cube", shapes::box({1, 1, 1}));
  const MaterialHandle screen =
      scene->add_material({.name = "screen", .base_color = {0.02f, 0.02f, 0.02f}, .roughness = 0.6f, .shows = "ring"});
  for (const char* name : {"left", "right"})
    scene->add_node({.name = name, .mesh = cube, .material = screen, .dynamic = true});
  scene->add_view({"front", {.eye = {0, 1.1f, 3.4f}, .target = {0, 0, 0}, .fov_y = radians(36), .keep = Keep::both}});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{2, {-0.4f, -0.7f, -1}}});
  return scene;
}

int main(int argc, char** argv) try {
  const std::string glsl = argc > 2 ? argv[2] : "examples/shaders/39_lens.frag";
  const auto inside = ring(), outside = two_cubes();
  FrameGraph frame;
  const auto side = TargetSize::pixels(256, 256);
  const auto on_cubes =
      frame.target("ring.color",
                   {.format = Format::rgba8_srgb, .size = side, .samples = 4, .clear_color = {0.01f, 0.02f, 0.08f, 1}});
  const auto ring_depth = frame.target("ring.depth", {.format = Format::depth32f, .size = side, .samples = 4});
  const auto color =
      frame.target("color", {.format = Format::rgba8_srgb, .samples = 4, .clear_color = {0.16f, 0.2f, 0.24f, 1}});
  const auto depth = frame.target("depth", {.format = Format::depth32f, .samples = 4});
  frame.add(passes::forward({.name = "ring", .scene = inside, .view = "ring", .color = on_cubes, .depth = ring_depth}));
  frame.add(passes::forward({.name = "cubes",
                             .scene = outside,
                             .view = "front",
                             .color = color,
                             .depth = depth,
                             .reads = {{.slot = "ring", .target = on_cubes}}}));
  frame.add(passes::fullscreen({.name = "lens",
                                .shader = gl::ShaderText::file(glsl, passes::pass_shaders()),
                                .reads = {{"picture", color}},
                                .writes = {{"color", frame.output()}},
                                .uniforms = {{"center", {0, 0}}, {"radius", 110}, {"strength", 0.8}}}));

  Window window({.title = "39 Screens and lens", .width = 960, .height = 600});
  WindowFrame shown(window, frame);
  passes::Live<passes::Fullscreen> lens(frame, "lens");
  double strength = 0.8, now = 0;
  bool moves = true;
  const NodeHandle torus = inside->find_node("ring"), left = outside->find_node("left"),
                   right = outside->find_node("right");
  while (window.begin_frame()) {
    for (const Event& event : window.events()) {
      if (const auto* wheel = std::get_if<Scrolled>(&event))
        strength = std::clamp(strength + 0.2 * static_cast<double>(wheel->by.y()), 0.0, 3.0);
      const auto* key = std::get_if<KeyPressed>(&event);
      if (key && key->key == Key::escape) window.close();
      if (key && key->key == Key::space) moves = !moves;
      // A mistake leaves the lens unchanged.
      if (key && key->key == Key::r)
        for (const Diagnostic& found : shown.runner().reload()) std::fprintf(stderr, "%s\n", to_text(found).c_str());
      if (key && key->key == Key::s) write_png(shown.runner().read("output"), argc > 1 ? argv[1] : "lens.png");
    }
    if (moves) now += window.frame_seconds();
    const auto turn = static_cast<float>(now);
    inside->set_local_transform(torus, rotate(Vec3::unit_x(), 0.9f * turn));
    outside->set_local_transform(left, rotate(Vec3::unit_y(), 0.4f * turn).then(translate({-0.8f, 0, 0})));
    outside->set_local_transform(right, rotate(Vec3::unit_y(), 0.7f - 0.3f * turn).then(translate({0.8f, 0, 0})));
    if (const auto pixel = shown.pixel_at(window.pointer())) {
      const double up = static_cast<double>(shown.area().height) - static_cast<double>(pixel->y());
      lens.change([&](passes::Fullscreen& options) {
        options.uniforms = {{"center", {static_cast<double>(pixel->x()), up}}, {"radius", 110}, {"strength", strength}};
      });
    }
    shown.draw(now);
    window.end_frame();
  }
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
