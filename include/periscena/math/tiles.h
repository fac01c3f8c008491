#pragma once

#include <periscena/base/place.h>

#include <optional>
#include <span>
#include <vector>

namespace periscena {

/// A square part of one layer of a picture, pixels.
struct Tile {
  int layer = 0, x = 0, y = 0, size = 0;
  bool operator==(const Tile&) const = default;
};

/// Somebody who wants tiles.
struct TileWish {
  double importance = 1;  ///< >= 0
  int count = 1;          ///< > 0, all of one size
};

/// Shares out square layers. Tiles are a layer, or a quarter of one, or a quarter of that, and so on. All begin with
/// the smallest; those that would not fit then, the least important first, get none. After that, whoever has the
/// largest importance for a tile's side gets tiles of twice the side, until nobody's fit any more. Of equals, the
/// earlier come first.
///
/// @param side  of a layer, pixels, > 0
/// @param layers  > 0
/// @param least  pixels, > 0: no tile is smaller, unless the layer is
/// @return by wish: its tiles, or none
/// @throws Mistake "bad-tiles" when an argument is out of its range
std::vector<std::vector<Tile>> share_out_tiles(std::span<const TileWish> wishes, int side, int layers, int least,
                                               Place place = Place::here());

}  // namespace periscena
