#include <periscena/batch/geometry.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

namespace periscena::batch {

std::vector<MeshStart> lay_out(std::span<const MeshSize> meshes, Place place) {
  constexpr std::uint64_t most_vertices = 0x7FFFFFFF, most_indices = 0xFFFFFFFF;
  std::vector<MeshStart> starts;
  MeshSize sum;
  const auto add = [&](std::uint64_t& to, std::uint64_t more, std::uint64_t most, const char* what) {
    if (more <= most && to <= most - more) {
      to += more;
      return;
    }
    throw Mistake("too-much-geometry", place,
                  fmt::format("with mesh {}, the scene has more than {} {}", starts.size() + 1, most, what),
                  "draw it as several scenes: draw commands count in 32 bits");
  };
  for (const MeshSize& mesh : meshes) {
    const MeshStart start{static_cast<std::uint32_t>(sum.indices), static_cast<std::uint32_t>(sum.vertices),
                          static_cast<std::uint32_t>(sum.colors), static_cast<std::uint32_t>(sum.second_uvs)};
    add(sum.vertices, mesh.vertices, most_vertices, "vertices");
    add(sum.indices, mesh.indices, most_indices, "indices");
    add(sum.colors, mesh.colors, most_vertices, "vertex colours");
    add(sum.second_uvs, mesh.second_uvs, most_vertices, "second texture coordinates");
    starts.push_back(start);
  }
  return starts;
}

}  // namespace periscena::batch
