#include <periscena/math/jitter.h>

#include <algorithm>
#include <numeric>

namespace periscena {
namespace {

/// The digits of a number, mirrored at the point.
double radical_inverse(int number, int base) {
  double value = 0, digit = 1;
  for (; number > 0; number /= base) value += number % base * (digit /= base);
  return value;
}

}  // namespace

std::vector<Vec2> jitter_places(int count) {
  std::vector<Vec2> places(static_cast<std::size_t>(count));
  std::vector<int> order(places.size());
  for (const int axis : {0, 1}) {
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(),
              [&](int a, int b) { return radical_inverse(a + 1, 2 + axis) < radical_inverse(b + 1, 2 + axis); });
    for (std::size_t rank = 0; rank < order.size(); ++rank)
      places[static_cast<std::size_t>(order[rank])][axis] =
          (static_cast<float>(rank) + 0.5f) / static_cast<float>(count);
  }
  return places;
}

}  // namespace periscena
