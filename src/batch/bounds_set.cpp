#include <periscena/batch/bounds_set.h>

#include <Eigen/Core>

#include <cmath>

namespace periscena::batch {
namespace {

constexpr std::size_t block = 16;
using Lanes = Eigen::Array<float, block, 1>;
using ManyFloats = Eigen::Map<const Lanes>;

/// Larger than any distance to a plane in a scene that floats can tell apart, and small enough to add up.
constexpr float everywhere = 1e30f, nowhere = -1e30f;

}  // namespace

BoundsSet::BoundsSet(std::size_t count) : count_(count), sound_(count, 1) {
  const std::size_t padded = (count + block - 1) / block * block;
  for (int i = 0; i < 3; ++i) {
    center_[i].assign(padded, 0);
    half_[i].assign(padded, nowhere);
  }
  radius_.assign(padded, nowhere);
}

void BoundsSet::set(std::size_t index, const Box& box, float radius) {
  const bool empty = box.empty() || radius < 0;
  Vec3 center = box.center(), half = box.size() / 2;
  const bool sound = empty || (std::isfinite(center.sum()) && std::isfinite(half.sum()) && std::isfinite(radius));
  if (empty || !sound) {
    center = Vec3::Zero();
    half = Vec3::Constant(empty ? nowhere : everywhere);
    radius = empty ? nowhere : everywhere;
  }
  for (int i = 0; i < 3; ++i) {
    center_[i][index] = center[i];
    half_[i][index] = half[i];
  }
  radius_[index] = radius;
  unsound_ += static_cast<std::size_t>(sound_[index]) - static_cast<std::size_t>(sound);
  sound_[index] = sound;
}

void BoundsSet::set(std::size_t index, const Sphere& sphere) {
  const Vec3 half = Vec3::Constant(sphere.radius);
  set(index, sphere.empty() ? Box() : Box{sphere.center - half, sphere.center + half}, sphere.radius);
}

void BoundsSet::cull(const Frustum& view, std::span<std::uint8_t> visible) const {
  for (std::size_t first = 0; first < padded_size(); first += block) {
    const ManyFloats x(center_[0].data() + first), y(center_[1].data() + first), z(center_[2].data() + first),
        half_x(half_[0].data() + first), half_y(half_[1].data() + first), half_z(half_[2].data() + first),
        radius(radius_.data() + first);
    // How far the nearest corner is inside of the plane that it is furthest outside of.
    Lanes inside = Lanes::Constant(everywhere);
    for (const Plane& plane : view.planes()) {
      const Vec3& n = plane.normal;
      const Lanes distance = n.x() * x + n.y() * y + n.z() * z + plane.offset;
      const Lanes reach = std::abs(n.x()) * half_x + std::abs(n.y()) * half_y + std::abs(n.z()) * half_z;
      inside = inside.min(distance + reach.min(radius));
    }
    for (std::size_t i = 0; i < block; ++i) visible[first + i] = inside[static_cast<Eigen::Index>(i)] >= 0;
  }
}

}  // namespace periscena::batch
