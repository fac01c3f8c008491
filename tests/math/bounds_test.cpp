#include <periscena/math/bounds.h>

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

struct Fixture {
  std::mt19937 random{5};
  Vec3 point(float size) {
    std::uniform_real_distribution<float> any(-size, size);
    return {any(random), any(random), any(random)};
  }
};

bool in_clip_volume(const Mat4& view_projection, const Vec3& point) {
  const Vec4 clip = view_projection * Vec4(point.x(), point.y(), point.z(), 1);
  return std::abs(clip.x()) <= clip.w() && std::abs(clip.y()) <= clip.w() && clip.z() >= 0 && clip.z() <= clip.w();
}

}  // namespace

TEST_CASE_METHOD(Fixture, "a point is in the frustum just when it lands in the clip volume") {
  for (const float far : {30.0f, std::numeric_limits<float>::infinity()}) {
    for (const DepthOrder depth : {DepthOrder::reversed, DepthOrder::ordinary}) {
      const Mat4 matrix = Projection::perspective(Perspective{radians(60), 1.4f, 0.5f, far, depth}).matrix() *
                          look_at({1, 2, 8}, {0, 0, -1}).matrix();
      const Frustum frustum = Frustum::of(matrix, depth);
      int inside = 0;
      for (int i = 0; i < 4000; ++i) {
        const Vec3 p = point(20);
        inside += in_clip_volume(matrix, p);
        REQUIRE(frustum.contains(p) == in_clip_volume(matrix, p));
      }
      REQUIRE(inside > 100);
    }
  }
}

TEST_CASE_METHOD(Fixture, "planes have inward normals of length 1, near before far") {
  const Frustum frustum =
      Frustum::of(Projection::perspective(Perspective{radians(60), 1, 0.5f, 30}).matrix(), DepthOrder::reversed);
  for (const Plane& plane : frustum.planes()) REQUIRE(plane.normal.norm() == Approx(1));
  REQUIRE(frustum.planes()[4].distance({0, 0, -0.5f}) == Approx(0).margin(1e-5));
  REQUIRE(frustum.planes()[4].distance({0, 0, -1}) == Approx(0.5));
  REQUIRE(frustum.planes()[5].distance({0, 0, -30}) == Approx(0).margin(1e-3));
}

TEST_CASE_METHOD(Fixture, "nothing that shows is ever called outside: balls and boxes hold random points") {
  const Mat4 matrix = Projection::perspective(Perspective{radians(50), 1.2f, 0.3f, 40}).matrix() *
                      look_at({4, 3, 9}, {0, 0, 0}).matrix();
  const Frustum frustum = Frustum::of(matrix, DepthOrder::reversed);
  int outside = 0;
  for (int i = 0; i < 3000; ++i) {
    const Sphere sphere{point(25), 0.2f + std::abs(point(3).x())};
    Box box;
    box.include(point(25));
    box.include(box.min + point(4).abs());
    outside += !frustum.may_see(sphere);
    for (int k = 0; k < 20; ++k) {
      const Vec3 in_sphere = sphere.center + sphere.radius * 0.999f * point(1).normalized();
      const Vec3 in_box = box.min + box.size().times(point(0.5f) + Vec3::constant(0.5f));
      if (frustum.contains(in_sphere)) REQUIRE(frustum.may_see(sphere));
      if (frustum.contains(in_box)) REQUIRE(frustum.may_see(box));
    }
  }
  REQUIRE(outside > 500);  // and it does cull
  REQUIRE_FALSE(frustum.may_see(Sphere{}));
  REQUIRE_FALSE(frustum.may_see(Box{}));
}

TEST_CASE_METHOD(Fixture, "transformed bounds hold the transformed points, and a box stays tight") {
  for (int i = 0; i < 200; ++i) {
    const Transform transform =
        Transform::scale(point(3)).then(rotate(point(1), 2)).then(scale(Vec3(1, 4, 1))).then(translate(point(5)));
    std::vector<Vec3> points;
    for (int k = 0; k < 30; ++k) points.push_back(point(2));
    const Box box = Box::around(points);
    const Box moved = box.transformed(transform);
    const Sphere ball = box.sphere().transformed(transform);
    std::vector<Vec3> corners;
    for (int c = 0; c < 8; ++c) {
      corners.push_back(transform.apply_to_point(
          {c & 1 ? box.max.x() : box.min.x(), c & 2 ? box.max.y() : box.min.y(), c & 4 ? box.max.z() : box.min.z()}));
    }
    for (const Vec3& p : points) {
      const Vec3 q = transform.apply_to_point(p);
      REQUIRE((q - ball.center).norm() <= ball.radius * 1.0001f);
      REQUIRE(moved.contains(q + (moved.center() - q) * 1e-4f));
    }
    const Box exact = Box::around(corners);
    REQUIRE((exact.min - moved.min).norm() < 1e-3f);
    REQUIRE((exact.max - moved.max).norm() < 1e-3f);
  }
}

TEST_CASE("empty bounds stay empty") {
  REQUIRE(Box{}.empty());
  REQUIRE(Box{}.sphere().empty());
  REQUIRE(Box{}.transformed(Transform::translate({1, 2, 3})).empty());
  REQUIRE(Sphere{}.transformed(Transform::scale(3)).empty());
}
