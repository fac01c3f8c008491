#include <periscena/scene/scene_bounds.h>

namespace periscena {
namespace {

Box bounds_of_chosen(const Scene& scene, const std::vector<bool>& chosen, double seconds) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(seconds, worlds);
  std::vector<Box> boxes(scene.meshes().size());
  std::vector<bool> measured(boxes.size());
  Box all;
  for (std::size_t i = 0; i < worlds.size(); ++i) {
    const Node& node = scene.nodes()[i];
    if (!chosen[i] || !node.mesh.valid()) continue;
    Box& of_mesh = boxes[node.mesh.index];
    if (!measured[node.mesh.index]) of_mesh = scene.meshes()[node.mesh.index].bounds();
    measured[node.mesh.index] = true;
    if (of_mesh.empty()) continue;
    const Box box = of_mesh.transformed(worlds[i]);
    if (is_finite(box.min) && is_finite(box.max)) all.include(box);
  }
  return all;
}

/// By node: is it drawn, and the given one or below it?
std::vector<bool> below(const Scene& scene, NodeHandle node, const Place& place) {
  scene.at(node, place);
  std::vector<bool> chosen = scene.chosen({}), below(chosen.size());
  below[node.index] = true;
  for (const std::uint32_t i : scene.parents_first()) {
    if (const NodeHandle parent = scene.nodes()[i].parent; parent.valid() && below[parent.index]) below[i] = true;
    chosen[i] = chosen[i] && below[i];
  }
  return chosen;
}

void include_chosen(const Scene& scene, const std::vector<bool>& chosen, CameraFit& into, double seconds) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(seconds, worlds);
  for (std::size_t i = 0; i < worlds.size(); ++i) {
    const Node& node = scene.nodes()[i];
    if (!chosen[i] || !node.mesh.valid()) continue;
    for (const Vec3& position : scene.meshes()[node.mesh.index].positions)
      into.include(worlds[i].apply_to_point(position));
  }
}

}  // namespace

Box bounds_of(const Scene& scene, const Selection& objects, double seconds) {
  return bounds_of_chosen(scene, scene.chosen(objects), seconds);
}

Box bounds_of(const Scene& scene, NodeHandle node, double seconds, Place place) {
  return bounds_of_chosen(scene, below(scene, node, place), seconds);
}

void include_vertices(const Scene& scene, CameraFit& into, const Selection& objects, double seconds) {
  include_chosen(scene, scene.chosen(objects), into, seconds);
}

void include_vertices(const Scene& scene, NodeHandle node, CameraFit& into, double seconds, Place place) {
  include_chosen(scene, below(scene, node, place), into, seconds);
}

}  // namespace periscena
