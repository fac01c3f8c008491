#include <periscena/scene/scene_bounds.h>

namespace periscena {

Box bounds_of(const Scene& scene, const Selection& objects, double seconds) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(seconds, worlds);
  const std::vector<bool> chosen = scene.chosen(objects);
  std::vector<Box> boxes;
  for (const Mesh& mesh : scene.meshes()) boxes.push_back(mesh.bounds());
  Box all;
  for (std::size_t i = 0; i < worlds.size(); ++i) {
    const Node& node = scene.nodes()[i];
    if (!chosen[i] || !node.mesh.valid() || boxes[node.mesh.index].empty()) continue;
    const Box box = boxes[node.mesh.index].transformed(worlds[i]);
    if (is_finite(box.min) && is_finite(box.max)) all.include(box);
  }
  return all;
}

}  // namespace periscena
