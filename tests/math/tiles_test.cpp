#include "thrown.h"

#include <periscena/math/tiles.h>

#include <random>

using namespace periscena;

namespace {

/// No two tiles share a pixel, and all lie in their layers.
void expect_apart(const std::vector<std::vector<Tile>>& shares, int side, int layers) {
  std::vector<bool> taken(static_cast<std::size_t>(layers) * side * side);
  for (const auto& tiles : shares) {
    for (const Tile& tile : tiles) {
      REQUIRE((tile.layer >= 0 && tile.layer < layers && tile.x >= 0 && tile.y >= 0));
      REQUIRE((tile.x + tile.size <= side && tile.y + tile.size <= side && tile.size == tiles[0].size));
      for (int y = tile.y; y < tile.y + tile.size; ++y) {
        for (int x = tile.x; x < tile.x + tile.size; ++x) {
          const auto at = (static_cast<std::size_t>(tile.layer) * side + y) * side + x;
          REQUIRE(!taken[at]);
          taken[at] = true;
        }
      }
    }
  }
}

}  // namespace

TEST_CASE("tiles are shared out by importance, and the least important go without") {
  const std::vector<TileWish> one{{1, 6}};
  const auto whole = share_out_tiles(one, 256, 6, 64);
  for (int face = 0; face < 6; ++face) CHECK(whole[0][static_cast<std::size_t>(face)] == Tile{face, 0, 0, 256});

  const std::vector<TileWish> three{{0.1, 1}, {1, 1}, {0.4, 1}};
  const auto shares = share_out_tiles(three, 256, 1, 32);
  expect_apart(shares, 256, 1);
  CHECK(shares[1][0].size == 128);
  CHECK(shares[0][0].size <= shares[2][0].size);

  const std::vector<TileWish> many(20, TileWish{1, 1});
  const auto few = share_out_tiles(many, 256, 1, 64);
  expect_apart(few, 256, 1);
  for (std::size_t i = 0; i < many.size(); ++i) CHECK(few[i].empty() == (i >= 16));
  std::vector<TileWish> last_matters = many;
  last_matters.back().importance = 2;
  CHECK(!share_out_tiles(last_matters, 256, 1, 64).back().empty());
  CHECK(share_out_tiles(last_matters, 256, 1, 64)[15].empty());
}

TEST_CASE("tiles of any wishes lie apart, and those of larger importance are no smaller") {
  std::mt19937 random(7);
  for (int turn = 0; turn < 60; ++turn) {
    const int side = std::uniform_int_distribution(33, 200)(random),
              layers = std::uniform_int_distribution(1, 4)(random);
    std::vector<TileWish> wishes(std::uniform_int_distribution<std::size_t>(1, 40)(random));
    for (TileWish& wish : wishes)
      wish = {std::uniform_real_distribution(0.0, 1.0)(random), std::uniform_int_distribution(0, 1)(random) ? 6 : 1};
    const auto shares = share_out_tiles(wishes, side, layers, 16);
    expect_apart(shares, side, layers);
    for (std::size_t a = 0; a < wishes.size(); ++a) {
      REQUIRE((shares[a].empty() || static_cast<int>(shares[a].size()) == wishes[a].count));
      for (std::size_t b = 0; b < wishes.size(); ++b) {
        if (wishes[a].count != wishes[b].count || wishes[a].importance >= wishes[b].importance) continue;
        REQUIRE(shares[a].empty() >= shares[b].empty());
        if (!shares[a].empty()) REQUIRE(shares[a][0].size <= shares[b][0].size);
      }
    }
  }
}

TEST_CASE("tiles that make no sense are told") {
  const std::vector<TileWish> one{{1, 1}}, none_wanted{{1, 0}}, odd{{-1, 1}};
  CHECK(thrown_slug([&] { share_out_tiles(one, 0, 1, 1); }) == "bad-tiles");
  CHECK(thrown_slug([&] { share_out_tiles(one, 8, 1, 0); }) == "bad-tiles");
  CHECK(thrown_slug([&] { share_out_tiles(none_wanted, 8, 1, 1); }) == "bad-tiles");
  CHECK(thrown_slug([&] { share_out_tiles(odd, 8, 1, 1); }) == "bad-tiles");
  CHECK(share_out_tiles({}, 8, 1, 1).empty());
}
