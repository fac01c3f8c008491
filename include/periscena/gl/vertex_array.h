#pragma once

#include <periscena/gl/buffer.h>

namespace periscena::gl {

/// Where vertex attributes come from.
class VertexArray {
 public:
  explicit VertexArray(std::string_view label);

  /// Floats, one set for each vertex.
  /// @param slot  which vertex buffer, see set_vertices; @param components  1..4; @param offset  bytes into the vertex
  void add_floats(std::uint32_t attribute, std::uint32_t slot, int components, std::uint32_t offset) const;

  /// One unsigned integer.
  void add_integer(std::uint32_t attribute, std::uint32_t slot, std::uint32_t offset) const;

  void set_vertices(std::uint32_t slot, const Buffer& buffer, int stride) const;
  void set_per_instance(std::uint32_t slot) const;  ///< it goes on with instances, not with vertices
  void set_indices(const Buffer& buffer) const;

  std::uint32_t name() const { return name_.get(); }

 private:
  ObjectName<ObjectKind::vertex_array> name_;
};

}  // namespace periscena::gl
