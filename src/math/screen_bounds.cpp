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
      const double at_x = (x * length - away * side) * length / square,
                   at = (away * length + x * side) * length / square;
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
  return near > value ? std::nextafter(near, -std::numeric_limits<float>::infinity()) : near;
}

/// The same two of a cone's cap and tip, all of which lie before the eye: of x by distance, or of x.
Range extent(const Cone& cone, int axis, bool perspective) {
  const double x = cone.tip[axis], away = -static_cast<double>(cone.tip.z()), range = cone.range;
  const double along = cone.direction[axis], along_away = -static_cast<double>(cone.direction.z());
  const double cosine = std::cos(static_cast<double>(cone.half_angle)),
               sine = std::sin(static_cast<double>(cone.half_angle));
  const double middle = x + range * cosine * along, rim = range * sine;
  Range found;
  if (!perspective) {
    found.include(x);
    for (const double side : {-1.0, 1.0}) {
      found.include(middle + side * rim * std::sqrt(std::max(0.0, 1 - along * along)));
      if (side * along >= cosine) found.include(x + side * range);
    }
    return found;
  }
  found.include(x / away);
  // Of the rim, the lines x = k away that touch it: (c_x - k c_d)² = r² (1 + k² - (a_x - k a_d)²), with a its axis.
  const double middle_away = away + range * cosine * along_away, square = rim * rim;
  const double a = middle_away * middle_away - square * (1 - along_away * along_away),
               b = middle * middle_away + square * along * along_away,
               c = middle * middle - square * (1 - along * along);
  const double root = std::sqrt(std::max(0.0, b * b - a * c));
  for (const double side : {-root, root}) found.include((b + side) / a);
  // Of the ball, where the cap is touched.
  const double length = x * x + away * away, tangent = length - range * range;
  if (tangent <= 0) return found;
  for (const double side : {-range, range}) {
    const double share = std::sqrt(tangent) / length;
    const double at_x = (x * std::sqrt(tangent) - away * side) * share,
                 at = (away * std::sqrt(tangent) + x * side) * share;
    if ((at_x - x) * along + (at - away) * along_away >= range * cosine) found.include(at_x / at);
  }
  return found;
}

/// How far a cone reaches from its tip, in a direction: `side` times the view axis, away from the eye.
double reach(const Cone& cone, double side) {
  // By the axis' parts along and across, as an arc cosine would lose half of the digits.
  const DoubleVec3 axis = cone.direction.cast<double>();
  const double beyond =
      std::atan2(std::hypot(axis.x(), axis.y()), -side * axis.z()) - static_cast<double>(cone.half_angle);
  return beyond <= 0 ? cone.range : std::max(0.0, cone.range * std::cos(beyond));
}

/// From what a lens sees of a body by axis, x by distance or x itself, to the picture.
std::optional<ScreenRect> on_picture(const Projection& lens, const std::array<Range, 2>& extents) {
  const Mat4& matrix = lens.matrix();
  std::array<Range, 2> share;
  for (int axis = 0; axis < 2; ++axis) {
    const Range& range = extents[static_cast<std::size_t>(axis)];
    const double shift =
        lens.is_perspective() ? -static_cast<double>(matrix(axis, 2)) : static_cast<double>(matrix(axis, 3));
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

}  // namespace

std::optional<ScreenRect> screen_bounds(const Projection& lens, const Sphere& ball) {
  if (ball.empty()) return std::nullopt;
  if (!ball.center.is_finite() || !std::isfinite(ball.radius)) return ScreenRect{};
  const double away = -static_cast<double>(ball.center.z()), radius = ball.radius, near = lens.near();
  if (away + radius < near || away - radius > lens.far()) return std::nullopt;
  const auto of = [&](int axis) {
    const double x = ball.center[axis];
    return lens.is_perspective() ? slopes(x, away, radius, near) : places(x, away, radius, near);
  };
  return on_picture(lens, {of(0), of(1)});
}

Sphere Cone::sphere() const {
  const float cosine = std::cos(half_angle);
  // Up to 45 degrees the ball goes through tip and rim; beyond, the rim is its equator.
  if (half_angle >= radians(45)) return {tip + direction * (range * cosine), range * std::sin(half_angle)};
  const float radius = range / (2 * cosine);
  return {tip + direction * radius, radius};
}

std::optional<ScreenRect> screen_bounds(const Projection& lens, const Cone& cone) {
  const auto ball = screen_bounds(lens, Sphere{cone.tip, cone.range});
  if (!ball || !cone.tip.is_finite() || !std::isfinite(cone.range) || !cone.direction.is_finite()) return ball;
  const auto least = screen_bounds(lens, cone.sphere());
  if (!least) return std::nullopt;
  const auto [nearest, farthest] = view_distances(cone);
  if (farthest < lens.near() || nearest > lens.far()) return std::nullopt;
  ScreenRect rect{std::max(ball->left, least->left), std::max(ball->bottom, least->bottom),
                  std::min(ball->right, least->right), std::min(ball->top, least->top)};
  if (nearest >= lens.near()) {
    const bool perspective = lens.is_perspective();
    const auto tight = on_picture(lens, {extent(cone, 0, perspective), extent(cone, 1, perspective)});
    if (!tight) return std::nullopt;
    rect = *tight;
  }
  if (rect.left >= rect.right || rect.bottom >= rect.top) return std::nullopt;
  return rect;
}

ViewDistances view_distances(const Sphere& ball) {
  const double away = -static_cast<double>(ball.center.z()), radius = ball.radius;
  return {rounded_down(away - radius), -rounded_down(-(away + radius))};
}

ViewDistances view_distances(const Cone& cone) {
  const double away = -static_cast<double>(cone.tip.z()), rounding = 1e-9 * cone.range;
  return {rounded_down(away - reach(cone, -1) - rounding), -rounded_down(-(away + reach(cone, 1) + rounding))};
}

}  // namespace periscena
