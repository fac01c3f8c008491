#include <periscena/batch/draw_list.h>

#include <algorithm>
#include <tuple>

namespace periscena::batch {
std::vector<Sphere> mesh_bounds(const Scene& scene) {
  std::vector<Sphere> bounds;
  for (const Mesh& mesh : scene.meshes()) bounds.push_back(mesh.bounds().sphere());
  return bounds;
}

void DrawList::sort(const Scene& scene, std::span<const bool> mirrored) {
  const auto& scene_nodes = scene.nodes();
  sorted_.clear();
  for (std::uint32_t i = 0; i < scene_nodes.size(); ++i) {
    if (scene_nodes[i].mesh.valid()) sorted_.push_back(i);
  }
  // By winding, then mesh, then node, so the order is the same in every run.
  std::sort(sorted_.begin(), sorted_.end(), [&](std::uint32_t a, std::uint32_t b) {
    return std::tuple(mirrored[a], scene_nodes[a].mesh, a) < std::tuple(mirrored[b], scene_nodes[b].mesh, b);
  });
  const auto first = std::find_if(sorted_.begin(), sorted_.end(), [&](std::uint32_t node) { return mirrored[node]; });
  first_mirrored_ = static_cast<std::size_t>(first - sorted_.begin());
  nodes_.reserve(sorted_.size());
  runs_.reserve(2);
}

void DrawList::cull(std::span<const Sphere> bounds, const Frustum& view) {
  nodes_.clear();
  runs_.clear();
  const auto keep_visible = [&](std::size_t from, std::size_t to, bool mirrored) {
    const auto first = static_cast<std::uint32_t>(nodes_.size());
    for (std::size_t i = from; i < to; ++i) {
      if (view.may_see(bounds[sorted_[i]])) nodes_.push_back(sorted_[i]);
    }
    const auto count = static_cast<std::uint32_t>(nodes_.size()) - first;
    if (count > 0) runs_.push_back({first, count, mirrored});
  };
  keep_visible(0, first_mirrored_, false);
  keep_visible(first_mirrored_, sorted_.size(), true);
  culled_ = sorted_.size() - nodes_.size();
}

}  // namespace periscena::batch
