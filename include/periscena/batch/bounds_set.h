#pragma once

#include <periscena/math/bounds.h>

#include <cstdint>
#include <span>
#include <vector>

namespace periscena::batch {

/// Bounds of many objects in world space, kept so that a view is tested against sixteen at a time.
///
/// Each object has a box and a ball around it; the one that says more counts, plane by plane.
class BoundsSet {
 public:
  BoundsSet() = default;
  explicit BoundsSet(std::size_t count);

  std::size_t size() const { return count_; }

  /// Empty bounds are never visible. Bounds that are not finite are always visible: an object must not get lost because
  /// its place was computed wrong.
  /// @param box  around the object; @param radius  of a ball around the box' middle that holds the object
  void set(std::size_t index, const Box& box, float radius);
  void set(std::size_t index, const Sphere& sphere);

  /// Were its bounds finite (or empty) when they were set?
  bool is_sound(std::size_t index) const { return sound_[index] != 0; }
  std::size_t unsound_count() const { return unsound_; }

  /// The middle of an object's box; of bounds that are not finite, the origin.
  Vec3 center(std::size_t index) const { return {center_[0][index], center_[1][index], center_[2][index]}; }

  /// Half the size of an object's box: negative when it is empty, very large when its bounds are not finite.
  Vec3 half_size(std::size_t index) const { return {half_[0][index], half_[1][index], half_[2][index]}; }

  /// The ball around an object; of bounds that are not finite, an empty one.
  Sphere ball(std::size_t index) const { return {center(index), is_sound(index) ? radius_[index] : -1}; }

  /// By object: 0 when it is surely outside of the view, else 1. An object near a corner may be called visible although
  /// it is not.
  /// @param visible  padded_size() of them
  void cull(const Frustum& view, std::span<std::uint8_t> visible) const;

  /// size(), rounded up to whole blocks of sixteen.
  std::size_t padded_size() const { return center_[0].size(); }

 private:
  std::size_t count_ = 0, unsound_ = 0;
  std::vector<float> center_[3], half_[3], radius_;  ///< by object; the last block is filled up with empty ones
  std::vector<std::uint8_t> sound_;
};

}  // namespace periscena::batch
