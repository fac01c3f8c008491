#include "draw/scene/scene_meshes.h"

#include "draw/scene/blocks.h"

#include <periscena/batch/geometry.h>
#include <periscena/gl/bindings.h>

#include <algorithm>

namespace periscena::draw {
namespace {

/// All values of one stream of all meshes; `missing` where a mesh has none.
template <class T>
gl::Buffer upload_stream(const Scene& scene, Stream<T> Mesh::*stream, const T& missing, const char* label) {
  std::size_t count = 0;
  for (const Mesh& mesh : scene.meshes()) count += mesh.positions.size();
  gl::Buffer buffer = gl::Buffer::writable(count * sizeof(T), label);
  std::size_t at = 0;
  for (const Mesh& mesh : scene.meshes()) {
    const Stream<T>& values = mesh.*stream;
    // Straight from where they lie, which may be the memory of a file.
    if (!values.empty()) {
      buffer.write(at, values.bytes());
    } else {
      const std::vector<T> filler(mesh.positions.size(), missing);
      buffer.write(at, std::as_bytes(std::span(filler)));
    }
    at += mesh.positions.size() * sizeof(T);
  }
  return buffer;
}

/// The values of those meshes that have them, one after the other.
template <class T>
gl::Buffer upload_sparse(const Scene& scene, Stream<T> Mesh::*stream, const char* label) {
  std::size_t count = 0;
  for (const Mesh& mesh : scene.meshes()) count += (mesh.*stream).size();
  gl::Buffer buffer = gl::Buffer::writable(std::max<std::size_t>(1, count) * sizeof(T), label);
  std::size_t at = 0;
  for (const Mesh& mesh : scene.meshes()) {
    if (!(mesh.*stream).empty()) buffer.write(at, (mesh.*stream).bytes());
    at += (mesh.*stream).bytes().size();
  }
  return buffer;
}

}  // namespace

SceneMeshes::SceneMeshes(const Scene& scene) {
  // Those that were removed have left empty ones.
  const bool any = std::any_of(scene.meshes().begin(), scene.meshes().end(),
                               [](const Mesh& mesh) { return !mesh.positions.empty(); });
  if (any) upload_vertices(scene);
}

void SceneMeshes::upload_vertices(const Scene& scene) {
  std::vector<batch::MeshSize> sizes;
  for (const Mesh& mesh : scene.meshes()) {
    sizes.push_back({mesh.positions.size(), mesh.indices.size(), mesh.colors.size(), mesh.second_uv.size()});
    index_bytes_ = std::max(index_bytes_, mesh.index_bytes());
  }
  const std::vector<batch::MeshStart> starts = batch::lay_out(sizes);
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    const batch::MeshStart& at = starts[i];
    ranges_.push_back({at.index, static_cast<std::uint32_t>(sizes[i].indices), static_cast<std::int32_t>(at.vertex),
                       sizes[i].colors == 0 ? ObjectBlock::none : at.color - at.vertex,
                       sizes[i].second_uvs == 0 ? ObjectBlock::none : at.second_uv - at.vertex});
  }
  namespace at = gl::binding;
  const auto add = [&](std::uint32_t attribute, int components, gl::Buffer buffer, int stride) {
    streams_.push_back({attribute, components, stride, std::move(buffer)});
  };
  add(at::position_attribute, 3, upload_stream<Vec3>(scene, &Mesh::positions, Vec3::zero(), "scene positions"),
      sizeof(Vec3));
  add(at::normal_attribute, 3, upload_stream<Vec3>(scene, &Mesh::normals, Vec3::zero(), "scene normals"), sizeof(Vec3));
  add(at::tangent_attribute, 4, upload_stream<Vec4>(scene, &Mesh::tangents, Vec4(0, 0, 0, 1), "scene tangents"),
      sizeof(Vec4));
  add(at::uv_attribute, 2, upload_stream<Vec2>(scene, &Mesh::uv, Vec2::zero(), "scene texture coordinates"),
      sizeof(Vec2));
  upload_indices(scene);
  colors_ = upload_sparse(scene, &Mesh::colors, "scene colors");
  second_uvs_ = upload_sparse(scene, &Mesh::second_uv, "scene second texture coordinates");
}

void SceneMeshes::upload_indices(const Scene& scene) {
  std::size_t count = 0;
  for (const Mesh& mesh : scene.meshes()) count += mesh.indices.size();
  indices_ = gl::Buffer::writable(count * static_cast<std::size_t>(index_bytes_), "scene indices");
  std::size_t at = 0;
  for (const Mesh& mesh : scene.meshes()) {
    if (index_bytes_ == 2) {
      const std::vector<std::uint16_t> narrow(mesh.indices.begin(), mesh.indices.end());
      indices_.write(at, std::as_bytes(std::span(narrow)));
    } else {
      indices_.write(at, mesh.indices.bytes());
    }
    at += mesh.indices.size() * static_cast<std::size_t>(index_bytes_);
  }
}

gl::VertexArray SceneMeshes::vertex_array(const gl::Buffer& nodes) const {
  gl::VertexArray made("scene");
  std::uint32_t slot = 0;
  for (const VertexStream& stream : streams_) {
    made.add_floats(stream.attribute, slot, stream.components, 0);
    made.set_vertices(slot++, stream.values, stream.stride);
  }
  made.add_integer(gl::binding::object_index_attribute, slot, 0);
  made.set_vertices(slot, nodes, sizeof(std::uint32_t));
  made.set_per_instance(slot);
  if (indices_.size() > 0) made.set_indices(indices_);
  return made;
}

gl::DrawCommand SceneMeshes::command(const batch::Command& command) const {
  const MeshRange& range = ranges_[command.mesh];
  return {range.index_count, command.count, range.first_index, range.base_vertex, command.first};
}

}  // namespace periscena::draw
