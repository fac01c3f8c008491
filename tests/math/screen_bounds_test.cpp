#include <periscena/math/screen_bounds.h>

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

std::vector<Projection> lenses() {
  return {
      Projection::perspective(Perspective{.fov_y = radians(50), .aspect = 1.78f, .near = 0.1f}),
      Projection::perspective(
          Perspective{.fov_y = radians(110), .aspect = 0.6f, .near = 0.5f, .far = 60, .depth = DepthOrder::ordinary}),
      Projection::perspective(
          OffCenterPerspective{.left = -0.1f, .right = 0.4f, .bottom = -0.05f, .top = 0.3f, .near = 0.2f, .far = 80}),
      Projection::orthographic(Orthographic{.left = -6, .right = 3, .bottom = -2, .top = 5, .near = -3, .far = 40})};
}

/// Where a point in camera space is on the picture, in double.
std::array<double, 2> on_picture(const Projection& lens, const DoubleVec3& point) {
  const Matrix<double, 4> clip = lens.matrix().cast<double>() * Matrix<double, 4>(point.x(), point.y(), point.z(), 1);
  return {0.5 + 0.5 * clip.x() / clip.w(), 0.5 + 0.5 * clip.y() / clip.w()};
}

}  // namespace

TEST_CASE("of a hundred thousand balls, nothing that a lens sees lies outside of their rectangles") {
  std::mt19937 dice(3);
  std::uniform_real_distribution<float> place(-15, 15), away(-12, 45), magnitude(-4, 3);
  std::normal_distribution<double> bell;
  int seen = 0, inside = 0, cut = 0;
  for (const Projection& lens : lenses()) {
    for (int i = 0; i < 25000; ++i) {
      const Sphere ball{Vec3(place(dice), place(dice), -away(dice)), std::exp2(magnitude(dice))};
      const auto rect = screen_bounds(lens, ball);
      inside += ball.center.norm() < ball.radius;
      for (int k = 0; k < 16; ++k) {
        const DoubleVec3 way = DoubleVec3(bell(dice), bell(dice), bell(dice)).normalized();
        const DoubleVec3 point = ball.center.cast<double>() + ball.radius * way;
        if (-point.z() < lens.near() || -point.z() > lens.far()) continue;
        const auto [x, y] = on_picture(lens, point);
        if (x < 0 || x > 1 || y < 0 || y > 1) continue;
        ++seen;
        if (!(rect && x >= rect->left && x <= rect->right && y >= rect->bottom && y <= rect->top)) ++cut;
      }
    }
  }
  CHECK(seen > 100000);
  CHECK(inside > 100);
  CHECK(cut == 0);
}

TEST_CASE("rectangles of balls are no more than two hundredths larger than the tightest") {
  std::mt19937 dice(4);
  std::uniform_real_distribution<float> place(-6, 6), away(-1, 20), magnitude(-2, 2.5f);
  int compared = 0;
  double worst = 1;
  for (const Projection& lens : lenses()) {
    for (int i = 0; i < 500; ++i) {
      const Sphere ball{Vec3(place(dice), place(dice), -away(dice)), std::exp2(magnitude(dice))};
      const auto rect = screen_bounds(lens, ball);
      if (!rect || rect->area() < 1e-4f) continue;
      // By axis, the disc that the ball is there, cut off at the near plane: its rim, and where it is cut.
      double sides[2][2] = {{1, 0}, {1, 0}};
      const double near = lens.near(), depth = -static_cast<double>(ball.center.z()), radius = ball.radius;
      for (int axis = 0; axis < 2; ++axis) {
        const auto include = [&](double x, double d) {
          DoubleVec3 point(0, 0, -d);
          point[axis] = x;
          const double at = std::clamp(on_picture(lens, point)[static_cast<std::size_t>(axis)], 0.0, 1.0);
          sides[axis][0] = std::min(sides[axis][0], at);
          sides[axis][1] = std::max(sides[axis][1], at);
        };
        for (int k = 0; k < 8192; ++k) {
          const double angle = 2 * 3.14159265358979 * k / 8192, d = depth + radius * std::cos(angle);
          if (d >= near) include(ball.center[axis] + radius * std::sin(angle), d);
        }
        if (std::abs(depth - near) < radius) {
          const double half = std::sqrt(radius * radius - (depth - near) * (depth - near));
          include(ball.center[axis] - half, near);
          include(ball.center[axis] + half, near);
        }
      }
      const double tightest = (sides[0][1] - sides[0][0]) * (sides[1][1] - sides[1][0]);
      ++compared;
      worst = std::max(worst, rect->area() / tightest);
    }
  }
  INFO(compared << " rectangles, the worst " << worst);
  CHECK(compared > 500);
  CHECK(worst < 1.02);
}

