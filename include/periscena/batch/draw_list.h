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
/// First form: nodes outside the view are left out, mirrored ones come last, and equal meshes stand together. sort() is
/// for when objects come, go or are turned inside out; cull() is for every frame, and does not touch the heap.
class DrawList {
 public:
  /// @param mirrored  for all nodes: does its world transform mirror?
  void sort(const Scene& scene, std::span<const bool> mirrored);

  /// Keeps those of the sorted nodes that the view may see.
  /// @param bounds  for all nodes: a sphere around what it shows, world space
  /// @param view  what the pass sees, world space
  void cull(std::span<const Sphere> bounds, const Frustum& view);

  std::span<const std::uint32_t> nodes() const { return nodes_; }
  std::span<const Run> runs() const { return runs_; }
  std::size_t culled() const { return culled_; }  ///< nodes with a mesh that were left out

 private:
  std::vector<std::uint32_t> sorted_;  ///< all nodes that show something
  std::size_t first_mirrored_ = 0;     ///< index into sorted_
  std::vector<std::uint32_t> nodes_;
  std::vector<Run> runs_;
  std::size_t culled_ = 0;
};

/// Spheres around all meshes, in their own coordinates.
std::vector<Sphere> mesh_bounds(const Scene& scene);

}  // namespace periscena::batch
