#include <periscena/base/error.h>
#include <periscena/scene/blocks.h>

#include <catch2/catch.hpp>

#include <random>

using namespace periscena;

namespace {

/// Faces between a block and none, each counted by itself.
std::size_t open_faces(const BlockGrid& grid) {
  std::size_t count = 0;
  for (int z = -1; z <= grid.depth(); ++z) {
    for (int y = -1; y <= grid.height(); ++y) {
      for (int x = -1; x <= grid.width(); ++x) {
        const bool solid = grid.at(x, y, z) != 0;
        count += solid != (grid.at(x + 1, y, z) != 0);
        count += solid != (grid.at(x, y + 1, z) != 0);
        count += solid != (grid.at(x, y, z + 1) != 0);
      }
    }
  }
  return count;
}

}  // namespace

TEST_CASE("blocks become one mesh for each kind, without the faces between them") {
  std::mt19937 dice(5);
  BlockGrid grid(9, 7, 8, {0.5f, 0.25f, 2});
  int blocks = 0;
  for (int z = 0; z < 8; ++z) {
    for (int y = 0; y < 7; ++y) {
      for (int x = 0; x < 9; ++x) {
        const auto kind = static_cast<std::uint8_t>(dice() % 4);
        grid.set(x, y, z, kind);
        blocks += kind != BlockGrid::empty;
      }
    }
  }
  const auto parts = grid.parts();
  REQUIRE(parts.size() == 3);
  MeshBuilder whole;
  for (const auto& [kind, mesh] : parts) {
    CHECK_NOTHROW(mesh.expect_sound("part"));
    whole.append(mesh, Transform::identity());
  }
  const Mesh mesh = whole.build();
  CHECK(mesh.triangle_count() == 2 * open_faces(grid));
  // Faces that look outward, and none that is missing: the volume within is that of the blocks.
  CHECK(mesh.volume() == Approx(0.25 * blocks).epsilon(1e-5));
  CHECK(mesh.bounds().max == Vec3(4.5f, 1.75f, 16));
}

TEST_CASE("columns of blocks stand as high as they are told, with kinds counted from their tops") {
  const auto heights = [](int x, int z) { return x + 2 * z; };
  const auto kind = [](int below) { return static_cast<std::uint8_t>(below == 0 ? 1 : 2); };
  const BlockGrid grid = BlockGrid::of_heights(3, 4, 3, Vec3::ones(), heights, kind);
  CHECK(grid.at(0, 0, 0) == BlockGrid::empty);
  CHECK(grid.at(1, 0, 0) == 1);
  CHECK(grid.at(1, 2, 1) == 1);
  CHECK(grid.at(1, 1, 1) == 2);
  CHECK(grid.at(1, 3, 1) == BlockGrid::empty);
  CHECK(grid.at(2, 3, 2) == 2);  // its top is cut off
  CHECK(grid.at(2, 4, 2) == BlockGrid::empty);
  std::size_t with = 0, without = 0;
  for (const auto& part : grid.parts()) with += part.mesh.triangle_count();
  for (const auto& part : grid.parts(false)) without += part.mesh.triangle_count();
  CHECK(with - without == 2 * 8);
  // Closed, when no edge is shared by more than two faces.
  const BlockGrid stair = BlockGrid::of_heights(
      4, 4, 1, Vec3::ones(), [](int x, int) { return x + 1; }, kind);
  MeshBuilder whole;
  for (const auto& part : stair.parts()) whole.append(part.mesh, Transform::identity());
  CHECK(whole.build().closed());
}

TEST_CASE("textures go on from block to block by their metres") {
  BlockGrid grid(2, 2, 1, {0.5f, 0.25f, 1});
  for (int i = 0; i < 4; ++i) grid.set(i % 2, i / 2, 0, 1);
  const Mesh mesh = grid.parts()[0].mesh;
  for (std::size_t i = 0; i < mesh.positions.size(); ++i) {
    const Vec3 normal = mesh.normals[i], p = mesh.positions[i];
    if (normal == Vec3::unit_z()) CHECK(mesh.uv[i] == Vec2(p.x(), -p.y()));
    if (normal == Vec3::unit_y()) CHECK(mesh.uv[i] == Vec2(p.x(), p.z()));
  }
}

TEST_CASE("grids that can't be are refused") {
  CHECK_THROWS_AS(BlockGrid(0, 1, 1), Mistake);
  CHECK_THROWS_AS(BlockGrid(4097, 1, 1), Mistake);
  CHECK_THROWS_AS(BlockGrid(4096, 4096, 2), Mistake);
  CHECK_THROWS_AS(BlockGrid(1, 1, 1, {1, 0, 1}), Mistake);
  CHECK_THROWS_AS(BlockGrid(1, 1, 1, {1, NAN, 1}), Mistake);
  BlockGrid grid(2, 2, 2);
  CHECK_THROWS_AS(grid.set(2, 0, 0, 1), Mistake);
  CHECK(grid.at(-1, 0, 0) == BlockGrid::empty);
  CHECK(grid.parts().empty());
}
