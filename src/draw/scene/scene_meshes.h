#pragma once

#include <periscena/batch/draw_list.h>
#include <periscena/gl/buffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/vertex_array.h>
#include <periscena/scene/scene.h>

#include <vector>

namespace periscena::draw {

/// The meshes of a scene on the device: one buffer for each property, and one for indices.
class SceneMeshes {
 public:
  explicit SceneMeshes(const Scene& scene);

  /// All vertices and indices, and which node each instance is.
  /// @param nodes  numbers of nodes; a command's base instance is the place of its first one
  gl::VertexArray vertex_array(const gl::Buffer& nodes) const;
  int index_bytes() const { return index_bytes_; }

  /// The draw of some instances of a mesh, from a place in the list of nodes on.
  gl::DrawCommand command(const batch::Command& command) const;

  /// Index of a mesh's first colour or second texture coordinates, less that of its first vertex; ObjectBlock::none.
  std::uint32_t colors_of(MeshHandle mesh) const { return ranges_[mesh.index].colors; }
  std::uint32_t second_uv_of(MeshHandle mesh) const { return ranges_[mesh.index].second_uv; }

  const gl::Buffer& colors() const { return colors_; }
  const gl::Buffer& second_uvs() const { return second_uvs_; }

 private:
  struct MeshRange {
    std::uint32_t first_index, index_count;
    std::int32_t base_vertex;
    std::uint32_t colors, second_uv;
  };
  struct VertexStream {
    std::uint32_t attribute;
    int components, stride;
    gl::Buffer values;
  };

  void upload_vertices(const Scene& scene);
  void upload_indices(const Scene& scene);

  std::vector<MeshRange> ranges_;
  std::vector<VertexStream> streams_;
  gl::Buffer indices_, colors_, second_uvs_;
  int index_bytes_ = 2;
};

}  // namespace periscena::draw
