#include <periscena/scene/blocks.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace periscena {
namespace {

/// One way that a face may look.
struct Side {
  std::array<int, 3> normal;
  std::array<int, 3> right;  ///< of its texture's image
};

constexpr Side sides[] = {{{1, 0, 0}, {0, 0, -1}}, {{-1, 0, 0}, {0, 0, 1}}, {{0, 1, 0}, {1, 0, 0}},
                          {{0, -1, 0}, {1, 0, 0}}, {{0, 0, 1}, {1, 0, 0}},  {{0, 0, -1}, {-1, 0, 0}}};

Vec3 vector(const std::array<int, 3>& of) {
  return Matrix<int, 3>::of_numbers(of.data()).cast<float>();
}

void add_face(MeshBuilder& mesh, const Side& side, const Vec3& at, const Vec3& block) {
  const Vec3 normal = vector(side.normal), right = vector(side.right), up = normal.cross(right);
  const auto first = static_cast<std::uint32_t>(mesh.vertices.size());
  for (int k = 0; k < 4; ++k) {
    const float s = k == 1 || k == 2 ? 1.0f : -1.0f, t = k >= 2 ? 1.0f : -1.0f;
    // Halves of whole numbers are exact, so a corner is the same number in all faces that meet there.
    const Vec3 corner = (at + 0.5f * (Vec3::ones() + normal + s * right + t * up)).times(block);
    mesh.vertices.push_back(
        {corner, normal, Vec4(right.x(), right.y(), right.z(), 1), Vec2(right.dot(corner), -up.dot(corner))});
  }
  mesh.indices.insert(mesh.indices.end(), {first, first + 1, first + 2, first, first + 2, first + 3});
}

}  // namespace

BlockGrid::BlockGrid(int width, int height, int depth, const Vec3& block, Place place)
    : width_(width), height_(height), depth_(depth), block_(block) {
  const bool fits = std::min({width, height, depth}) >= 1 && std::max({width, height, depth}) <= longest &&
                    std::int64_t{width} * height * depth <= most;
  if (!fits) {
    throw Mistake("bad-shape", place, fmt::format("a grid of {} x {} x {} blocks", width, height, depth),
                  fmt::format("choose 1 to {} along each axis, and at most {} in all", longest, most));
  }
  if (!(is_finite(block) && block.smallest() > 0)) {
    throw Mistake("bad-shape", place, fmt::format("blocks of {} x {} x {} m", block.x(), block.y(), block.z()),
                  "sizes are metres, more than 0");
  }
  kinds_.assign(static_cast<std::size_t>(width) * static_cast<std::size_t>(height) * static_cast<std::size_t>(depth),
                empty);
}

BlockGrid BlockGrid::of_heights(int width, int height, int depth, const Vec3& block,
                                const std::function<int(int, int)>& column,
                                const std::function<std::uint8_t(int)>& kind, Place place) {
  BlockGrid grid(width, height, depth, block, place);
  for (int z = 0; z < depth; ++z) {
    for (int x = 0; x < width; ++x) {
      const int top = column(x, z);
      for (int y = 0; y < std::min(top, height); ++y) grid.kinds_[grid.index(x, y, z)] = kind(top - 1 - y);
    }
  }
  return grid;
}

std::size_t BlockGrid::index(int x, int y, int z) const {
  return (static_cast<std::size_t>(z) * static_cast<std::size_t>(height_) + static_cast<std::size_t>(y)) *
             static_cast<std::size_t>(width_) +
         static_cast<std::size_t>(x);
}

std::uint8_t BlockGrid::at(int x, int y, int z) const {
  const bool inside = x >= 0 && y >= 0 && z >= 0 && x < width_ && y < height_ && z < depth_;
  return inside ? kinds_[index(x, y, z)] : empty;
}

void BlockGrid::set(int x, int y, int z, std::uint8_t kind, Place place) {
  if (x < 0 || y < 0 || z < 0 || x >= width_ || y >= height_ || z >= depth_) {
    throw Mistake("block-outside", place,
                  fmt::format("block {}, {}, {} of a grid of {} x {} x {}", x, y, z, width_, height_, depth_),
                  "they are counted from 0");
  }
  kinds_[index(x, y, z)] = kind;
}

std::vector<BlockGrid::Part> BlockGrid::parts(bool underside) const {
  std::array<MeshBuilder, 256> meshes;
  for (int z = 0; z < depth_; ++z) {
    for (int y = 0; y < height_; ++y) {
      for (int x = 0; x < width_; ++x) {
        const std::uint8_t kind = kinds_[index(x, y, z)];
        if (kind == empty) continue;
        for (const Side& side : sides) {
          const auto& n = side.normal;
          const bool hidden = at(x + n[0], y + n[1], z + n[2]) != empty || (!underside && y == 0 && n[1] < 0);
          if (!hidden) add_face(meshes[kind], side, Matrix<int, 3>(x, y, z).cast<float>(), block_);
        }
      }
    }
  }
  std::vector<Part> parts;
  for (std::size_t kind = 1; kind < meshes.size(); ++kind) {
    if (!meshes[kind].indices.empty()) parts.push_back({static_cast<std::uint8_t>(kind), meshes[kind].build()});
  }
  return parts;
}

}  // namespace periscena
