#include "frame/other_scenes.h"

#include <utility>

namespace periscena {
namespace {

Transform world_of(const Scene& scene, NodeHandle node, double seconds) {
  Transform world = Transform::identity();
  for (; node.valid(); node = scene.nodes()[node.index].parent)
    world = world.then(scene.nodes()[node.index].local(seconds));
  return world;
}

}  // namespace

Borrowed::Borrowed(std::shared_ptr<const Scene> from, std::shared_ptr<Scene> into)
    : from_(std::move(from)), into_(std::move(into)) {
  for (const View& view : from_->views()) {
    if (into_->find_view(view.name)) continue;
    into_->add_view({view.name, camera_of(view, 0)});
    views_.push_back(view.name);
  }
  for (const Environment& environment : from_->environments()) {
    if (into_->find_environment(environment.name)) continue;
    into_->add_environment(environment);
    environments_.push_back(environment.name);
  }
  for (const Fog& fog : from_->fogs()) {
    if (into_->find_fog(fog.name)) continue;
    into_->add_fog(fog);
    fogs_.push_back(fog.name);
  }
}

void Borrowed::follow(double seconds) const {
  for (const std::string& name : views_) {
    const View* view = from_->find_view(name);
    if (!view) continue;
    const Camera camera = camera_of(*view, seconds);
    if (camera != into_->find_view(name)->camera) into_->set_camera(into_->view_handle(name), camera);
  }
  for (const std::string& name : environments_) {
    const Environment* environment = from_->find_environment(name);
    if (environment && *environment != *into_->find_environment(name))
      into_->change_environment(into_->environment_handle(name), *environment);
  }
  for (const std::string& name : fogs_) {
    const Fog* fog = from_->find_fog(name);
    if (fog && *fog != *into_->find_fog(name)) into_->change_fog(into_->fog_handle(name), *fog);
  }
}

Camera Borrowed::camera_of(const View& view, double seconds) const {
  return view.node.valid() ? view.placed(world_of(*from_, view.node, seconds)) : view.camera;
}

std::shared_ptr<const Scene> OtherScenes::read(const Reference& name, const SceneSource& source,
                                               const std::shared_ptr<const Scene>& frame, Diagnostics& diagnostics) {
  for (const Other& other : all_) {
    if (other.name == name.name) return other.scene;
  }
  Other& made = all_.emplace_back();
  made.name = name.name;
  const std::filesystem::path path = source.folder / name.name;
  made.folder = path.parent_path();
  try {
    made.scene =
        std::make_shared<Scene>(read_whole_scene({made.folder, source.pictures, source.aspect}, path, &made.timed));
    made.borrowed.emplace(frame, made.scene);
  } catch (const Error& error) {
    // What is wrong within it is told there.
    diagnostics.append(error.diagnostics(), [&](Diagnostic& one) {
      if (!one.place.source || one.place.line == 0) one.place = name.place;
    });
    made.scene = nullptr;
  }
  return made.scene;
}

void OtherScenes::follow_time(FrameGraph& graph, float aspect, Diagnostics& diagnostics) {
  for (Other& other : all_) {
    if (!other.scene) continue;
    follow_curves(std::move(other.timed), other.scene, other.folder, aspect, graph, diagnostics);
    graph.before_each_frame([borrowed = *other.borrowed](double seconds) { borrowed.follow(seconds); });
  }
}

}  // namespace periscena
