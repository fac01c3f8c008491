#include <periscena/batch/bounds_set.h>

#include <array>
#include <cmath>

namespace periscena::batch {
namespace {

constexpr std::size_t block = 16;

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
    center = Vec3::zero();
    half = Vec3::constant(empty ? nowhere : everywhere);
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
  const Vec3 half = Vec3::constant(sphere.radius);
  set(index, sphere.empty() ? Box() : Box{sphere.center - half, sphere.center + half}, sphere.radius);
}

namespace {

/// What a set keeps, one array for each number.
struct Columns {
  const float *x, *y, *z, *half_x, *half_y, *half_z, *radius;
};

/// A plane with what it takes to find how far a box reaches towards it.
struct Side {
  float x, y, z, offset, across_x, across_y, across_z;
};

using Sides = std::array<Side, 6>;

/// Loops of fixed length without branches, which compilers make into vectors of whatever width they may.
[[gnu::always_inline]] inline void cull_columns(const Columns& all, std::size_t count, const Sides& sides,
                                                std::uint8_t* visible) {
  for (std::size_t first = 0; first < count; first += block) {
    // How far the nearest corner is inside of the plane that it is furthest outside of.
    float inside[block];
    for (float& one : inside) one = everywhere;
    for (const Side& side : sides) {
      for (std::size_t k = 0; k < block; ++k) {
        const std::size_t i = first + k;
        const float distance = side.x * all.x[i] + side.y * all.y[i] + side.z * all.z[i] + side.offset;
        const float reach =
            side.across_x * all.half_x[i] + side.across_y * all.half_y[i] + side.across_z * all.half_z[i];
        const float most = distance + (reach < all.radius[i] ? reach : all.radius[i]);
        inside[k] = most < inside[k] ? most : inside[k];
      }
    }
    for (std::size_t k = 0; k < block; ++k) visible[first + k] = inside[k] >= 0;
  }
}

void cull_anywhere(const Columns& all, std::size_t count, const Sides& sides, std::uint8_t* visible) {
  cull_columns(all, count, sides, visible);
}

#if defined(__x86_64__) && defined(__GNUC__)
[[gnu::target("avx2")]] void cull_on_avx2(const Columns& all, std::size_t count, const Sides& sides,
                                          std::uint8_t* visible) {
  cull_columns(all, count, sides, visible);
}

bool has_avx2() {
  static const bool has = __builtin_cpu_supports("avx2") != 0;
  return has;
}
#endif

}  // namespace

void BoundsSet::cull(const Frustum& view, std::span<std::uint8_t> visible) const {
  Sides sides{};
  for (std::size_t i = 0; i < sides.size(); ++i) {
    const Plane& plane = view.planes()[i];
    const Vec3& n = plane.normal;
    sides[i] = {n.x(), n.y(), n.z(), plane.offset, std::abs(n.x()), std::abs(n.y()), std::abs(n.z())};
  }
  const Columns all{center_[0].data(), center_[1].data(), center_[2].data(), half_[0].data(),
                    half_[1].data(),   half_[2].data(),   radius_.data()};
#if defined(__x86_64__) && defined(__GNUC__)
  if (has_avx2()) return cull_on_avx2(all, padded_size(), sides, visible.data());
#endif
  cull_anywhere(all, padded_size(), sides, visible.data());
}

}  // namespace periscena::batch
