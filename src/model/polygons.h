#pragma once

#include <periscena/math/vector.h>

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace periscena {

/// Takes flat polygons apart into triangles of their corners, with their own winding.
///
/// Four corners are split along the shorter diagonal, convex polygons into a fan, in a time that grows with their
/// corners. Others lose one ear after another (Meisters, "Polygons have ears", American Mathematical Monthly 82, 1975);
/// one that cuts through itself gives some triangles. Those that are not convex take the square of their corners'
/// number, so there are limits: 1,024 corners for one, and about a second for all.
class Triangulation {
 public:
  using Triangles = std::vector<std::array<std::uint32_t, 3>>;
  static constexpr std::size_t most_concave_corners = 1024;

  /// @param corners  at least 3, in order @return three indices each; nothing past the limits
  std::optional<Triangles> triangulate(std::span<const Vec3> corners);

 private:
  Triangles cut_ears(std::span<const DoubleVec2> flat);
  bool is_ear(std::span<const DoubleVec2> flat, std::span<const std::uint32_t> left, std::size_t first);

  std::size_t steps_left_ = 300'000'000;
};

}  // namespace periscena
