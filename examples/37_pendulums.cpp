// A row of pendulums by your own physics. Keys: a hangs up one more, r takes one away, l lights another lamp, k puts
// one out, space lets time stand still, s saves the picture, Escape ends.
//   build/release/examples/example_37_pendulums pendulums.png

#include <periscena/periscena.h>
#include <periscena/window/window_frame.h>

#include <cmath>
#include <cstdio>

using namespace periscena;
using namespace periscena::window;

/// A ball on a rod, swinging by the equation of a pendulum: no motion of ours says where it is.
struct Pendulum {
  NodeHandle node;
  float length, angle = 0.6f, speed = 0;

  void step(float seconds) {
    speed -= 9.81f / length * std::sin(angle) * seconds;
    angle += speed * seconds;
  }
  Transform transform(float x) const {
    return Transform::scale({1, length, 1}).then(rotate(Vec3::unit_z(), angle)).then(translate({x, 3, 0}));
  }
};

class Row {
 public:
  Row() : scene(std::make_shared<Scene>()) {
    rod_ = scene->add_mesh("rod", shapes::box({0.03f, 1, 0.03f}));
    ball_ = scene->add_mesh("ball", shapes::sphere(0.18f, 24));
    brass_ =
        scene->add_material({.name = "brass", .base_color = {0.8f, 0.55f, 0.2f}, .metallic = 1, .roughness = 0.3f});
    Node floor{.name = "floor", .mesh = scene->add_mesh("floor", shapes::box({9, 0.2f, 5}))};
    floor.material = scene->add_material({.name = "stone", .base_color = {0.35f, 0.36f, 0.38f}});
    scene->add_node(floor);
    scene->add_view({"front", {.eye = {0, 2, 7.5f}, .target = {0, 1.5f, 0}, .fov_y = radians(30), .keep = Keep::both}});
    scene->add_light(AmbientLight{.name = "dusk", .sky = {0.16f, 0.18f, 0.26f}, .ground = {0.08f, 0.06f, 0.05f}});
    for (int i = 0; i < 5; ++i) hang();
    light();
  }

  void hang() {
    Pendulum made{{}, 1.2f + 0.12f * static_cast<float>(pendulums_.size())};
    // The rod hangs from its upper end; the ball hangs on the rod, and goes with it.
    made.node = scene->add_node({.name = "pendulum " + std::to_string(count_), .dynamic = true});
    const auto part = [&](const char* name, MeshHandle mesh, Transform place) {
      scene->add_node({.name = name + std::to_string(count_),
                       .parent = made.node,
                       .mesh = mesh,
                       .material = brass_,
                       .placement = place});
    };
    part("rod ", rod_, Transform::translate({0, -0.5f, 0}));
    part("ball ", ball_, Transform::scale({1, 1 / made.length, 1}).then(translate({0, -1, 0})));
    pendulums_.push_back(made);
    ++count_;
  }

  void take_away() {
    if (pendulums_.empty()) return;
    scene->remove(pendulums_.back().node);  // with its rod and ball
    pendulums_.pop_back();
  }

  void light() {
    const float x = -3 + 2 * static_cast<float>(lamps_.size() % 4);
    lamps_.push_back(
        scene->add_light(Light{.name = "lamp " + std::to_string(lamps_.size()),
                               .kind = PointLight{.intensity = 25, .position = {x, 3.5f, 2.5f}, .range = 12},
                               .color = {1, 0.8f, 0.55f}}));
  }

  void put_out() {
    if (lamps_.empty()) return;
    scene->remove(lamps_.back());
    lamps_.pop_back();
  }

  void step(float seconds) {
    for (std::size_t i = 0; i < pendulums_.size(); ++i) {
      pendulums_[i].step(seconds);
      scene->set_local_transform(pendulums_[i].node, pendulums_[i].transform(-2.4f + 0.6f * static_cast<float>(i)));
    }
  }

  std::shared_ptr<Scene> scene;

 private:
  std::vector<Pendulum> pendulums_;
  std::vector<LightHandle> lamps_;
  MeshHandle rod_, ball_;
  MaterialHandle brass_;
  int count_ = 0;
};

int main(int argc, char** argv) try {
  Window window({.title = "37 Pendulums", .width = 960, .height = 600});
  Row row;
  FrameGraph frame;
  frame.set_background({0.03f, 0.04f, 0.07f, 1});
  auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(
      passes::forward({.name = "row", .scene = row.scene, .view = "front", .color = frame.output(), .depth = depth}));
  WindowFrame shown(window, frame);
  bool runs = true;
  while (window.begin_frame()) {
    for (const Event& event : window.events()) {
      const auto* key = std::get_if<KeyPressed>(&event);
      if (!key) continue;
      if (key->key == Key::escape) window.close();
      if (key->key == Key::a) row.hang();
      if (key->key == Key::r) row.take_away();
      if (key->key == Key::l) row.light();
      if (key->key == Key::k) row.put_out();
      if (key->key == Key::space) runs = !runs;
      if (key->key == Key::s) write_png(shown.runner().read("output"), argc > 1 ? argv[1] : "pendulums.png");
    }
    // Steps of a fixed length, however long the frame took.
    if (runs) row.step(1 / 60.0f);
    shown.draw(window.seconds());
    window.end_frame();
  }
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
