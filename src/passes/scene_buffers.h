#pragma once

#include "passes/shading/material_textures.h"
#include "passes/shading/motions.h"

#include <periscena/batch/draw_list.h>
#include <periscena/gl/buffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/vertex_array.h>
#include <periscena/scene/scene.h>

#include <memory>
#include <vector>

namespace periscena::passes {

/// The Camera block of camera.glsl, std140.
struct CameraBlock {
  Mat4 view = Mat4::Identity();
  Mat4 projection = Mat4::Identity();
  Mat4 view_projection = Mat4::Identity();
  Mat4 inverse_view_projection = Mat4::Identity();
  Vec3 eye = Vec3::Zero();
  float near = 0;
  float far = 0;
  float padding[3] = {};

  /// Multiplied once, here. @param aspect  width by height of the pass' targets
  static CameraBlock of(const Camera& camera, float aspect);

  /// Shifts all that is seen. @param by  in clip space, which is 2 wide
  void shift(const Vec2& by);
  static gl::BlockLayout layout();
};

/// A block's bytes on the device: one buffer for all passes of a runner that want the same bytes, so that it stays
/// bound from one to the next.
std::shared_ptr<const gl::Buffer> shared_block(gl::PassSetup& setup, std::span<const std::byte> bytes,
                                               std::string_view label);

template <class Block>
std::shared_ptr<const gl::Buffer> shared_block(gl::PassSetup& setup, const Block& block, std::string_view label) {
  return shared_block(setup, std::as_bytes(std::span(&block, 1)), label);
}

/// One node as vertex programs see it: an element of the storage block Objects, std430.
struct ObjectBlock {
  static constexpr std::uint32_t none = 0x7FFFFFFF;  ///< no difference of two counts

  Vec3 x = Vec3::UnitX();       ///< columns of the linear part of its world transform
  std::uint32_t colors = none;  ///< index of the mesh's first colour, less that of its first vertex
  Vec3 y = Vec3::UnitY();
  std::uint32_t second_uv = none;  ///< the same for its second texture coordinates
  Vec3 z = Vec3::UnitZ();
  std::uint32_t padding = 0;
  Vec3 origin = Vec3::Zero();
  std::uint32_t more_padding = 0;

  void place(const Transform& world);

  static gl::BlockLayout layout();
};

/// A node's bounds as programs see them that cull: an element of the storage block BoundsOfNodes, std430.
struct BoundsBlock {
  Vec4 middle = Vec4::Zero();     ///< w: 1 when they are not finite
  Vec4 half_size = Vec4::Zero();  ///< negative when there is nothing

  static gl::BlockLayout layout();
};

/// Nodes in a row.
struct NodeRange {
  std::uint32_t first, count;
};

/// What moves and is not moved by the device.
std::vector<NodeRange> moved_by_cpu(const Scene& scene, const Motions& motions);

/// A map as shaders see it: rows of the matrix from texture coordinates to the image; w: layer, and set.
struct MapBlock {
  Vec4 u = Vec4(1, 0, 0, 0), v = Vec4(0, 1, 0, 0);
  std::uint32_t handle[2] = {};  ///< low word first; 0 when the map is bound
  std::uint32_t padding[2] = {};
};

/// One material: an element of the storage block Materials, std430.
struct MaterialBlock {
  Vec4 base_color = Vec4::Ones();
  Vec4 emission = Vec4::Zero();
  Vec4 specular = Vec4::Zero();
  Vec4 factors = Vec4::Zero();
  std::int32_t numbers[4] = {};
  MapBlock maps[map_count];

  static gl::BlockLayout layout();
};

/// The nodes of a scene as one variant dresses them.
struct Dress {
  static constexpr std::uint32_t no_receiver = 0x80000000;  ///< in a material number: shadows do not fall on the node

  gl::Buffer material_numbers;        ///< by node
  std::vector<batch::Traits> traits;  ///< by node; states are indices into SceneBuffers::states()
};

/// A scene on the device: all meshes in one buffer for each property and one for indices, all nodes and materials in
/// one storage buffer each. Shared by the passes of a runner.
class SceneBuffers {
 public:
  /// @param device  what the device can: see its limit MAX_SHADER_STORAGE_BLOCK_SIZE
  SceneBuffers(std::shared_ptr<const Scene> scene, const gl::Capabilities& device);

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
  const std::shared_ptr<const Scene>& shared_scene() const { return scene_; }
  std::span<const Transform> worlds() const { return worlds_; }  ///< those that the device moves as of time 0
  const batch::BoundsSet& bounds() const { return bounds_; }     ///< by node, world space
  std::span<const bool> mirrored() const { return {mirrored_.get(), worlds_.size()}; }  ///< by node

