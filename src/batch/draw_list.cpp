#include <periscena/batch/draw_list.h>

#include <algorithm>

namespace periscena::batch {
namespace {

/// Sorts by winding, then mesh, then node, so the order is the same in every frame.
std::uint64_t sort_key(bool mirrored, std::uint32_t mesh, std::uint32_t node) {
  return std::uint64_t{mirrored} << 63 | std::uint64_t{mesh & 0x7FFFFFFFu} << 32 | node;
}

}  // namespace

std::vector<Sphere> mesh_bounds(const Scene& scene) {
  std::vector<Sphere> bounds;
  for (const Mesh& mesh : scene.meshes()) bounds.push_back(mesh.bounds().sphere());
  return bounds;
}

void DrawList::build(const Scene& scene, std::span<const Transform> worlds, std::span<const Sphere> mesh_bounds,
                     const Frustum& view) {
  const auto& scene_nodes = scene.nodes();
  keys_.clear();
  keys_.reserve(scene_nodes.size());
  culled_ = 0;
  for (std::uint32_t i = 0; i < scene_nodes.size(); ++i) {
    const std::uint32_t mesh = scene_nodes[i].mesh.index;
    if (mesh == MeshHandle::none) continue;
    if (view.may_see(mesh_bounds[mesh].transformed(worlds[i]))) {
      keys_.push_back(sort_key(worlds[i].mirrors(), mesh, i));
    } else {
      ++culled_;
    }
  }
  std::sort(keys_.begin(), keys_.end());
  nodes_.clear();
  nodes_.reserve(scene_nodes.size());
  runs_.clear();
  for (const std::uint64_t key : keys_) {
    const bool mirrored = key >> 63;
    if (runs_.empty() || runs_.back().mirrored != mirrored) {
      runs_.push_back({static_cast<std::uint32_t>(nodes_.size()), 0, mirrored});
    }
    nodes_.push_back(static_cast<std::uint32_t>(key & 0xFFFFFFFFu));
    ++runs_.back().count;
  }
}

}  // namespace periscena::batch
