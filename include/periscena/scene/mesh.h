#pragma once

#include <periscena/base/place.h>
#include <periscena/math/bounds.h>
#include <periscena/scene/stream.h>

#include <cstdint>
#include <vector>

namespace periscena {

/// What the corners of a mesh make.
enum class Primitive { triangles, lines, points };

/// One corner, for building meshes.
struct Vertex {
  Vec3 position = Vec3::zero();  ///< metres
  Vec3 normal = Vec3::unit_y();  ///< length 1, outward
  /// xyz: to the right in the texture's image, length 1; w: ±1, so that w · normal × tangent is up in the image (glTF
  /// 2.0, 3.7.2.1)
  Vec4 tangent{1, 0, 0, 1};
  /// Into the texture's image, from its upper left, v down (glTF 2.0, 3.8.3). Generated shapes give metres along the
  /// surface, so that textures tile by real size.
  Vec2 uv = Vec2::zero();
};

/// Corners and what they make: triangles counter-clockwise seen from outside, lines, or points. Each property of the
/// corners is a stream of its own, as it goes to the GPU; those that are not there stay empty.
struct Mesh {
  Primitive primitive = Primitive::triangles;
  Stream<Vec3> positions;
  Stream<Vec3> normals = {};    ///< may be missing for lines and points, which are then not lit
  Stream<Vec4> tangents = {};   ///< see Vertex; may be missing
  Stream<Vec2> uv = {};         ///< may be missing
  Stream<Vec2> second_uv = {};  ///< may be missing
  Stream<Vec4> colors = {};     ///< linear red, green, blue, alpha, multiplied with the material's; may be missing
  Stream<std::uint32_t> indices = {};  ///< three for each triangle, two for each line, one for each point

  /// The program changes its vertices, by Scene::change_mesh: objects of it are not merged with others.
  bool dynamic = false;

  /// Have both as many vertices, with the same properties, and the same indices?
  bool has_shape_of(const Mesh& other) const;

  /// Are their values the same memory, as those of copies are?
  bool is_copy_of(const Mesh& other) const;

  /// Of triangles; 0 for lines and points.
  std::size_t triangle_count() const { return primitive == Primitive::triangles ? indices.size() / 3 : 0; }

  /// Bytes that each index takes on the GPU: 2 while every index fits in 16 bits (65,536 corners), else 4.
  int index_bytes() const { return positions.size() <= 65536 ? 2 : 4; }

  Box bounds() const;

  /// Square metres.
  double area() const;

  /// Cubic metres enclosed, by the divergence theorem; positive when windings point outward. Means something for closed
  /// surfaces only.
  double volume() const;

  /// Does each edge, corners of equal position taken as one, border exactly two triangles of opposite directions?
  bool closed() const;

  bool operator==(const Mesh&) const = default;

  /// @throws Mistake "broken-mesh": nothing to draw, indices not in threes (twos for lines) or out of range, streams of
  /// different lengths, numbers that are not finite
  void expect_sound(std::string_view name, Place place = Place::here()) const;
};

/// A mesh of triangles in the making.
struct MeshBuilder {
  std::vector<Vertex> vertices;
  std::vector<std::uint32_t> indices;  ///< three for each triangle

  /// Appends a mesh of triangles, placed; what it lacks comes as in Vertex.
  void append(const Mesh& other, const Transform& placement);

  Mesh build() const;
};

/// The same triangles with a corner of its own for each, and with the normals of their faces (glTF 2.0, 3.7.2.1).
Mesh with_flat_normals(const Mesh& mesh);

/// The same triangles with tangents along their texture coordinates: corners are split where tangents differ or the
/// texture is mirrored; each corner's is the mean of those of its triangles, weighted by their angle there, square to
/// the normal. Without texture coordinates, or where they have no extent, any direction along the surface will do.
/// @see Mikkelsen, "Simulation of Wrinkled Surfaces Revisited", 2008, appendix; glTF 2.0, 3.7.2.1
Mesh with_tangents(const Mesh& mesh);

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
