#pragma once

namespace periscena::detail {

// What <cmath> does, by itself: that header is 5,000 lines, and everything reads this one.

inline float square_root(float x) {
  return __builtin_sqrtf(x);
}
inline double square_root(double x) {
  return __builtin_sqrt(x);
}
template <class T>
inline constexpr bool is_real = false;
template <>
inline constexpr bool is_real<float> = true;
template <>
inline constexpr bool is_real<double> = true;
template <class T>
constexpr T magnitude(T x) {
  return x < 0 ? -x : x + T(0);  // −0 becomes 0
}
/// Not of infinity minus itself, nor of NaN.
template <class T>
constexpr bool is_finite(T x) {
  return x - x == 0;
}

}  // namespace periscena::detail
