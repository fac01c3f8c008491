#pragma once

#include "draw/scene/blocks.h"
#include "draw/scene/merged_twin.h"
#include "draw/scene/motions.h"
#include "draw/scene/scatter.h"
#include "draw/scene/scene_materials.h"
#include "draw/scene/scene_meshes.h"
#include "draw/scene/shared_block.h"
#include "draw/screen/bound_textures.h"
#include "gl/buffer_texture.h"

#include <periscena/batch/draw_list.h>
#include <periscena/gl/buffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/vertex_array.h>
#include <periscena/scene/scene.h>

#include <memory>
#include <vector>

namespace periscena::draw {

/// Nodes in a row.
struct NodeRange {
  std::uint32_t first, count;
};

/// What moves by time and is not moved by the device.
std::vector<NodeRange> moved_by_cpu(const Scene& scene, const Motions& motions);

/// Which nodes hang on which.
class NodeTree {
 public:
  explicit NodeTree(const Scene& scene);

  std::span<const std::uint32_t> children(std::uint32_t node) const {
    return std::span(children_).subspan(first_[node], first_[node + 1] - first_[node]);
  }

 private:
  std::vector<std::uint32_t> first_, children_;
};

/// A scene on the device: all meshes in one buffer for each property and one for indices, all nodes and materials in
/// one storage buffer each. Shared by the passes of a runner.
class SceneBuffers {
 public:
  /// @param source  the scene that a program has and may change: the same, or the one that `scene` was merged from
  /// @param textures, meshes  of the scene
  SceneBuffers(std::shared_ptr<const Scene> scene, std::shared_ptr<const Scene> source,
               std::shared_ptr<TextureArrays> textures, std::shared_ptr<SceneMeshes> meshes, gl::Device& device);
  SceneBuffers(const std::shared_ptr<const Scene>& scene, gl::Device& device)
      : SceneBuffers(scene, scene, std::make_shared<TextureArrays>(*scene), std::make_shared<SceneMeshes>(*scene),
                     device) {}

  /// The scene's buffers in this runner, made by the first pass that asks.
  /// @param batching  merges what stands still, or some of it, before; scene() is what was made of it
  static std::shared_ptr<SceneBuffers> shared(gl::PassSetup& setup, const std::shared_ptr<const Scene>& scene,
                                              batch::Batching batching = batch::Batching::automatic);

  /// How much was merged, and by which rule, for people.
  const std::string& merging() const { return merging_; }

  /// Moves what moves to where it is at a time, and sends only that. Does something once a frame, whoever calls.
  void update(const gl::PassContext& context);

  /// Has the CPU moved anything in this frame, as compared with the one before? What moves on the device alone has
  /// bounds that hold at all times.
  bool moved() const { return moved_; }

  /// Is anything elsewhere than in the frame before, whoever moved it?
  bool changed() const { return changed_; }

  /// Keeps bounds of all nodes on the device, for programs that cull there: the storage block BoundsOfNodes.
  void keep_bounds_on_device();
  const gl::Buffer& bounds_on_device() const { return bounds_buffer_; }

  /// Counts up whenever an object is turned inside out: draw lists must be sorted anew.
  std::uint64_t windings() const { return windings_; }

  const Scene& scene() const { return *scene_; }
  /// The program's own: its lights, materials, cameras and transforms count. Nodes have the same numbers in both.
  const Scene& source() const { return *source_; }
  const std::shared_ptr<const Scene>& shared_source() const { return source_; }
  const std::shared_ptr<const Scene>& shared_scene() const { return scene_; }
  std::span<const Transform> worlds() const { return worlds_; }  ///< those that the device moves as of time 0
  const batch::BoundsSet& bounds() const { return bounds_; }     ///< by node, world space
  std::span<const bool> mirrored() const { return {mirrored_.get(), worlds_.size()}; }  ///< by node

  const SceneMeshes& meshes() const { return *meshes_; }
  const SceneMaterials& materials() const { return materials_; }
  SceneMaterials& materials() { return materials_; }

  /// A pass draws materials with these sets of textures in this frame. @param sets  see batch::Command::textures
  void need_textures(std::span<const std::uint32_t> sets) { materials_.need_textures(sets, updated_); }

