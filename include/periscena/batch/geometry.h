#pragma once

#include <periscena/base/place.h>

#include <cstdint>
#include <span>
#include <vector>

namespace periscena::batch {

/// How much of it a mesh has.
struct MeshSize {
  std::uint64_t vertices = 0, indices = 0, colors = 0, second_uvs = 0;
};

/// Where a mesh begins in buffers that hold all meshes of a scene.
struct MeshStart {
  std::uint32_t index = 0, vertex = 0, color = 0, second_uv = 0;
};

/// Meshes one after the other.
/// @throws Mistake "too-much-geometry" when there are more vertices than draw commands can point to (2³¹ − 1), or more
/// indices (2³² − 1)
std::vector<MeshStart> lay_out(std::span<const MeshSize> meshes, Place place = Place::here());

}  // namespace periscena::batch
