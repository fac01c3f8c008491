// A model viewer: models on the command line, or dropped into the window, stand side by side. Drag turns the view, the
// wheel zooms. Keys: f fits all, v the newest model's next variant, Delete removes it, s saves, Escape ends.
//   build/release/examples/example_43_model_viewer viewer.png demo/generated/narrowboat.glb

#include <periscena/periscena.h>
#include <periscena/window/window_frame.h>

#include <cmath>
#include <cstdio>

using namespace periscena;
using namespace periscena::window;

/// A sun, a sky, and any number of models in a row.
struct Show {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  std::vector<std::pair<SceneModel, ModelInstance>> row;

  Show() {
    scene->add_view({"front", {.eye = {0.62f, 0.6f, 1}, .fov_y = radians(32), .keep = Keep::both}});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{6e4f, {-1, -0.85f, -0.15f}}});
    scene->add_environment({"sky", {gradient_sky({2100, 3500, 6300}, {6200, 7000, 8000}, {1900, 1800, 1600})}});
  }

  /// A model that can't be read leaves those that are there.
  void add(const std::filesystem::path& path) try {
    const Box others = bounds_of(*scene);
    SceneModel model(*scene, "model " + std::to_string(row.size() + 1), read_model(path).scene);
    const ModelInstance instance = model.place(*scene);
    row.emplace_back(std::move(model), instance);
    const Box box = bounds_of(*scene, instance.root);
    if (others.empty() || box.empty()) return;
    const float right = others.max.x() - box.min.x() + 0.2f * box.size().x();
    scene->set_local_transform(instance.root, Transform::translate({right, 0, 0}));
  } catch (const Error& error) {
    std::fprintf(stderr, "%s\n", error.what());
  }

  void remove_newest() {
    if (row.empty()) return;
    scene->remove(row.back().second.root);
    row.back().first.remove(*scene);
    row.pop_back();
  }

  FrameGraph frame() const {
    FrameGraph graph;
    const passes::Defaults around{.scene = scene, .view = "front", .lights = {"sun"}, .environment = "sky"};
    const auto sun = graph.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(2048, 2048)});
    const auto light = graph.target("light", {.format = Format::rgba16f, .samples = 4});
    const auto depth = graph.target("depth", {.format = Format::depth32f, .samples = 4});
    graph.add(passes::shadow_map(around, {.name = "shadow", .light = "sun", .depth = sun, .radius = 2}));
    graph.add(passes::sky(around, {.blur = 0.25f, .color = light}));
    graph.add(passes::forward(around, {.name = "models", .shadows = {sun}, .color = light, .depth = depth}));
    graph.add(passes::tone_map({.exposure_ev100 = 14, .dither = true, .light = light, .color = graph.output()}));
    return graph;
  }
};

int main(int argc, char** argv) try {
  const std::string picture = argc > 1 ? argv[1] : "viewer.png";
  Show show;
  for (int i = 2; i < argc; ++i) show.add(argv[i]);
  Window window({.title = "43 Model viewer", .width = 960, .height = 600});
  const FrameGraph frame = show.frame();
  WindowFrame shown(window, frame);
  passes::Live<passes::Forward> models(frame, "models");
  const ViewHandle view = show.scene->view_handle("front");
  OrbitController orbit(show.scene->at(view).camera);
  const auto fit = [&] {
    CameraFit all(orbit.camera(), static_cast<float>(window.width()) / static_cast<float>(window.height()));
    include_vertices(*show.scene, all);
    if (!all.empty()) orbit.set_camera(all.camera());
  };
  std::size_t chosen = 0;  // 0: the models as they are; else which of the newest one's variants, from 1
  const auto show_variant = [&](std::size_t which) {
    std::string variant;
    if (!show.row.empty()) {
      const SceneModel& newest = show.row.back().first;
      const auto& variants = newest.model().variants();
      chosen = which % (variants.size() + 1);
      if (chosen > 0) variant = newest.variant_name(variants[chosen - 1].name);
    }
    models.change([&](auto& pass) { pass.variant = variant; });
  };
  fit();
  while (window.begin_frame()) {
    for (const Event& event : window.events()) {
      std::visit(Cases{[&](const PointerMoved& one) {
                         const Vec2 by = 3 / static_cast<float>(window.height()) * one.by;
                         if (window.is_held(Button::left)) orbit.turn(by.x(), -by.y());
                       },
                       [&](const Scrolled& one) { orbit.dolly(std::pow(0.9f, one.by.y())); },
                       [&](const FilesDropped& dropped) {
                         for (const auto& file : dropped.files) show.add(file);
                         show_variant(0);
                         fit();
                       },
                       [&](const KeyPressed& one) {
                         if (one.key == Key::escape) window.close();
                         if (one.key == Key::f) fit();
                         if (one.key == Key::v) show_variant(chosen + 1);
                         if (one.key == Key::s) write_png(shown.runner().read("output"), picture);
                         if (one.key == Key::remove) {
                           show_variant(0);
                           show.remove_newest();
                         }
                       },
                       [](const auto&) {}},
                 event);
    }
    show.scene->set_camera(view, orbit.camera());
    shown.draw(window.seconds());
    window.end_frame();
  }
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
