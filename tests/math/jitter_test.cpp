#include <periscena/math/jitter.h>

#include <catch2/catch.hpp>

#include <algorithm>

using namespace periscena;

TEST_CASE("jitter has one place in each strip of a pixel, right and up, and its mean is the middle") {
  for (const int count : {1, 2, 7, 16, 64}) {
    INFO(count << " places");
    const std::vector<Vec2> places = jitter_places(count);
    REQUIRE(places.size() == static_cast<std::size_t>(count));
    for (const int axis : {0, 1}) {
      std::vector<int> strips;
      double sum = 0;
      for (const Vec2& place : places) {
        strips.push_back(static_cast<int>(place[axis] * static_cast<float>(count)));
        sum += place[axis];
      }
      CHECK(sum / count == Approx(0.5));
      std::sort(strips.begin(), strips.end());
      for (int i = 0; i < count; ++i) CHECK(strips[static_cast<std::size_t>(i)] == i);
    }
  }
  // Any four in a row reach all over the pixel.
  const std::vector<Vec2> places = jitter_places(16);
  for (std::size_t first = 0; first < 16; ++first) {
    Vec2 low(1, 1), high(0, 0);
    for (std::size_t i = 0; i < 4; ++i) {
      low = low.min(places[(first + i) % 16]);
      high = high.max(places[(first + i) % 16]);
    }
    CHECK((high - low).smallest() > 0.4f);
  }
}
