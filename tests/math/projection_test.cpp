#include "math/odd_numbers.h"
#include "thrown.h"

#include <periscena/math/projection.h>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

/// Where a camera-space point lands after division by w.
Vec3 land(const Projection& projection, const Vec3& point) {
  const Vec4 clip = projection.matrix() * Vec4(point.x(), point.y(), point.z(), 1);
  return clip.head<3>() / clip.w();
}

float depth_at(const Projection& projection, float distance) {
  return land(projection, {0, 0, -distance}).z();
}

}  // namespace

TEST_CASE(
    "a point on the near plane lands on depth 1, one on the far plane on 0, and the other way round in ordinary "
    "depth") {
  for (const float far : {50.0f, 1000.0f}) {
    const Projection reversed =
        Projection::perspective(Perspective{radians(60), 1.5f, 0.25f, far, DepthOrder::reversed});
    REQUIRE(depth_at(reversed, 0.25f) == Approx(1).epsilon(1e-6));
    REQUIRE(depth_at(reversed, far) == Approx(0).margin(1e-6));
    const Projection ordinary =
        Projection::perspective(Perspective{radians(60), 1.5f, 0.25f, far, DepthOrder::ordinary});
    REQUIRE(depth_at(ordinary, 0.25f) == Approx(0).margin(1e-6));
    REQUIRE(depth_at(ordinary, far) == Approx(1).epsilon(1e-6));
  }
}

TEST_CASE("an infinite lens has near at 1, and depth is near by distance") {
  const Projection lens = Projection::perspective(Perspective{radians(45), 1, 0.5f, infinity, DepthOrder::reversed});
  REQUIRE(depth_at(lens, 0.5f) == Approx(1));
  for (const float distance : {1.0f, 10.0f, 1e5f}) REQUIRE(depth_at(lens, distance) == Approx(0.5f / distance));
  const Projection ordinary =
      Projection::perspective(Perspective{radians(45), 1, 0.5f, infinity, DepthOrder::ordinary});
  REQUIRE(depth_at(ordinary, 0.5f) == Approx(0).margin(1e-6));
  REQUIRE(depth_at(ordinary, 100.0f) == Approx(1 - 0.5f / 100));
}

TEST_CASE("the field of view reaches the picture's edges") {
  const float fov = radians(70), aspect = 16.0f / 9;
  const Projection lens = Projection::perspective(Perspective{fov, aspect, 0.1f, 100});
  const float half = std::tan(fov / 2);
  const Vec3 corner = land(lens, 7 * Vec3(half * aspect, half, -1));
  REQUIRE(corner.x() == Approx(1));
  REQUIRE(corner.y() == Approx(1));
}

TEST_CASE("an off-centre lens maps its own sides to the picture's edges") {
  const Projection lens = Projection::perspective(OffCenterPerspective{-0.1f, 0.3f, -0.2f, 0.05f, 0.1f, 10});
  REQUIRE(land(lens, {-0.1f, -0.2f, -0.1f}).is_near(Vec3(-1, -1, 1), 1e-5f));
  const Vec3 far_corner = land(lens, 100 * Vec3(0.3f, 0.05f, -0.1f));
  REQUIRE(far_corner.x() == Approx(1));
  REQUIRE(far_corner.y() == Approx(1));
  REQUIRE(far_corner.z() == Approx(0).margin(1e-6));
}

TEST_CASE("a parallel lens maps its box to the clip volume, in both orders") {
  const Projection reversed = Projection::orthographic({-2, 4, -1, 3, -5, 20, DepthOrder::reversed});
  REQUIRE(land(reversed, {-2, -1, 5}).is_near(Vec3(-1, -1, 1), 1e-6f));
  REQUIRE((land(reversed, {4, 3, -20}) - Vec3(1, 1, 0)).norm() < 1e-6f);
  const Projection ordinary = Projection::orthographic({-2, 4, -1, 3, -5, 20, DepthOrder::ordinary});
  REQUIRE((land(ordinary, {-2, -1, 5}) - Vec3(-1, -1, 0)).norm() < 1e-6f);
  REQUIRE(land(ordinary, {4, 3, -20}).is_near(Vec3(1, 1, 1), 1e-6f));
}

