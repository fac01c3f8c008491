#pragma once

#include <periscena/scene/scene.h>

#include <limits>
#include <memory>
#include <optional>

namespace periscena::batch {

/// Which objects are merged, and into how large meshes.
struct MergeLimits {
  /// Of a merged mesh: where there is more, it is split by space, so that culling still works. A single object may have
  /// more.
  std::size_t triangles = 8192;
  std::size_t vertices = 65536;  ///< so that indices of 16 bits do

  std::size_t triangles_each = std::numeric_limits<std::size_t>::max();  ///< an object of more stays as it is
  std::size_t fewest = 2;  ///< objects of one material and the same tags; fewer stay as they are
  std::size_t triangles_in_all = std::numeric_limits<std::size_t>::max();  ///< for more, nothing is merged

  /// Where merging is worth it by itself: by what bench_merging measures, whole frames of objects of 2 triangles take
  /// two thirds of the time, those of 12 nine tenths, those of 48 the same. Small batches, so that culling loses
  /// little. Not in scenes so large that copies of their meshes take longer to make than frames save: a triangle takes
  /// 0.25 KiB, and a million of them a second.
  static MergeLimits where_it_pays() {
    return {.triangles = 1024, .triangles_each = 16, .fewest = 64, .triangles_in_all = 500'000};
  }
};

/// What was made of a scene.
struct Merge {
  std::optional<Scene> scene;  ///< nothing when nothing was merged: the scene as it is will do
  std::size_t objects = 0;     ///< that were merged
  std::size_t meshes = 0;      ///< that they became
  std::size_t too_many = 0;    ///< triangles, where there are more than the limits let merge; else 0
};

/// The same scene with what stands still baked into few meshes in world coordinates: objects of one material that have
/// the same tags, by themselves or by what they stand below.
///
/// All nodes stay, with their names and places, for lights, views and texts to follow; those that were merged show
/// nothing themselves any more. Not merged are objects that move, whose material is blended (they are drawn in the
/// order of their depth) or chosen singly by a variant, and meshes of lines and points, or with vertex colours or
/// second texture coordinates. Places are rounded once more than without, so edges may lie a rounding step off.
Merge merged(const Scene& scene, const MergeLimits& limits = {});

struct MergeMemory;

/// Merges a scene again each time that it has changed. The same comes of it as of merged(), but what objects of a
/// material and the same tags became is kept, and taken again while all of them are where they were.
class Merger {
 public:
  explicit Merger(const MergeLimits& limits = {});
  Merger(Merger&&) noexcept;
  Merger& operator=(Merger&&) noexcept;
  ~Merger();

  Merge merge(const Scene& scene);

 private:
  std::unique_ptr<MergeMemory> memory_;
};

}  // namespace periscena::batch
