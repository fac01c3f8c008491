#pragma once

#include <numbers>

namespace periscena {

inline constexpr float pi = std::numbers::pi_v<float>;

constexpr float radians(float degrees) {
  return degrees * (pi / 180.0f);
}
constexpr float degrees(float radians) {
  return radians * (180.0f / pi);
}

}  // namespace periscena
