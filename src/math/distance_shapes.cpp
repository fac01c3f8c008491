#include <periscena/math/distance_shapes.h>

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace periscena {

float ball_distance(const Vec3& place, float radius) {
  return place.norm() - radius;
}

float box_distance(const Vec3& place, const Vec3& half_size) {
  const Vec3 beyond = place.abs() - half_size;
  return beyond.max(0).norm() + std::min(beyond.largest(), 0.0f);
}

float plane_distance(const Vec3& place, const Vec3& normal, float height) {
  return place.dot(normal) - height;
}

float capsule_distance(const Vec3& place, const Vec3& a, const Vec3& b, float radius) {
  const Vec3 from = place - a, axis = b - a;
  const float along = std::clamp(from.dot(axis) / std::max(axis.dot(axis), 1e-12f), 0.0f, 1.0f);
  return (from - along * axis).norm() - radius;
}

float cylinder_distance(const Vec3& place, float radius, float half_height) {
  const Vec2 beyond(std::hypot(place[0], place[2]) - radius, std::abs(place[1]) - half_height);
  return beyond.max(0).norm() + std::min(beyond.largest(), 0.0f);
}

float ring_distance(const Vec3& place, float radius, float thickness) {
  return std::hypot(std::hypot(place[0], place[2]) - radius, place[1]) - thickness;
}

float united(float a, float b) {
  return std::min(a, b);
}
float common_part(float a, float b) {
  return std::max(a, b);
}
float cut(float a, float b) {
  return std::max(a, -b);
}

float melted(float a, float b, float width) {
  const float near = std::max(width - std::abs(a - b), 0.0f) / width;
  return std::min(a, b) - 0.25f * width * near * near;
}

float melted_common(float a, float b, float width) {
  return -melted(-a, -b, width);
}
float melted_cut(float a, float b, float width) {
  return melted_common(a, -b, width);
}

namespace {

/// −1..1 for a corner of the lattice (Jarzynski and Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020: pcg3d).
float corner_value(int x, int y, int z) {
  std::uint32_t v[3] = {static_cast<std::uint32_t>(x), static_cast<std::uint32_t>(y), static_cast<std::uint32_t>(z)};
  for (std::uint32_t& one : v) one = one * 1664525u + 1013904223u;
  const auto stir = [&] {
    v[0] += v[1] * v[2];
    v[1] += v[2] * v[0];
    v[2] += v[0] * v[1];
  };
  stir();
  for (std::uint32_t& one : v) one ^= one >> 16u;
  stir();
  return static_cast<float>(v[0] >> 8u) / 8388608.0f - 1;
}

}  // namespace

float smooth_noise(const Vec3& place) {
  const Vec3 corner(std::floor(place[0]), std::floor(place[1]), std::floor(place[2])), in = place - corner;
  const Vec3 share = in.times(in).times(Vec3::constant(3) - 2 * in);
  float sum = 0;
  for (int i = 0; i < 8; ++i) {
    const int up[3] = {i & 1, (i >> 1) & 1, i >> 2};
    float weight = 1;
    for (int k = 0; k < 3; ++k) weight *= up[k] ? share[k] : 1 - share[k];
    sum += weight * corner_value(static_cast<int>(corner[0]) + up[0], static_cast<int>(corner[1]) + up[1],
                                 static_cast<int>(corner[2]) + up[2]);
  }
  return sum;
}

float roughened(float distance, const Vec3& place, float height, float size) {
  return (distance + height * smooth_noise(place / size)) / (1 + height / size * steepest_noise);
}

}  // namespace periscena
