#include <periscena/math/tiles.h>

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace periscena {
namespace {

/// Free squares by level: 0 is a layer, each further one a quarter of the one before.
class TileStore {
 public:
  TileStore(int side, int layers, int deepest) : side_(side), free_(static_cast<std::size_t>(deepest) + 1) {
    for (int i = layers; i-- > 0;) free_[0].push_back({i, 0, 0, side});
  }

  /// There must be one.
  Tile take(int level) {
    auto& here = free_[static_cast<std::size_t>(level)];
    if (here.empty()) {
      const Tile whole = take(level - 1);
      const int half = side_ >> level;
      for (int i = 4; i-- > 0;) here.push_back({whole.layer, whole.x + i % 2 * half, whole.y + i / 2 * half, half});
    }
    const Tile tile = here.back();
    here.pop_back();
    return tile;
  }

 private:
  int side_;
  std::vector<std::vector<Tile>> free_;
};

}  // namespace

std::vector<std::vector<Tile>> share_out_tiles(std::span<const TileWish> wishes, int side, int layers, int least,
                                               Place place) {
  const bool sound =
      side > 0 && layers > 0 && least > 0 && std::all_of(wishes.begin(), wishes.end(), [](const TileWish& wish) {
        return wish.count > 0 && wish.importance >= 0 && std::isfinite(wish.importance);
      });
  if (!sound) {
    throw Mistake("bad-tiles", std::move(place),
                  fmt::format("tiles of at least {} of {} layers of {} x {}", least, layers, side, side),
                  "give sizes and counts over 0, and finite importances of 0 or more");
  }
  int deepest = 0;
  while (deepest < 12 && (side >> (deepest + 1)) >= least) ++deepest;
  std::vector<std::size_t> order(wishes.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return wishes[a].importance > wishes[b].importance; });

  // In units of the smallest tile.
  std::int64_t left = std::int64_t{layers} << (2 * deepest);
  const auto area = [&](int level) { return std::int64_t{1} << (2 * (deepest - level)); };
  std::vector<int> levels(wishes.size(), -1);
  for (const std::size_t i : order) {
    if (wishes[i].count > left) continue;
    levels[i] = deepest;
    left -= wishes[i].count;
  }
  std::vector<std::size_t> growing;
  for (const std::size_t i : order) {
    if (levels[i] >= 0) growing.push_back(i);
  }
  const auto hunger = [&](std::size_t i) { return std::ldexp(wishes[i].importance, levels[i]); };
  while (!growing.empty()) {
    const auto next = std::max_element(growing.begin(), growing.end(),
                                       [&](std::size_t a, std::size_t b) { return hunger(a) < hunger(b); });
    const int level = levels[*next];
    const std::int64_t more = level > 0 ? wishes[*next].count * (area(level - 1) - area(level)) : 0;
    if (level == 0 || more > left) {
      growing.erase(next);
    } else {
      --levels[*next];
      left -= more;
    }
  }

  // Larger ones first: then squares that are left are never too small for what comes.
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return levels[a] < levels[b]; });
  TileStore store(side, layers, deepest);
  std::vector<std::vector<Tile>> tiles(wishes.size());
  for (const std::size_t i : order) {
    for (int k = 0; k < wishes[i].count && levels[i] >= 0; ++k) tiles[i].push_back(store.take(levels[i]));
  }
  return tiles;
}

}  // namespace periscena
