#pragma once

#include <limits>

inline constexpr float infinity = std::numeric_limits<float>::infinity();
inline constexpr float nan_value = std::numeric_limits<float>::quiet_NaN();
