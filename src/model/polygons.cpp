#include "model/polygons.h"

#include <algorithm>
#include <limits>
#include <numeric>

namespace periscena {
namespace {

using Triangles = Triangulation::Triangles;

/// Twice the area of a triangle, positive when it runs counterclockwise.
double turn(const DoubleVec2& a, const DoubleVec2& b, const DoubleVec2& c) {
  return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x());
}

/// The polygon in the plane that shows most of it, counterclockwise. Its normal is Newell's (Sutherland, Sproull and
/// Schumacker, "A characterization of ten hidden-surface algorithms", 1974).
std::vector<DoubleVec2> flattened(std::span<const Vec3> corners) {
  DoubleVec3 normal = DoubleVec3::zero();
  for (std::size_t i = 0; i < corners.size(); ++i) {
    const DoubleVec3 from = corners[i].cast<double>(), to = corners[(i + 1) % corners.size()].cast<double>();
    normal.x() += (from.y() - to.y()) * (from.z() + to.z());
    normal.y() += (from.z() - to.z()) * (from.x() + to.x());
    normal.z() += (from.x() - to.x()) * (from.y() + to.y());
  }
  const int left_out = normal.abs().largest_axis();
  int first = (left_out + 1) % 3, second = (left_out + 2) % 3;
  if (normal[left_out] < 0) std::swap(first, second);
  std::vector<DoubleVec2> flat;
  flat.reserve(corners.size());
  for (const Vec3& corner : corners)
    flat.emplace_back(static_cast<double>(corner[first]), static_cast<double>(corner[second]));
  return flat;
}

/// It never turns right, but by what rounding of 32-bit corners may do, and goes round once: its edges change from
/// leftward to rightward once, and back.
bool is_convex(const std::vector<DoubleVec2>& flat) {
  const std::size_t n = flat.size();
  double extent = 0;
  for (const DoubleVec2& corner : flat) extent = std::max(extent, corner.abs().largest());
  const double rounding = 4 * extent * static_cast<double>(std::numeric_limits<float>::epsilon());
  int changes = 0, direction = 0, first_direction = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const DoubleVec2 &a = flat[i], &b = flat[(i + 1) % n], &c = flat[(i + 2) % n];
    if (turn(a, b, c) < -rounding * ((b - a).norm() + (c - b).norm())) return false;
    const double step = b.x() - a.x();
    const int now = step > rounding ? 1 : step < -rounding ? -1 : direction;
    if (first_direction == 0) first_direction = now;
    if (direction != 0 && now != direction) ++changes;
    direction = now;
  }
  if (direction != first_direction) ++changes;
  return changes <= 2;
}

Triangles fan(std::size_t corners) {
  Triangles triangles;
  triangles.reserve(corners - 2);
  for (std::uint32_t i = 1; i + 1 < corners; ++i) triangles.push_back({0, i, i + 1});
  return triangles;
}

bool is_within(const DoubleVec2& point, const DoubleVec2& a, const DoubleVec2& b, const DoubleVec2& c) {
  return turn(a, b, point) >= 0 && turn(b, c, point) >= 0 && turn(c, a, point) >= 0;
}

}  // namespace

bool Triangulation::is_ear(std::span<const DoubleVec2> flat, std::span<const std::uint32_t> left, std::size_t first) {
  const auto at = [&](std::size_t i) { return flat[left[i < left.size() ? i : i - left.size()]]; };
  const DoubleVec2 a = at(first), b = at(first + 1), c = at(first + 2);
  if (steps_left_ > 0) --steps_left_;
  if (turn(a, b, c) <= 0) return false;
  for (std::size_t k = first + 3; k < first + left.size() && steps_left_ > 0; ++k, --steps_left_) {
    const DoubleVec2 other = at(k);
    if (other != a && other != b && other != c && is_within(other, a, b, c)) return false;
  }
  return true;
}

Triangles Triangulation::cut_ears(std::span<const DoubleVec2> flat) {
  std::vector<std::uint32_t> left(flat.size());
  std::iota(left.begin(), left.end(), 0u);
  Triangles triangles;
  // Where the last ear was, the next one often is. One round without any: it cuts through itself, and some corner goes.
  std::size_t start = 0, looked_at = 0;
  while (left.size() > 3) {
    start %= left.size();
    const bool give_in = looked_at++ >= left.size();
    if (!give_in && !is_ear(flat, left, start)) {
      ++start;
      continue;
    }
    const std::size_t n = left.size(), middle = (start + 1) % n;
    triangles.push_back({left[start], left[middle], left[(start + 2) % n]});
    left.erase(left.begin() + static_cast<std::ptrdiff_t>(middle));
    if (middle < start) --start;
    looked_at = 0;
  }
  triangles.push_back({left[0], left[1], left[2]});
  return triangles;
}

std::optional<Triangles> Triangulation::triangulate(std::span<const Vec3> corners) {
  if (corners.size() == 3) return Triangles{{0, 1, 2}};
  if (corners.size() == 4) {
    const bool first = (corners[2] - corners[0]).squared_norm() < (corners[3] - corners[1]).squared_norm();
    return first ? Triangles{{0, 1, 2}, {0, 2, 3}} : Triangles{{0, 1, 3}, {1, 2, 3}};
  }
  const std::vector<DoubleVec2> flat = flattened(corners);
  if (is_convex(flat)) return fan(corners.size());
  if (corners.size() > most_concave_corners || steps_left_ == 0) return std::nullopt;
  return cut_ears(flat);
}

}  // namespace periscena