  /// All vertices and indices, and which node each instance is.
  /// @param nodes  numbers of nodes; a command's base instance is the place of its first one
  gl::VertexArray vertex_array(const gl::Buffer& nodes) const;
  int index_bytes() const { return index_bytes_; }
  const MaterialTextures& textures() const { return textures_; }

  /// A pass draws materials with these sets of textures in this frame. @param sets  see batch::Command::textures
  void need_textures(std::span<const std::uint32_t> sets) { textures_.need(sets, updated_); }

  /// Different states of materials; see Dress.
  const std::vector<MaterialState>& states() const { return states_; }

  /// What keeps draws of two different states apart, for people.
  std::string difference(std::uint32_t before, std::uint32_t after) const;

  /// Files of GLSL that materials bring along; MaterialState::surface counts them from 1.
  const std::vector<std::string>& surfaces() const { return surfaces_; }

  /// Names of the targets that materials show, in the order in which the materials' blocks count them, from 1.
  const std::vector<std::string>& shown() const { return shown_; }

  /// What a variant makes of the scene, made by the first pass that asks.
  /// @param variant  null for the scene as it is
  /// @param receivers  by node: do shadows fall on it? empty: on all
  std::shared_ptr<const Dress> dress(const Variant* variant, const std::vector<bool>& receivers = {});

  std::size_t most_block_bytes() const { return most_block_bytes_; }  ///< of a storage block of this device

  /// How many nodes one block holds. Nodes that one does not hold lie in several; what programs call a node's number is
  /// its place in its block then.
  std::uint32_t objects_a_block() const;

  /// @throws Mistake "over-device-limit" when objects lie in several blocks. @param what  "text" that needs them in one
  void expect_one_block(const char* what) const;

  /// Binds a block of objects, for programs that include periscena/objects.glsl.
  void bind_objects(gl::State& state, std::uint32_t block = 0) const;

  /// Binds a block of a buffer that holds an ObjectBlock for each node, as this one's own does.
  void bind_object_block(gl::State& state, std::uint32_t binding, const gl::Buffer& objects, std::uint32_t block) const;

  /// Binds all storage that lit passes' vertex and fragment programs read, but materials.
  void bind(gl::State& state, const Dress& dress, std::uint32_t block = 0) const;

  /// Binds the materials that draws of a state have. Materials that one block does not hold lie in several.
  void bind_materials(gl::State& state, const MaterialState& material) const;

  /// Objects whose bounds are not finite.
  Diagnostics diagnostics() const;

  /// The draw of some instances of a mesh, from a place in the list of nodes on.
  gl::DrawCommand command(const batch::Command& command) const;

 private:
  struct MeshRange {
    std::uint32_t first_index, index_count;
    std::int32_t base_vertex;
    std::uint32_t colors, second_uv;  ///< as in ObjectBlock
  };
  struct KnownDress {
    const Variant* variant;
    std::vector<bool> receivers;
    std::shared_ptr<const Dress> dress;
  };

  void upload_meshes();
  void upload_indices();
  void place_all(const gl::PassContext& context, double seconds);
  void fill_materials();
  std::uint32_t state_number(std::uint32_t material, std::uint32_t block);
  std::uint32_t materials_a_block() const;
  void expect_block(const char* what, std::size_t bytes) const;
  int picture_number(const Material& material);
  void place_node(std::uint32_t node, double seconds);
  void write_nodes(const gl::PassContext& context, NodeRange range);
  void write_bounds(const gl::PassContext& context, NodeRange range);

  std::shared_ptr<const Scene> scene_;
  std::string merging_ = "none: each object is drawn by itself";
  std::size_t most_block_bytes_;
  std::vector<MeshRange> ranges_;
  std::vector<batch::MeshBounds> mesh_bounds_;
  std::vector<Transform> worlds_;
  batch::BoundsSet bounds_;
  std::unique_ptr<bool[]> mirrored_;
  MaterialTextures textures_;
  Motions motions_;
  std::vector<std::string> shown_, surfaces_;
  std::vector<MaterialState> states_;
  std::vector<std::uint32_t> state_of_material_;
  std::vector<KnownDress> dresses_;
  std::vector<ObjectBlock> blocks_;
  std::vector<NodeRange> moving_;  ///< nodes that the CPU moves
  int index_bytes_ = 2;
  struct VertexStream {
    std::uint32_t attribute;
    int components, stride;
    gl::Buffer values;
  };
  std::vector<VertexStream> streams_;
  gl::Buffer indices_, objects_, materials_, mesh_colors_, second_uvs_, bounds_buffer_;
  std::vector<BoundsBlock> bounds_blocks_;  ///< empty when nobody wants them on the device
  std::uint64_t updated_ = 0;
  double seconds_ = 0;
  bool moved_ = true, changed_ = true, bounds_missing_ = false;
  std::uint64_t windings_ = 1;
};

}  // namespace periscena::passes
