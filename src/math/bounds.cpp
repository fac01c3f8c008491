#include <periscena/math/bounds.h>

#include <algorithm>
#include <cmath>

namespace periscena {

Sphere Sphere::transformed(const Transform& transform) const {
  if (empty()) return *this;
  const Mat4& matrix = transform.matrix();
  const Vec3 x = matrix.column(0).head<3>(), y = matrix.column(1).head<3>(), z = matrix.column(2).head<3>();
  // The largest stretch is at most the Frobenius norm, and at least the longest column; for orthogonal columns (no
  // shear) it is the longest column.
  const float longest = std::max({x.squared_norm(), y.squared_norm(), z.squared_norm()});
  const float shear = 2 * (std::abs(x.dot(y)) + std::abs(x.dot(z)) + std::abs(y.dot(z)));
  return {transform.apply_to_point(center), radius * std::sqrt(longest + shear)};
}

Box Box::around(std::span<const Vec3> points) {
  Box box;
  for (const Vec3& point : points) box.include(point);
  return box;
}

void Box::include(const Vec3& point) {
  min = min.min(point);
  max = max.max(point);
}

void Box::include(const Box& other) {
  min = min.min(other.min);
  max = max.max(other.max);
}

bool Box::contains(const Vec3& point) const {
  return all_at_most(min, point) && all_at_most(point, max);
}

Sphere Box::sphere() const {
  if (empty()) return {};
  return {center(), size().norm() / 2};
}

Box Box::transformed(const Transform& transform) const {
  if (empty()) return *this;
  const Mat4& matrix = transform.matrix();
  const Vec3 of_half = size() / 2;
  const Vec3 half = matrix.column(0).head<3>().abs() * of_half.x() + matrix.column(1).head<3>().abs() * of_half.y() +
                    matrix.column(2).head<3>().abs() * of_half.z();
  const Vec3 middle = transform.apply_to_point(center());
  Box box;
  box.min = middle - half;
  box.max = middle + half;
  return box;
}

Frustum Frustum::of(const Mat4& view_projection, DepthOrder depth) {
  const Vec4 x = view_projection.row(0), y = view_projection.row(1), z = view_projection.row(2),
             w = view_projection.row(3);
  const bool reversed = depth == DepthOrder::reversed;
  const std::array<Vec4, 6> rows{w + x, w - x, w + y, w - y, reversed ? w - z : z, reversed ? z : w - z};
  Frustum frustum;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const Vec3 normal = rows[i].head<3>();
    const float length = normal.norm();
    // An infinite lens has its far plane at infinity: a normal of 0 and a positive offset, which everything passes.
    frustum.planes_[i] = length > 1e-12f ? Plane{normal / length, rows[i][3] / length} : Plane{Vec3::zero(), 1};
  }
  return frustum;
}

bool Frustum::contains(const Vec3& point) const {
  return std::all_of(planes_.begin(), planes_.end(), [&](const Plane& plane) { return plane.distance(point) >= 0; });
}

bool Frustum::may_see(const Sphere& sphere) const {
  return !sphere.empty() && std::all_of(planes_.begin(), planes_.end(), [&](const Plane& plane) {
    return plane.distance(sphere.center) >= -sphere.radius;
  });
}

bool Frustum::may_see(const Box& box) const {
  return !box.empty() && std::all_of(planes_.begin(), planes_.end(), [&](const Plane& plane) {
    return plane.distance(box.center()) >= -plane.normal.abs().dot(box.size() / 2);
  });
}

}  // namespace periscena
