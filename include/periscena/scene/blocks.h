#pragma once

#include <periscena/base/place.h>
#include <periscena/scene/mesh.h>

#include <cstdint>
#include <functional>
#include <vector>

namespace periscena {

/// A grid of equal blocks, each empty or of some kind, such as brickwork or terrain.
///
/// Becomes one mesh for each kind, of those faces that are not between two blocks. Corners lie on the grid exactly, so
/// neighbours leave no gaps.
class BlockGrid {
 public:
  static constexpr int longest = 4096;           ///< along an axis
  static constexpr std::int64_t most = 1 << 24;  ///< in all
  static constexpr std::uint8_t empty = 0;

  /// All empty. @param block  metres, each > 0; @throws Mistake "bad-shape"
  BlockGrid(int width, int height, int depth, const Vec3& block = Vec3::ones(), Place place = Place::here());

  /// Columns of blocks that stand on the ground.
  /// @param height  of the column at x, z, in blocks; what is beyond the grid's height is cut off
  /// @param kind  of the block that lies so many blocks below the top of its column: 1..255, or empty
  static BlockGrid of_heights(int width, int height, int depth, const Vec3& block,
                              const std::function<int(int x, int z)>& column,
                              const std::function<std::uint8_t(int below_top)>& kind, Place place = Place::here());

  int width() const { return width_; }    ///< along x
  int height() const { return height_; }  ///< along y
  int depth() const { return depth_; }    ///< along z
  const Vec3& block() const { return block_; }

  /// @throws Mistake "block-outside"
  void set(int x, int y, int z, std::uint8_t kind, Place place = Place::here());
  std::uint8_t at(int x, int y, int z) const;  ///< empty outside of the grid

  struct Part {
    std::uint8_t kind;
    Mesh mesh;
  };

  /// By ascending kind; kinds all of whose faces are hidden are left out. The grid's corner of least x, y and z is the
  /// origin. Texture coordinates are metres, and go on from block to block.
  /// @param underside  faces that look down from the lowest layer, too
  std::vector<Part> parts(bool underside = true) const;

 private:
  std::size_t index(int x, int y, int z) const;

  int width_, height_, depth_;
  Vec3 block_;
  std::vector<std::uint8_t> kinds_;
};

}  // namespace periscena
