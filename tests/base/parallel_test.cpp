#include "base/parallel.h"

#include <catch2/catch.hpp>

#include <atomic>
#include <stdexcept>
#include <string>
#include <vector>

using periscena::parallel_for;

TEST_CASE("parallel work is done once for each number, and all of it before the call returns") {
  for (const std::size_t count : {0, 1, 2, 1000}) {
    std::vector<int> done(count);
    std::atomic<std::size_t> calls = 0;
    parallel_for(count, [&](std::size_t i) {
      ++done[i];
      ++calls;
    });
    REQUIRE(calls == count);
    REQUIRE(done == std::vector<int>(count, 1));
  }
}

TEST_CASE("of what parallel work throws, that of the lowest number arrives, when all have ended") {
  for (int round = 0; round < 20; ++round) {
    std::atomic<int> calls = 0;
    std::string thrown;
    try {
      parallel_for(50, [&](std::size_t i) {
        ++calls;
        if (i == 7 || i == 30) throw std::runtime_error(std::to_string(i));
      });
    } catch (const std::runtime_error& error) {
      thrown = error.what();
    }
    REQUIRE(thrown == "7");
    REQUIRE(calls == 50);
  }
}