TEST_CASE("distance_at undoes the depth of every lens") {
  const Projection lenses[] = {
      Projection::perspective(Perspective{radians(50), 1, 0.1f, infinity, DepthOrder::reversed}),
      Projection::perspective(Perspective{radians(50), 1, 0.1f, 200, DepthOrder::reversed}),
      Projection::perspective(Perspective{radians(50), 1, 0.1f, 200, DepthOrder::ordinary}),
      Projection::orthographic({-1, 1, -1, 1, 0, 200, DepthOrder::reversed}),
      Projection::orthographic({-1, 1, -1, 1, 0, 200, DepthOrder::ordinary}),
  };
  for (const Projection& lens : lenses) {
    for (const float distance : {0.2f, 1.0f, 7.0f, 30.0f}) {
      // What a step of a float just below 1 (2^-24) is in metres: d²/near in ordinary depth; all of near to far in
      // parallel depth. The matrix' own rounding doubles it.
      const double step = std::pow(2.0, -24);
      const double metres = lens.is_perspective() ? step * distance * distance / 0.1 : step * 200;
      REQUIRE(lens.distance_at(depth_at(lens, distance)) == Approx(distance).epsilon(1e-5).margin(4 * metres));
    }
  }
  REQUIRE(std::isinf(lenses[0].distance_at(0)));
}

TEST_CASE("the inverse undoes the matrix, the infinite one too") {
  for (const float far : {100.0f, infinity}) {
    const Projection lens = Projection::perspective(Perspective{radians(50), 1.3f, 0.1f, far});
    REQUIRE((lens.inverse() * lens.matrix() - Mat4::identity()).abs().largest() < 1e-5f);
  }
}

TEST_CASE("reversed depth tells distances apart where ordinary depth no longer does") {
  const Projection reversed =
      Projection::perspective(Perspective{radians(50), 1, 0.1f, infinity, DepthOrder::reversed});
  const Projection ordinary =
      Projection::perspective(Perspective{radians(50), 1, 0.1f, infinity, DepthOrder::ordinary});
  REQUIRE(depth_at(reversed, 20000) != depth_at(reversed, 20001));
  REQUIRE(depth_at(ordinary, 20000) == depth_at(ordinary, 20001));
}

TEST_CASE("impossible lenses are refused by name") {
  const auto perspective = [](float fov, float aspect, float near, float far) {
    return thrown_slug([&] { Projection::perspective(Perspective{fov, aspect, near, far}); });
  };
  REQUIRE(perspective(0, 1, 0.1f, 10) == "bad-field-of-view");
  REQUIRE(perspective(pi, 1, 0.1f, 10) == "bad-field-of-view");
  REQUIRE(perspective(-1, 1, 0.1f, 10) == "bad-field-of-view");
  REQUIRE(perspective(50, 1, 0.1f, 10) == "bad-field-of-view");  // degrees where radians belong
  REQUIRE(perspective(nan_value, 1, 0.1f, 10) == "bad-field-of-view");
  REQUIRE(perspective(1, 0, 0.1f, 10) == "bad-aspect");
  REQUIRE(perspective(1, infinity, 0.1f, 10) == "bad-aspect");
  REQUIRE(perspective(1, 1, 0, 10) == "bad-near");
  REQUIRE(perspective(1, 1, -1, 10) == "bad-near");
  REQUIRE(perspective(1, 1, 10, 10) == "near-beyond-far");
  REQUIRE(perspective(1, 1, 10, 1) == "near-beyond-far");
  REQUIRE(perspective(1, 1, nan_value, 1) == "not-finite");
  REQUIRE(thrown_slug([] { Projection::orthographic({1, 1, -1, 1, 0, 1}); }) == "flat-volume");
  REQUIRE(thrown_slug([] { Projection::orthographic({-1, 1, -1, 1, 1, 1}); }) == "near-beyond-far");
  REQUIRE(thrown_slug([] { Projection::orthographic({-1, 1, -1, 1, 0, infinity}); }) == "not-finite");
  REQUIRE(thrown_slug([] { Projection::orthographic({-1, nan_value, -1, 1, 0, 1}); }) == "not-finite");
}

