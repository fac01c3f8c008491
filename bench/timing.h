#pragma once

#include <algorithm>
#include <vector>

/// The middle value; of an even count, the upper of both.
inline double median(std::vector<double> values) {
  const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  return *middle;
}
