#pragma once

#include <string>
#include <vector>

namespace periscena {

enum class Filter {
  nearest,
  linear,
  linear_levels,   ///< linear, also between mip levels
  nearest_levels,  ///< nearest, in the nearest mip level
};
enum class Wrap { clamp, repeat, mirror };

/// How a texture is looked up.
struct Sampling {
  Filter filter = Filter::linear_levels;
  Wrap wrap_u = Wrap::repeat, wrap_v = Wrap::repeat;
  /// Samples along the longer side of a slanted pixel, 1 to 16; more than the device has are as many as it has.
  float anisotropy = 1;

  bool operator==(const Sampling&) const = default;
};

/// For keys and messages, in the order of the enums.
const std::vector<std::string>& choices_of(Filter);
const std::vector<std::string>& choices_of(Wrap);

}  // namespace periscena
