#pragma once

#include <periscena/math/bounds.h>
#include <periscena/scene/scene.h>

#include <span>
#include <vector>

namespace periscena::batch {

/// Consecutive draws that differ in nothing but their object: one run is one draw call.
struct Run {
  std::uint32_t first = 0;  ///< index into DrawList::nodes()
  std::uint32_t count = 0;
  bool mirrored = false;  ///< front faces are clockwise
};

/// Which nodes of a scene a pass draws, in which order.
///
/// First form: nodes outside the view are left out, mirrored ones come last, and equal meshes stand together. Nothing
/// touches the heap once a list has been built for as many nodes.
class DrawList {
 public:
  /// @param worlds  world transforms of all nodes
  /// @param mesh_bounds  spheres around all meshes, in their own coordinates
  /// @param view  what the pass sees, in world space
  void build(const Scene& scene, std::span<const Transform> worlds, std::span<const Sphere> mesh_bounds, const Frustum& view);

  std::span<const std::uint32_t> nodes() const { return nodes_; }
  std::span<const Run> runs() const { return runs_; }
  std::size_t culled() const { return culled_; }  ///< nodes with a mesh that were left out

 private:
  std::vector<std::uint32_t> nodes_;
  std::vector<std::uint64_t> keys_;
  std::vector<Run> runs_;
  std::size_t culled_ = 0;
};

/// The spheres that build() wants.
std::vector<Sphere> mesh_bounds(const Scene& scene);

}  // namespace periscena::batch
