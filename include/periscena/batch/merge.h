#pragma once

#include <periscena/scene/scene.h>

namespace periscena::batch {

struct MergeLimits {
  /// Of a merged mesh: where there is more, it is split by space, so that culling still works. A single object may have
  /// more.
  std::size_t triangles = 8192;
  std::size_t vertices = 65536;  ///< so that indices of 16 bits do
};

/// The same scene with what stands still baked into few meshes in world coordinates: objects of one material that have the
/// same tags, by themselves or by what they stand below.
///
/// All nodes stay, with their names and places, for lights, views and texts to follow; those that were merged show
/// nothing themselves any more. Not merged are objects that move, whose material is blended (they are drawn in the order of
/// their depth) or chosen singly by a variant, and meshes of lines and points, or with vertex colours or second texture
/// coordinates. Places are rounded once more than without, so edges may lie a rounding step off.
Scene merged(const Scene& scene, const MergeLimits& limits = {});

}  // namespace periscena::batch
