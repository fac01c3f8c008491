#include <periscena/math/screen_bounds.h>

#include <algorithm>
#include <cmath>

namespace periscena {
namespace {

struct Range {
  double least = std::numeric_limits<double>::infinity(), most = -std::numeric_limits<double>::infinity();

  void include(double value) {
    least = std::min(least, value);
    most = std::max(most, value);
  }
};

/// Of x by distance over a disc at (x, away), where away >= near > 0.
Range slopes(double x, double away, double radius, double near) {
  Range range;
  const double square = x * x + away * away, tangent = square - radius * radius;
  if (tangent > 0) {
    // The centre's direction, turned by the angle that the disc is seen under to either side.
    const double length = std::sqrt(tangent);
    for (const double side : {-radius, radius}) {
      const double at_x = (x * length - away * side) * length / square, at = (away * length + x * side) * length / square;
      if (at >= near) range.include(at_x / at);
    }
  }
  if (away - radius < near) {
    const double half = std::sqrt(std::max(0.0, radius * radius - (near - away) * (near - away)));
    range.include((x - half) / near);
    range.include((x + half) / near);
  }
  return range;
}

/// The same of x itself.
Range places(double x, double away, double radius, double near) {
  const double half = away >= near ? radius : std::sqrt(std::max(0.0, radius * radius - (near - away) * (near - away)));
  return {x - half, x + half};
}

float rounded_down(double value) {
  const auto near = static_cast<float>(value);
  return near > value ? std::nextafter(near, -1.0f) : near;
}

}  // namespace

std::optional<ScreenRect> screen_bounds(const Projection& lens, const Sphere& ball) {
  if (ball.empty()) return std::nullopt;
  if (!ball.center.allFinite() || !std::isfinite(ball.radius)) return ScreenRect{};
  const double away = -static_cast<double>(ball.center.z()), radius = ball.radius, near = lens.near();
  if (away + radius < near || away - radius > lens.far()) return std::nullopt;
  const Mat4& matrix = lens.matrix();
  std::array<Range, 2> share;
  for (int axis = 0; axis < 2; ++axis) {
    const double x = ball.center[axis];
    const Range range = lens.is_perspective() ? slopes(x, away, radius, near) : places(x, away, radius, near);
    const double shift = lens.is_perspective() ? -static_cast<double>(matrix(axis, 2)) : static_cast<double>(matrix(axis, 3));
    for (const double end : {range.least, range.most})
      share[static_cast<std::size_t>(axis)].include(0.5 + 0.5 * (matrix(axis, axis) * end + shift));
    // What a picture's coordinates in single precision round away.
    constexpr double rounding = 1e-6;
    share[static_cast<std::size_t>(axis)].least -= rounding;
    share[static_cast<std::size_t>(axis)].most += rounding;
  }
  const auto [x, y] = share;
  if (x.least >= 1 || x.most <= 0 || y.least >= 1 || y.most <= 0) return std::nullopt;
  const auto low = [](double value) { return rounded_down(std::clamp(value, 0.0, 1.0)); };
  const auto high = [](double value) { return -rounded_down(-std::clamp(value, 0.0, 1.0)); };
  return ScreenRect{low(x.least), low(y.least), high(x.most), high(y.most)};
}

}  // namespace periscena
