#include "draw/scene/free_ranges.h"

#include <catch2/catch.hpp>

#include <random>
#include <vector>

using periscena::draw::FreeRanges;

TEST_CASE("ranges that are taken never overlap, and what is given back is taken again") {
  std::mt19937 dice(5);
  FreeRanges ranges;
  ranges.grow(64);
  std::vector<bool> taken(64);
  struct Taken {
    std::uint64_t first, count;
  };
  std::vector<Taken> all;
  for (int round = 0; round < 5000; ++round) {
    if (dice() % 2 == 0 || all.empty()) {
      const std::uint64_t count = dice() % 9;
      auto first = ranges.take(count);
      if (!first) {
        // There is no such row.
        std::uint64_t longest = 0, here = 0;
        for (const bool one : taken) longest = std::max(longest, here = one ? 0 : here + 1);
        REQUIRE(longest < count);
        REQUIRE(ranges.missing(count) == count - here);
        ranges.grow(ranges.size() + ranges.missing(count));
        taken.resize(ranges.size());
        first = ranges.take(count);
      }
      REQUIRE(first);
      for (std::uint64_t i = 0; i < count; ++i) {
        REQUIRE(!taken.at(*first + i));
        taken[*first + i] = true;
      }
      all.push_back({*first, count});
    } else {
      std::swap(all[dice() % all.size()], all.back());
      for (std::uint64_t i = 0; i < all.back().count; ++i) taken[all.back().first + i] = false;
      ranges.give_back(all.back().first, all.back().count);
      all.pop_back();
    }
  }
  for (const Taken& one : all) ranges.give_back(one.first, one.count);
  CHECK(ranges.take(ranges.size()) == 0);
  CHECK_FALSE(ranges.take(1));
  CHECK(ranges.take(0) == 0);
}
