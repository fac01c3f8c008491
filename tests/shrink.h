#pragma once

#include <algorithm>
#include <vector>

/// The fewest of some items with which something still fails that fails with all: leaving out any part of what is
/// returned, of those that were tried, makes the failure go away.
/// @param fails  called with some of the items, in their order
/// @see Zeller and Hildebrandt, "Simplifying and Isolating Failure-Inducing Input", IEEE TSE 28(2), 2002 (ddmin)
template <class Item, class Fails>
std::vector<Item> shrunk(std::vector<Item> items, const Fails& fails) {
  for (std::size_t parts = 2; items.size() > 1;) {
    const std::size_t length = (items.size() + parts - 1) / parts;
    bool smaller = false;
    for (std::size_t from = 0; from < items.size() && !smaller; from += length) {
      std::vector<Item> rest(items.begin(), items.begin() + static_cast<std::ptrdiff_t>(from));
      rest.insert(rest.end(), items.begin() + static_cast<std::ptrdiff_t>(std::min(from + length, items.size())),
                  items.end());
      if (!fails(rest)) continue;
      items = std::move(rest);
      parts = std::max<std::size_t>(2, parts - 1);
      smaller = true;
    }
    if (smaller) continue;
    if (length == 1) break;
    parts = std::min(items.size(), parts * 2);
  }
  return items;
}
