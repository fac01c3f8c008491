#pragma once

#include <periscena/batch/batching.h>
#include <periscena/batch/bounds_set.h>
#include <periscena/scene/scene.h>

#include <span>
#include <vector>

namespace periscena::batch {

/// What a node's draw needs beside its mesh.
struct Traits {
  std::uint32_t state = 0;   ///< draws of equal numbers differ in nothing that a call has to set
  bool blended = false;      ///< must be drawn after what lies behind it
  bool any_winding = false;  ///< may be drawn with mirrored ones, because nothing asks which side of it is the front
  /// Must be equal within a command, where shaders find textures without their being bound
  std::uint32_t textures = 0;
};

/// Neighbours in a list that show the same mesh: one command, with as many instances.
struct Command {
  std::uint32_t mesh = 0;
  std::uint32_t first = 0;     ///< index into DrawList::nodes()
  std::uint32_t count = 0;     ///< of instances
  std::uint32_t textures = 0;  ///< that all of them have: see Traits
};

/// Consecutive commands that differ in nothing but mesh and objects.
struct Run {
  std::uint32_t first = 0;  ///< index into DrawList::commands()
  std::uint32_t count = 0;
  std::uint32_t state = 0;
  std::uint32_t object_block = 0;  ///< that its objects lie in
  bool mirrored = false;           ///< front faces are clockwise
  bool blended = false;
  Primitive primitive = Primitive::triangles;
  std::uint32_t view = 0;  ///< of several that are drawn at once

  bool operator==(const Run&) const = default;
};

/// Which nodes of a scene a pass draws, in which order.
///
/// Nodes outside the view are left out. Opaque ones are ordered from what costs most to change to what costs least:
/// state, block of objects, primitive, winding, mesh, textures; equal ones keep the order of the scene. Blended ones
/// come after them, from back to front, whatever that costs. sort() is for when objects come, go or are turned inside
/// out; cull() is for every frame in which something moved, and does not touch the heap.
class DrawList {
 public:
  /// @param views  that cull() will be asked for at once
  explicit DrawList(Batching batching = Batching::automatic, std::size_t views = 1)
      : batching_(batching), most_views_(views) {}

  /// @param mirrored  for all nodes: does its world transform mirror?
  /// @param traits  for all nodes; empty: all alike
  /// @param chosen  for all nodes: may it be drawn? empty: all may
  /// @param objects_a_block  how many nodes a storage block of the device holds; a call draws of one block
  /// @throws Mistake "over-device-limit" when there are more than 64 blocks
  void sort(const Scene& scene, std::span<const bool> mirrored, std::span<const Traits> traits = {},
            const std::vector<bool>& chosen = {}, std::uint32_t objects_a_block = ~0u);

  /// Keeps those of the sorted nodes that the view may see.
  /// @param bounds  of all nodes
  /// @param view  what the pass sees, world space
  /// @param eye  blended nodes are ordered by how far the middle of their bounds is from it
  void cull(const BoundsSet& bounds, const Frustum& view, const Vec3& eye = Vec3::zero());

  /// The same for several views at once: a node is there once for each view that may see it, and a run is of one view.
  /// Views follow each other within what else would be one run.
  void cull(const BoundsSet& bounds, std::span<const Frustum> views, const Vec3& eye = Vec3::zero());

  /// Keeps all of the sorted nodes, blended ones in the order of the scene: for culling that is done elsewhere.
  void take_all();

  /// In the order in which they are drawn
  std::span<const std::uint32_t> nodes() const { return std::span(nodes_).first(node_count_); }
  std::span<const Command> commands() const { return commands_; }
  std::span<const Run> runs() const { return runs_; }
  Batching batching() const { return batching_; }
  std::size_t chosen() const { return items_.size(); }          ///< nodes that may be drawn
  std::size_t culled() const { return items_.size() - seen_; }  ///< of these, outside of all views

 private:
  struct Item {
    std::uint64_t key;
    std::uint32_t node, mesh, textures;
  };
  struct Distance {
    float squared;
    std::uint32_t item;
  };

  /// Opaque items, sorted, that may be instances of one command.
  struct Group {
    std::size_t first, end;
  };

  void clear();
  void append(const Item& item, std::uint32_t view = 0);
  void append_visible(const Group& group, std::uint32_t view);
  void draw(const Item& item, std::uint32_t view, std::uint32_t instances);
  bool seen(std::uint32_t node, std::uint32_t views) const;

  Batching batching_;
  std::size_t most_views_;
  std::vector<Item> items_;                         ///< opaque ones, then blended ones
  std::size_t opaque_ = 0;                          ///< how many of them are
  std::vector<std::size_t> run_ends_;               ///< of opaque items, in groups
  std::vector<Group> groups_;                       ///< of them
  std::vector<std::uint32_t> item_nodes_;           ///< by item
  std::vector<std::vector<std::uint8_t>> visible_;  ///< by view, by node
  std::size_t seen_ = 0;
  std::vector<Distance> blended_;     ///< those in view
  std::vector<std::uint32_t> nodes_;  ///< with room for all items in all views
  std::size_t node_count_ = 0;
  std::vector<Command> commands_;
  std::vector<Run> runs_;
};

/// Where a mesh is, in its own coordinates.
struct MeshBounds {
  Box box;
  float radius = -1;  ///< of the ball around the box' middle that holds the mesh; negative: empty
};
MeshBounds mesh_bounds(const Mesh& mesh);
std::vector<MeshBounds> mesh_bounds(const Scene& scene);

/// Sets the bounds of an object that shows a mesh.
void place(BoundsSet& bounds, std::size_t index, const MeshBounds& mesh, const Transform& world);

}  // namespace periscena::batch
