#include "shrink.h"

#include <catch2/catch.hpp>

#include <numeric>

TEST_CASE("of many items, those that make something fail are found") {
  std::vector<int> items(500);
  std::iota(items.begin(), items.end(), 0);
  int tries = 0;
  const auto fails_with = [&](std::vector<int> needed) {
    return [&tries, needed](const std::vector<int>& some) {
      ++tries;
      return std::includes(some.begin(), some.end(), needed.begin(), needed.end());
    };
  };
  for (const std::vector<int>& needed : {std::vector<int>{17}, {0, 499}, {3, 250, 251}, {}})
    CHECK(shrunk(items, fails_with(needed)).size() == std::max<std::size_t>(1, needed.size()));
  CHECK(shrunk(items, fails_with({3, 250, 251})) == std::vector<int>{3, 250, 251});
  CHECK(tries < 1000);
  CHECK(shrunk(std::vector<int>{}, fails_with({})).empty());
}
