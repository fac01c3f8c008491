#include <periscena/batch/draw_list.h>

#include <algorithm>
#include <tuple>

namespace periscena::batch {

std::vector<Sphere> mesh_bounds(const Scene& scene) {
  std::vector<Sphere> bounds;
  for (const Mesh& mesh : scene.meshes()) bounds.push_back(mesh.bounds().sphere());
  return bounds;
}

void DrawList::sort(const Scene& scene, std::span<const bool> mirrored, std::span<const Traits> traits,
                    const std::vector<bool>& chosen) {
  const auto& scene_nodes = scene.nodes();
  opaque_.clear();
  blended_.clear();
  showing_ = 0;
  for (std::uint32_t i = 0; i < scene_nodes.size(); ++i) {
    if (!scene_nodes[i].mesh.valid()) continue;
    ++showing_;
    if (!chosen.empty() && !chosen[i]) continue;
    const Traits own = traits.empty() ? Traits{} : traits[i];
    (own.blended ? blended_ : opaque_)
        .push_back({i, own.state, scene.meshes()[scene_nodes[i].mesh.index].primitive, mirrored[i], 0});
  }
  // By what costs most to change, then mesh, then node, so the order is the same in every run.
  std::sort(opaque_.begin(), opaque_.end(), [&](const Item& a, const Item& b) {
    return std::tuple(a.state, a.primitive, a.mirrored, scene_nodes[a.node].mesh, a.node) <
           std::tuple(b.state, b.primitive, b.mirrored, scene_nodes[b.node].mesh, b.node);
  });
  nodes_.reserve(opaque_.size() + blended_.size());
  runs_.reserve(opaque_.size() + blended_.size());
  seen_.reserve(blended_.size());
}

void DrawList::append(const Item& item, bool blended) {
  if (runs_.empty() || runs_.back().state != item.state || runs_.back().mirrored != item.mirrored ||
      runs_.back().blended != blended || runs_.back().primitive != item.primitive) {
    runs_.push_back(
        {static_cast<std::uint32_t>(nodes_.size()), 0, item.state, item.mirrored, blended, item.primitive});
  }
  ++runs_.back().count;
  nodes_.push_back(item.node);
}

void DrawList::cull(std::span<const Sphere> bounds, const Frustum& view, const Vec3& eye) {
  nodes_.clear();
  runs_.clear();
  seen_.clear();
  for (const Item& item : opaque_) {
    if (view.may_see(bounds[item.node])) append(item, false);
  }
  for (Item item : blended_) {
    if (!view.may_see(bounds[item.node])) continue;
    item.distance = (bounds[item.node].center - eye).squaredNorm();
    seen_.push_back(item);
  }
  std::sort(seen_.begin(), seen_.end(), [](const Item& a, const Item& b) {
    return std::tuple(-a.distance, a.node) < std::tuple(-b.distance, b.node);
  });
  for (const Item& item : seen_) append(item, true);
  culled_ = showing_ - nodes_.size();
}

}  // namespace periscena::batch
