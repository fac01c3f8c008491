// A hundred lanterns that move each frame, and objects that are picked by a click: what is picked shines. Keys: space
// lets the lanterns rest, s saves the picture, Escape ends.
//   build/release/examples/example_40_moving_lights lanterns.png

#include <periscena/periscena.h>
#include <periscena/window/window_frame.h>

#include <cmath>
#include <cstdio>

using namespace periscena;
using namespace periscena::window;

constexpr int lanterns = 100, stones = 49;

std::shared_ptr<Scene> stones_at_night() {
  auto scene = std::make_shared<Scene>();
  const MaterialHandle ground =
      scene->add_material({.name = "ground", .base_color = {0.3f, 0.3f, 0.32f}, .roughness = 0.8f});
  scene->add_node({.name = "ground", .mesh = scene->add_mesh("ground", shapes::plane(16, 16)), .material = ground});
  const MaterialHandle stone =
      scene->add_material({.name = "stone", .base_color = {0.6f, 0.56f, 0.5f}, .roughness = 0.5f});
  const MeshHandle ball = scene->add_mesh("stone", shapes::sphere(0.5f, 32));
  for (int i = 0; i < stones; ++i) {
    const float x = 2 * static_cast<float>(i % 7) - 6, z = 2 * static_cast<float>(i / 7) - 6;
    scene->add_node({.name = "stone " + std::to_string(i),
                     .mesh = ball,
                     .material = stone,
                     .placement = Transform::translate({x, 0.4f, z})});
  }
  // Bounded lights: each pixel asks only those that can reach it.
  for (int i = 0; i < lanterns; ++i) {
    const float hue = 6.28f * static_cast<float>(i) / 7;
    scene->add_light(Light{.name = "lantern " + std::to_string(i),
                           .kind = PointLight{.intensity = 2, .position = Vec3::zero(), .range = 2.2f},
                           .color = {0.55f + 0.45f * std::cos(hue), 0.5f, 0.55f + 0.45f * std::sin(hue)}});
  }
  scene->add_light(AmbientLight{.name = "night", .sky = {0.04f, 0.05f, 0.08f}, .ground = {0.02f, 0.02f, 0.02f}});
  scene->add_view({"above", {.eye = {0, 8, 13}, .target = {0, 0, 0.5f}, .fov_y = radians(40), .keep = Keep::both}});
  return scene;
}

/// Each goes around a circle of its own.
void move(Scene& scene, const std::vector<LightHandle>& lights, double seconds) {
  for (std::size_t i = 0; i < lights.size(); ++i) {
    Light light = scene.at(lights[i]);
    const float turn = static_cast<float>(seconds) * (0.3f + 0.01f * static_cast<float>(i % 17));
    const float angle = turn + 2.4f * static_cast<float>(i), reach = 0.75f * std::sqrt(static_cast<float>(i) + 1);
    std::get<PointLight>(light.kind).position = {reach * std::cos(angle), 1.1f, reach * std::sin(angle)};
    scene.change_light(lights[i], light);
  }
}

int main(int argc, char** argv) try {
  const auto scene = stones_at_night();
  std::vector<LightHandle> lights;
  for (int i = 0; i < lanterns; ++i) lights.push_back(scene->light_handle("lantern " + std::to_string(i)));
  const MeshHandle ball = scene->at(scene->find_node("stone 0")).mesh;
  const MaterialHandle stone = scene->at(scene->find_node("stone 0")).material;
  const MaterialHandle shining = scene->add_material({.name = "shining", .emission = {2, 2, 2}});

  FrameGraph frame;
  const passes::Defaults night{.scene = scene, .view = "above"};
  const auto normal = frame.target("normal", {.format = Format::rgba16});
  const auto base_color = frame.target("base_color", {.format = Format::rgba8_srgb});
  const auto material = frame.target("material", {.format = Format::rgba8});
  const auto emission = frame.target("emission", {.format = Format::rgba16f});
  const auto ids = frame.target("ids", {.format = Format::r32ui});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto light = frame.target("light", {.format = Format::rgba16f});
  frame.keep(ids);
  frame.add(passes::geometry(night, {.normal = normal,
                                     .base_color = base_color,
                                     .material = material,
                                     .emission = emission,
                                     .id = ids,
                                     .depth = depth}));
  frame.add(passes::deferred(night, {.depth = depth,
                                     .normal = normal,
                                     .base_color = base_color,
                                     .material = material,
                                     .emission = emission,
                                     .color = light}));
  frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));

  Window window({.title = "40 Moving lights", .width = 960, .height = 600});
  WindowFrame shown(window, frame);
  passes::Picker picker(scene);
  NodeHandle picked;
  double now = 0;
  bool moves = true;
  while (window.begin_frame()) {
    for (const Event& event : window.events()) {
      const auto* click = std::get_if<ButtonPressed>(&event);
      if (const auto pixel = click ? shown.pixel_at(click->position) : std::nullopt)
        picker.ask(shown.runner(), "ids", static_cast<int>(pixel->x()), static_cast<int>(pixel->y()));
      const auto* key = std::get_if<KeyPressed>(&event);
      if (key && key->key == Key::escape) window.close();
      if (key && key->key == Key::space) moves = !moves;
      if (key && key->key == Key::s) write_png(shown.runner().read("output"), argc > 1 ? argv[1] : "lanterns.png");
    }
    // The answer comes some frames later, and nothing waits for it.
    while (const auto answer = picker.answer()) {
      if (picked.valid()) scene->set_mesh(picked, ball, stone);
      picked = answer->name.starts_with("stone") ? answer->node : NodeHandle();
      if (picked.valid()) scene->set_mesh(picked, ball, shining);
      window.set_title("40 Moving lights: " + (picked.valid() ? answer->name : "nothing picked"));
    }
    if (moves) now += window.frame_seconds();
    move(*scene, lights, now);
    shown.draw(now);
    window.end_frame();
  }
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