TEST_CASE("a matrix is taken as the lens that it is") {
  std::mt19937 dice(8);
  const auto between = [&](float low, float high) { return std::uniform_real_distribution<float>(low, high)(dice); };
  for (int round = 0; round < 100; ++round) {
    const float near = between(0.01f, 2), far = near + between(0.5f, 500), left = between(-2, 1),
                bottom = between(-2, 1);
    const DepthOrder order = round % 2 ? DepthOrder::reversed : DepthOrder::ordinary;
    const bool parallel = round % 3 == 0;
    const float right = left + between(0.1f, 3), top = bottom + between(0.1f, 3);
    const Projection lens =
        parallel ? Projection::orthographic({left, right, bottom, top, near - 1, far, order})
                 : Projection::perspective(OffCenterPerspective{left, right, bottom, top, near, far, order});
    const Projection found = Projection::of_matrix(lens.matrix(), ClipDepth::from_zero);
    CHECK(found.matrix() == lens.matrix());
    CHECK(found.is_perspective() == !parallel);
    CHECK(found.depth_order() == order);
    CHECK(found.near() == Approx(lens.near()).epsilon(1e-3).margin(1e-3));
    CHECK(found.far() == Approx(lens.far()).epsilon(1e-2));
    // As OpenGL's own convention has it: twice the depth, less 1 (OpenGL 4.5, 13.8.1); and ten times all of it, which
    // is the same map.
    Mat4 other = lens.matrix();
    for (int k = 0; k < 4; ++k) other(2, k) = 2 * other(2, k) - other(3, k);
    for (int row = 0; row < 4; ++row) {
      for (int column = 0; column < 4; ++column) other(row, column) *= 8;
    }
    CHECK((Projection::of_matrix(other, ClipDepth::from_minus_one).matrix() - lens.matrix()).abs().largest() <
          1e-5f * std::max(1.0f, lens.matrix().abs().largest()));
  }
  const Projection endless = Projection::perspective(Perspective{1, 1, 0.2f});
  CHECK(std::isinf(Projection::of_matrix(endless.matrix(), ClipDepth::from_zero).far()));
  CHECK(Projection::of_matrix(endless.matrix(), ClipDepth::from_zero) == endless);
}

TEST_CASE("a matrix that is no lens is refused") {
  const Mat4 good = Projection::perspective(Perspective{1, 1.5f, 0.2f, 50}).matrix();
  const auto slug = [](const Mat4& matrix) {
    return thrown_slug([&] { Projection::of_matrix(matrix, ClipDepth::from_zero); });
  };
  CHECK(slug(good) == "nothing");
  CHECK(slug(Mat4::zero()) == "bad-projection");
  CHECK(slug(good.transpose()) == "bad-projection");
  CHECK(slug(good * look_at({1, 2, 3}, {0, 0, 0}, {0, 1, 0}).matrix()) == "bad-projection");
  const auto with = [&](int row, int column, float value) {
    Mat4 matrix = good;
    matrix(row, column) = value;
    return slug(matrix);
  };
  CHECK(with(1, 1, -good(1, 1)) == "bad-projection");  // upside down
  CHECK(with(0, 1, 0.2f) == "bad-projection");
  CHECK(with(2, 1, 0.2f) == "bad-projection");
  CHECK(with(0, 3, 0.2f) == "bad-projection");
  CHECK(with(3, 2, 1) == "bad-projection");  // looks along +Z
  CHECK(with(2, 3, 0) == "bad-projection");
  CHECK(with(0, 0, nan_value) == "bad-projection");
  CHECK(with(2, 2, infinity) == "bad-projection");
}

TEST_CASE("a camera with a lens of the program's own has its numbers") {
  Camera camera;
  camera.lens = Projection::perspective(OffCenterPerspective{-0.05f, 0.2f, -0.1f, 0.1f, 0.2f, 30});
  const Camera shaped = camera.for_shape(3);
  CHECK(shaped.near == 0.2f);
  CHECK(shaped.far == 30);
  CHECK(std::tan(shaped.fov_y / 2) == Approx(0.5f));
  CHECK(camera.projection(3) == *camera.lens);
  CHECK(shaped.projection(1) == *camera.lens);
  camera.lens = Projection::orthographic({-2, 4, -1, 3, -5, 20});
  CHECK(camera.for_shape(1).parallel_height == 4);
  camera.depth = DepthOrder::ordinary;
  CHECK(thrown_slug([&] { camera.projection(1); }) == "bad-projection");
}

TEST_CASE("a camera with a parallel height is parallel") {
  Camera camera;
  camera.far = 10;
  camera.parallel_height = 4;
  const Projection lens = camera.projection(2);
  REQUIRE_FALSE(lens.is_perspective());
  REQUIRE(land(lens, {4, 2, -1}).head<2>().is_near(Vec2(1, 1), 1e-6f));
}
