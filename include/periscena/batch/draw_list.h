#pragma once

#include <periscena/math/bounds.h>
#include <periscena/scene/scene.h>

#include <span>
#include <vector>

namespace periscena::batch {

/// What a node's draw needs beside its mesh.
struct Traits {
  std::uint32_t state = 0;  ///< draws of equal numbers differ in nothing that a call has to set
  bool blended = false;     ///< must be drawn after what lies behind it
};

/// Consecutive draws that differ in nothing but their object: one run is one draw call.
struct Run {
  std::uint32_t first = 0;  ///< index into DrawList::nodes()
  std::uint32_t count = 0;
  std::uint32_t state = 0;
  bool mirrored = false;  ///< front faces are clockwise
  bool blended = false;
  Primitive primitive = Primitive::triangles;
};

/// Which nodes of a scene a pass draws, in which order.
///
/// Nodes outside the view are left out. Opaque ones are ordered by state, so that runs are long, equal meshes together;
/// blended ones come after them, from back to front. sort() is for when objects come, go or are turned inside out;
/// cull() is for every frame, and does not touch the heap.
class DrawList {
 public:
  /// @param mirrored  for all nodes: does its world transform mirror?
  /// @param traits  for all nodes; empty: all alike
  /// @param chosen  for all nodes: may it be drawn? empty: all may
  void sort(const Scene& scene, std::span<const bool> mirrored, std::span<const Traits> traits = {},
            const std::vector<bool>& chosen = {});

  /// Keeps those of the sorted nodes that the view may see.
  /// @param bounds  for all nodes: a sphere around what it shows, world space
  /// @param view  what the pass sees, world space
  /// @param eye  blended nodes are ordered by how far the middle of their bounds is from it
  void cull(std::span<const Sphere> bounds, const Frustum& view, const Vec3& eye = Vec3::Zero());

  std::span<const std::uint32_t> nodes() const { return nodes_; }
  std::span<const Run> runs() const { return runs_; }
  std::size_t culled() const { return culled_; }  ///< nodes with a mesh that were left out, or not chosen

 private:
  struct Item {
    std::uint32_t node, state;
    Primitive primitive;
    bool mirrored;
    float distance;
  };

  void append(const Item& item, bool blended);

  std::vector<Item> opaque_, blended_;  ///< all nodes that show something
  std::vector<Item> seen_;              ///< of the blended ones
  std::vector<std::uint32_t> nodes_;
  std::vector<Run> runs_;
  std::size_t showing_ = 0, culled_ = 0;
};

/// Spheres around all meshes, in their own coordinates.
std::vector<Sphere> mesh_bounds(const Scene& scene);

}  // namespace periscena::batch
