#pragma once

#include "draw/scene/free_ranges.h"

#include <periscena/batch/draw_list.h>
#include <periscena/gl/buffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/vertex_array.h>
#include <periscena/scene/scene.h>

#include <array>
#include <span>
#include <unordered_map>
#include <vector>

namespace periscena::draw {

/// The meshes of a scene on the device: one buffer for each property, and one for indices. When the scene has others,
/// those that are gone leave room for those that come, and buffers grow by copies on the device.
class SceneMeshes {
 public:
  explicit SceneMeshes(const Scene& scene) { take(scene); }

  /// Can they become those of another scene, and is that better than to begin again?
  bool fits(const Scene& scene) const;

  /// Become those of another scene: sends those that were not there. @throws Mistake "too-much-geometry"
  void take(const Scene& scene);

  /// All vertices and indices, and which node each instance is.
  /// @param nodes  numbers of nodes; a command's base instance is the place of its first one
  gl::VertexArray vertex_array(const gl::Buffer& nodes) const;
  int index_bytes() const { return index_bytes_; }

  /// The draw of some instances of a mesh, from a place in the list of nodes on.
  gl::DrawCommand command(const batch::Command& command) const;

  /// Sends the vertices of a mesh that has the shape of the one that was there.
  void write(const gl::PassContext& context, std::uint32_t number, const Mesh& mesh);

  /// Index of a mesh's first colour or second texture coordinates, less that of its first vertex; ObjectBlock::none.
  std::uint32_t colors_of(MeshHandle mesh) const;
  std::uint32_t second_uv_of(MeshHandle mesh) const;

  const gl::Buffer& colors() const { return buffers_[color].values; }
  const gl::Buffer& second_uvs() const { return buffers_[second_uv].values; }

  std::size_t bytes_sent() const { return bytes_sent_; }  ///< by take(), of meshes that were not there

 private:
  /// What is counted together: vertices, and what only some of them have.
  enum Row { vertex, index, color, second_uv, row_count };

  struct Held {
    Mesh mesh;
    std::array<std::uint64_t, row_count> first{}, count{};
  };
  /// What a row's elements are on the device: indices, colours and second texture coordinates one thing each.
  struct RowBuffer {
    gl::Buffer values;
    FreeRanges ranges;
  };
  struct VertexStream {
    std::uint32_t attribute;
    int components, stride;
    gl::Buffer values;
  };

  SceneMeshes() = default;

  static std::array<std::uint64_t, row_count> counts(const Mesh& mesh);
  std::size_t element_bytes(Row row) const;
  void make_streams();
  void place(Held& held);
  void place_all(std::span<const std::size_t> others);
  void make_room(Row row, std::uint64_t elements);
  template <class Write>
  void put(const Held& held, const Write& write, bool missing_too) const;
  void put_indices(const Held& held);

  std::vector<Held> held_;  ///< by mesh
  std::vector<VertexStream> streams_;
  std::array<RowBuffer, row_count> buffers_;  ///< that of vertices has ranges alone
  int index_bytes_ = 2;
  std::size_t bytes_sent_ = 0;
};

}  // namespace periscena::draw