  std::size_t most_block_bytes() const { return room_.most_bytes; }  ///< of a storage block of this device

  /// How many nodes one block holds. Nodes that one does not hold lie in several; what programs call a node's number is
  /// its place in its block then.
  std::uint32_t objects_a_block() const;

  /// @throws Mistake "over-device-limit" when objects lie in several blocks. @param what  "text" that needs them in one
  void expect_one_block(const char* what) const;

  /// Binds a block of objects, for programs that include periscena/objects.glsl.
  void bind_objects(gl::State& state, std::uint32_t block = 0) const;

  /// Binds a block of a buffer that holds an ObjectBlock for each node, as this one's own does.
  void bind_object_block(gl::State& state, std::uint32_t binding, const gl::Buffer& objects, std::uint32_t block) const;

  /// Do vertex programs read objects and materials as texels? A line for `#define` says so; else they are storage.
  bool has_texels() const { return object_texels_.name() != 0; }
  std::vector<std::string> texel_lines() const;

  /// Puts what such programs read. @param program  of this define
  void put_texels(const gl::Program& program, const Dress& dress, BoundTextures& into) const;

  /// Binds all storage that lit passes' vertex and fragment programs read, but materials.
  void bind(gl::State& state, const Dress& dress, std::uint32_t block = 0) const;

  /// Objects whose bounds are not finite.
  Diagnostics diagnostics() const;

 private:
  void keep(std::shared_ptr<const MergedTwin> twin);
  void place_all(const gl::PassContext& context, double seconds);
  void place_set_nodes(const gl::PassContext& context, std::span<const std::uint32_t> set, double seconds);
  void collect_below(std::uint32_t node);
  void place_node(std::uint32_t node, double seconds);
  void bound_node(std::uint32_t node);
  void follow_meshes(const gl::PassContext& context);
  void write_nodes(const gl::PassContext& context, NodeRange range);
  void fill_bounds(std::uint32_t node);
  void write_bounds(const gl::PassContext& context, NodeRange range);
  void fetch_node(std::uint32_t number) const;
  void send_placed_nodes(const gl::PassContext& context);

  std::shared_ptr<const Scene> scene_, source_;
  std::vector<std::shared_ptr<const MergedTwin>> twins_;  ///< of which this is the scene, so that none is made again
  std::string merging_ = "none: each object is drawn by itself";
  BlockRoom room_;
  std::shared_ptr<SceneMeshes> meshes_;
  SceneMaterials materials_;
  std::vector<batch::MeshBounds> mesh_bounds_;
  std::vector<Transform> worlds_;
  batch::BoundsSet bounds_;
  std::unique_ptr<bool[]> mirrored_;
  Motions motions_;
  std::vector<ObjectBlock> blocks_;
  std::vector<NodeRange> moving_;  ///< nodes that the CPU moves by time
  NodeTree tree_;
  std::optional<Scatter> scatter_;        ///< null: objects are few, or in several storage blocks, or none is dynamic
  std::vector<ObjectBlock> sent_blocks_;  ///< by it
  std::vector<BoundsBlock> sent_bounds_;
  std::vector<std::uint32_t> to_place_;   ///< nodes that the program moved, with those below
  std::vector<std::uint32_t> ranks_;      ///< by node: its place in Scene::parents_first(); empty: its number
  std::vector<std::uint64_t> placed_at_;  ///< by node: the frame in which it was put there
  std::uint64_t nodes_seen_ = 0;          ///< SceneVersions::nodes of the source
  std::uint64_t meshes_seen_ = 0;         ///< SceneVersions::meshes
  gl::Buffer objects_, bounds_buffer_;
  gl::BufferTexture object_texels_;         ///< empty where they are too many
  std::vector<BoundsBlock> bounds_blocks_;  ///< empty when nobody wants them on the device
  std::uint64_t updated_ = 0;
  double seconds_ = 0;
  bool moved_ = true, changed_ = true, bounds_missing_ = false;
  std::uint64_t windings_ = 1;
};

}  // namespace periscena::draw
