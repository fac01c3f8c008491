#pragma once

#include <periscena/base/place.h>
#include <periscena/math/bounds.h>

#include <cstdint>
#include <vector>

namespace periscena {

/// One corner as it goes to the GPU.
struct Vertex {
  Vec3 position = Vec3::Zero();  ///< metres
  Vec3 normal = Vec3::UnitY();   ///< length 1, outward
  /// xyz: along texture u, length 1; w: ±1, bitangent = w · normal × tangent (glTF 2.0, 3.7.2.1)
  PackedVec4 tangent{1, 0, 0, 1};
  Vec2 uv = Vec2::Zero();  ///< metres along the surface, so that textures tile by real size
};
static_assert(sizeof(Vertex) == 48);

/// Triangles with shared corners. Counter-clockwise seen from outside.
struct Mesh {
  std::vector<Vertex> vertices;
  std::vector<std::uint32_t> indices;  ///< three for each triangle

  std::size_t triangle_count() const { return indices.size() / 3; }

  /// Bytes that each index takes on the GPU: 2 while every index fits in 16 bits (65,536 corners), else 4.
  int index_bytes() const { return vertices.size() <= 65536 ? 2 : 4; }

  Box bounds() const;

  /// Square metres.
  double area() const;

  /// Cubic metres enclosed, by the divergence theorem; positive when windings point outward. Means something for closed
  /// surfaces only.
  double volume() const;

  /// Does each edge, corners of equal position taken as one, border exactly two triangles of opposite directions?
  bool closed() const;

  /// Appends another mesh, placed.
  void append(const Mesh& other, const Transform& placement);

  /// @throws Mistake "broken-mesh": no triangles, indices not in threes or out of range, numbers that are not finite
  void expect_sound(std::string_view name, Place place = Place::here()) const;
};

/// Generators. All are centred at the origin, with outward windings and unit normals; sizes are metres, > 0 and finite;
/// counts of segments are clamped to nothing: too few or more than 4096 is refused. @throws Mistake "bad-shape"
namespace shapes {

/// Sides along the axes, flat faces with corners of their own.
Mesh box(const Vec3& size, Place place = Place::here());

/// In the XZ plane, facing +Y. @param segments  along each side, at least 1
Mesh plane(float width, float depth, int segments = 1, Place place = Place::here());

/// Along Y, with both ends closed. @param segments  around, at least 3
Mesh cylinder(float radius, float height, int segments = 24, Place place = Place::here());

/// Along Y, tip up, with its base closed. @param segments  around, at least 3
Mesh cone(float radius, float height, int segments = 24, Place place = Place::here());

/// @param segments  around, at least 3; half as many from pole to pole, at least 2
Mesh sphere(float radius, int segments = 32, Place place = Place::here());

/// Lying in XZ. @param radius  to the middle of the tube; @param tube  the tube's own radius, at most `radius`
Mesh torus(float radius, float tube, int segments = 32, int tube_segments = 16, Place place = Place::here());

}  // namespace shapes
}  // namespace periscena
