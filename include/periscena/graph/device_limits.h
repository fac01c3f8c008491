#pragma once

#include <periscena/image/format.h>

#include <array>
#include <cstddef>
#include <vector>

namespace periscena {

/// What a device can hold. Default-made: what every OpenGL 4.5 implementation guarantees (specification, table 23.53
/// ff.).
struct DeviceLimits {
  int largest_size = 16384;
  int layers = 2048;
  int color_attachments = 8;
  bool asked = false;  ///< from a real device? then exceeding one is an error, else a warning
  std::size_t target_bytes = std::size_t{8} << 30;  ///< what a frame's targets may take together

  /// Counts over 1 that a format can have, ascending, by Format; without an asked device unknown.
  std::vector<std::vector<int>> sample_counts = {};
};

/// The count to use for targets of these formats that a pass writes together, when `wanted` is asked for: the largest
/// that all of them have and that is not over it; where all are over it, the smallest, as OpenGL itself does; 1 when
/// they have none in common.
int available_samples(int wanted, const std::vector<Format>& formats, const DeviceLimits& limits);

}  // namespace periscena
