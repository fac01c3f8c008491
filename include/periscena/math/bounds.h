#pragma once

#include <periscena/math/projection.h>

#include <array>
#include <span>

namespace periscena {

/// A ball. A negative radius means empty.
struct Sphere {
  Vec3 center = Vec3::zero();
  float radius = -1;

  bool empty() const { return radius < 0; }

  /// The ball around the transformed one: the radius grows with the largest stretch, so nothing sticks out.
  Sphere transformed(const Transform& transform) const;
};

/// A box along the axes. Empty as default-made.
struct Box {
  Vec3 min = Vec3::constant(std::numeric_limits<float>::infinity());
  Vec3 max = Vec3::constant(-std::numeric_limits<float>::infinity());

  static Box around(std::span<const Vec3> points);

  bool empty() const { return any_less(max, min); }
  void include(const Vec3& point);
  void include(const Box& other);
  bool contains(const Vec3& point) const;
  Vec3 center() const { return (min + max) / 2; }
  Vec3 size() const { return max - min; }

  /// The ball through the corners; empty for an empty box.
  Sphere sphere() const;

  /// The tightest box along the axes around the transformed box.
  /// @see Arvo, "Transforming Axis-Aligned Bounding Boxes", Graphics Gems, 1990
  Box transformed(const Transform& transform) const;
};

/// All points with normal·p + offset >= 0 are inside. The normal has length 1, except that a plane at infinity has
/// normal 0.
struct Plane {
  Vec3 normal = Vec3::zero();
  float offset = 1;

  float distance(const Vec3& point) const { return normal.dot(point) + offset; }
};

/// What a camera sees: six planes with inward normals.
class Frustum {
 public:
  /// Left, right, bottom, top, near, far, in the space that the matrix maps from.
  /// @param view_projection  to clip space with depth 0..1, of either order
  /// @see Gribb and Hartmann, "Fast Extraction of Viewing Frustum Planes", 2001
  static Frustum of(const Mat4& view_projection, DepthOrder depth);

  const std::array<Plane, 6>& planes() const { return planes_; }
  bool contains(const Vec3& point) const;

  /// False only when surely outside: a ball or box near a corner may be called visible although it is not. Empty ones
  /// are never visible.
  bool may_see(const Sphere& sphere) const;
  bool may_see(const Box& box) const;

 private:
  std::array<Plane, 6> planes_;
};

}  // namespace periscena