namespace {

Cone cone_of(std::mt19937& dice, float least_away, float most_away) {
  std::uniform_real_distribution<float> place(-6, 6), away(least_away, most_away), magnitude(-2, 3),
      angle(0.02f, radians(90));
  std::normal_distribution<float> bell;
  const Vec3 direction = Vec3(bell(dice), bell(dice), bell(dice)).normalized();
  return {Vec3(place(dice), place(dice), -away(dice)), direction, std::exp2(magnitude(dice)), angle(dice)};
}

/// A point of a cone, from its tip: a share of the range along a direction at a share of the angle.
DoubleVec3 within(const Cone& cone, double along, double angle, double turn) {
  const DoubleVec3 axis = cone.direction.cast<double>().normalized();
  const DoubleVec3 u = axis.cross(DoubleVec3::unit(axis.abs().largest_axis() == 0 ? 1 : 0)).normalized(),
                   v = axis.cross(u);
  const DoubleVec3 way = std::cos(angle) * axis + std::sin(angle) * (std::cos(turn) * u + std::sin(turn) * v);
  return cone.tip.cast<double>() + along * static_cast<double>(cone.range) * way;
}

}  // namespace

TEST_CASE(
    "of a hundred thousand cones, nothing that a lens sees lies outside of their rectangles, balls and distances") {
  std::mt19937 dice(8);
  std::uniform_real_distribution<double> share(0, 1);
  int seen = 0, cut = 0, beyond_ball = 0, beyond_distances = 0;
  for (const Projection& lens : lenses()) {
    for (int i = 0; i < 25000; ++i) {
      const Cone cone = cone_of(dice, -6, 20);
      const auto rect = screen_bounds(lens, cone);
      const Sphere ball = cone.sphere();
      const ViewDistances distances = view_distances(cone);
      for (int k = 0; k < 16; ++k) {
        const double angle = static_cast<double>(cone.half_angle) * (k % 4 == 0 ? 1 : share(dice));
        const DoubleVec3 point = within(cone, k % 2 == 0 ? 1 : share(dice), angle, 6.283185307 * share(dice));
        beyond_ball += (point - ball.center.cast<double>()).norm() > ball.radius * (1 + 1e-5);
        beyond_distances += -point.z() < distances.nearest || -point.z() > distances.farthest;
        if (-point.z() < lens.near() || -point.z() > lens.far()) continue;
        const auto [x, y] = on_picture(lens, point);
        if (x < 0 || x > 1 || y < 0 || y > 1) continue;
        ++seen;
        cut += !(rect && x >= rect->left && x <= rect->right && y >= rect->bottom && y <= rect->top);
      }
    }
  }
  CHECK(seen > 100000);
  CHECK(cut == 0);
  CHECK(beyond_ball == 0);
  CHECK(beyond_distances == 0);
}

TEST_CASE("rectangles of cones that lie before the eye are no more than two hundredths larger than the tightest") {
  std::mt19937 dice(9);
  int compared = 0;
  double worst = 1;
  for (const Projection& lens : lenses()) {
    for (int i = 0; i < 400; ++i) {
      const Cone cone = cone_of(dice, 1, 25);
      const auto rect = screen_bounds(lens, cone);
      // Of slivers, sampled rims are too coarse a measure.
      if (!rect || std::min(rect->right - rect->left, rect->top - rect->bottom) < 0.02f ||
          view_distances(cone).nearest < lens.near())
        continue;
      double left = 1, right = 0, bottom = 1, top = 0;
      const auto include = [&](const DoubleVec3& point) {
        const auto [x, y] = on_picture(lens, point);
        left = std::min(left, std::clamp(x, 0.0, 1.0));
        right = std::max(right, std::clamp(x, 0.0, 1.0));
        bottom = std::min(bottom, std::clamp(y, 0.0, 1.0));
        top = std::max(top, std::clamp(y, 0.0, 1.0));
      };
      include(cone.tip.cast<double>());
      for (int a = 0; a <= 48; ++a) {
        for (int t = 0; t < 512; ++t)
          include(within(cone, 1, static_cast<double>(cone.half_angle) * a / 48, 6.283185307 * t / 512));
      }
      ++compared;
      worst = std::max(worst, rect->area() / ((right - left) * (top - bottom)));
    }
  }
  INFO(compared << " rectangles, the worst " << worst);
  CHECK(compared > 300);
  CHECK(worst < 1.02);
}

TEST_CASE("balls that can't be seen have no rectangle, and those without end have the whole picture") {
  const Projection lens = Projection::perspective(Perspective{.near = 0.1f, .far = 50});
  CHECK_FALSE(screen_bounds(lens, {Vec3(0, 0, 3), 1}));         // behind
  CHECK_FALSE(screen_bounds(lens, {Vec3(0, 0, -60), 5}));       // beyond
  CHECK_FALSE(screen_bounds(lens, {Vec3(40, 0, -5), 1}));       // beside
  CHECK_FALSE(screen_bounds(lens, {Vec3(0, 0, -5), -1}));       // empty
  CHECK(screen_bounds(lens, {Vec3(0, 0, 0), 1})->area() == 1);  // around the eye
  CHECK(screen_bounds(lens, {Vec3(0, 0, -5), 0}));              // a point
  const float infinite = std::numeric_limits<float>::infinity();
  CHECK(screen_bounds(lens, {Vec3(0, 0, -5), infinite})->area() == 1);
  CHECK(screen_bounds(lens, {Vec3(0, std::nanf(""), -5), 1})->area() == 1);
  // Touching the near plane from behind.
  CHECK(screen_bounds(lens, {Vec3(0, 0, 0.9f), 1.01f}));
}
