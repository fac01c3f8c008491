#include "thrown.h"

#include <periscena/math/light_fit.h>

#include <cmath>
#include <random>

using namespace periscena;

TEST_CASE("a light's view holds every ball, and none of its four sides and two ends could be nearer") {
  std::mt19937 dice(5);
  std::uniform_real_distribution<float> at(-40, 40), size(0, 6);
  for (int round = 0; round < 200; ++round) {
    const Vec3 direction(at(dice), round % 5 == 0 ? -1e4f : at(dice), at(dice));
    std::vector<Sphere> spheres;
    for (int i = 0; i < 1 + round % 9; ++i) spheres.push_back({Vec3(at(dice), at(dice), at(dice)), size(dice)});
    spheres.push_back({});
    const auto camera = fit_parallel(direction, spheres);
    REQUIRE(camera);
    const Transform view = camera->view();
    Vec3 least = Vec3::constant(1e9f), most = Vec3::constant(-1e9f);
    for (const Sphere& sphere : spheres) {
      if (sphere.empty()) continue;
      const Vec3 seen = view.apply_to_point(sphere.center);
      least = least.min(seen - Vec3::constant(sphere.radius));
      most = most.max(seen + Vec3::constant(sphere.radius));
    }
    const float half = camera->parallel_height / 2, slack = 2e-3f;
    INFO("round " << round);
    REQUIRE(view.apply_to_direction(direction.normalized()).is_near(Vec3(0, 0, -1), 1e-4f));
    REQUIRE(least.head<2>().smallest() >= -half - slack);
    REQUIRE(most.head<2>().largest() <= half + slack);
    REQUIRE(std::max(most.x() - least.x(), most.y() - least.y()) >= camera->parallel_height - 2 * slack - 1e-3f);
    REQUIRE(-most.z() >= camera->near);
    REQUIRE(-least.z() <= camera->far);
    REQUIRE(camera->far - camera->near <= 1.01f * (most.z() - least.z()) + 2 * slack + 2e-3f);
  }
}

TEST_CASE("a light has a view of a single point, and none of nothing") {
  const Sphere point{Vec3(3, 4, 5), 0};
  const auto camera = fit_parallel(Vec3(0, -1, 0), std::span(&point, 1));
  REQUIRE(camera);
  REQUIRE(camera->parallel_height > 0);
  const Vec3 seen = camera->view().apply_to_point(point.center);
  REQUIRE(seen.head<2>().norm() < camera->parallel_height / 2);
  REQUIRE(-seen.z() > camera->near);
  REQUIRE(-seen.z() < camera->far);
  REQUIRE_FALSE(fit_parallel(Vec3(0, -1, 0), {}));
  const Sphere empty;
  REQUIRE_FALSE(fit_parallel(Vec3(0, -1, 0), std::span(&empty, 1)));
}

TEST_CASE("a light that shines nowhere has no view") {
  const Sphere ball{Vec3::zero(), 1};
  const float inf = std::numeric_limits<float>::infinity();
  for (const Vec3& direction : {Vec3(0, 0, 0), Vec3(inf, 0, 0), Vec3(0, NAN, 0)})
    REQUIRE(thrown_slug([&] { fit_parallel(direction, std::span(&ball, 1)); }) == "bad-direction");
}

TEST_CASE("a view is split evenly, or by equal factors, or in between") {
  for (const int parts : {1, 2, 3, 4}) {
    for (const float weight : {0.0f, 0.5f, 1.0f}) {
      const auto distances = split_view(0.5f, 80, parts, weight);
      REQUIRE(distances.size() == static_cast<std::size_t>(parts) + 1);
      CHECK(distances.front() == 0.5f);
      CHECK(distances.back() == 80);
      for (int i = 0; i < parts; ++i) {
        CHECK(distances[i] < distances[i + 1]);
        if (weight == 0) CHECK(distances[i + 1] - distances[i] == Approx(79.5f / static_cast<float>(parts)));
        if (weight == 1) CHECK(distances[i + 1] / distances[i] == Approx(std::pow(160.0, 1.0 / parts)));
      }
    }
  }
  const float inf = std::numeric_limits<float>::infinity();
  for (const auto& [near, far, parts, weight] : {std::tuple(0.0f, 1.0f, 2, 0.5f),
                                                 {2.0f, 1.0f, 2, 0.5f},
                                                 {1.0f, inf, 2, 0.5f},
                                                 {1.0f, 2.0f, 0, 0.5f},
                                                 {1.0f, 2.0f, 5, 0.5f},
                                                 {1.0f, 2.0f, 2, 1.5f},
                                                 {NAN, 2.0f, 2, 0.5f},
                                                 {1.0f, 2.0f, 2, NAN}})
    CHECK(thrown_slug([&, n = near, f = far, p = parts, w = weight] { split_view(n, f, p, w); }) == "bad-split");
}

namespace {

/// The corners of what a camera sees between two distances, by its matrices.
std::vector<Vec3> corners_of(const Camera& camera, float aspect, float from, float to) {
  std::vector<Vec3> corners;
  const Mat4 projection = camera.projection(aspect).matrix();
  for (const float distance : {from, to}) {
    const Vec4 on_axis = projection * Vec4(0, 0, -distance, 1);
    for (const Vec2& side : {Vec2(-1, -1), Vec2(1, -1), Vec2(-1, 1), Vec2(1, 1)}) {
      const Vec3 seen((side.x() * on_axis.w() - on_axis.x()) / projection(0, 0),
                      (side.y() * on_axis.w() - on_axis.y()) / projection(1, 1), -distance);
      corners.push_back(camera.view().inverse().apply_to_point(seen));
    }
  }
  return corners;
}

}  // namespace

TEST_CASE("the ball around a part of a view touches its farthest corners and holds the others") {
  std::mt19937 dice(9);
  const auto between = [&](float low, float high) { return std::uniform_real_distribution<float>(low, high)(dice); };
  for (int round = 0; round < 200; ++round) {
    Camera camera;
    camera.eye = {between(-30, 30), between(-30, 30), between(-30, 30)};
    camera.target = camera.eye + Vec3(between(-1, 1), between(-0.5f, 0.5f), between(0.1f, 1));
    camera.fov_y = between(0.1f, 2.8f);
    if (round % 4 == 0) camera.parallel_height = between(0.5f, 40), camera.far = 200;
    const float aspect = between(0.4f, 3), from = between(0.1f, 10), to = from + between(0.1f, 60);
    const Sphere ball = view_part(camera, aspect, from, to);
    float farthest = 0;
    for (const Vec3& corner : corners_of(camera, aspect, from, to))
      farthest = std::max(farthest, (corner - ball.center).norm());
    CHECK(farthest == Approx(ball.radius).epsilon(1e-3));
    // Not smaller elsewhere on the axis.
    const Vec3 ahead = (camera.target - camera.eye).normalized();
    for (const float step : {-0.05f, 0.05f}) {
      float there = 0;
      for (const Vec3& corner : corners_of(camera, aspect, from, to))
        there = std::max(there, (corner - ball.center - step * ball.radius * ahead).norm());
      CHECK(there > farthest * 0.9999f);
    }
  }
}

TEST_CASE("the ball around a part of what a lens off the axis sees holds its corners") {
  for (const bool parallel : {false, true}) {
    Camera camera{.eye = {3, 2, 1}, .target = {-4, 1, 0}};
    if (parallel)
      camera.lens = Projection::orthographic({-1, 4, -7, 2, 0, 90});
    else
      camera.lens = Projection::perspective(OffCenterPerspective{-0.1f, 0.4f, -0.3f, 0.1f, 0.2f, 90});
    const Sphere ball = view_part(camera, 1, 2, 20);
    float farthest = 0;
    for (const Vec3& corner : corners_of(camera, 1, 2, 20))
      farthest = std::max(farthest, (corner - ball.center).norm());
    CHECK(farthest <= ball.radius * 1.001f);
    CHECK(farthest > ball.radius * 0.9f);
  }
}

TEST_CASE("a steady view holds its ball and the casters before it, and moves by whole texels") {
  std::mt19937 dice(4);
  const auto between = [&](float low, float high) { return std::uniform_real_distribution<float>(low, high)(dice); };
  const Vec3 direction(0.4f, -1, 0.3f);
  const std::vector<Sphere> casters{{Vec3(0, 8, 0), 2}, {}, {Vec3(30, 1, -20), 1}};
  constexpr int texels = 512, border = 4;
  std::optional<Camera> first;
  for (int round = 0; round < 300; ++round) {
    const Sphere ball{{between(-90, 90), between(-5, 5), between(-90, 90)}, 12};
    const Camera camera = fit_steady(direction, ball, casters, texels, border);
    const Vec3 seen = camera.view().apply_to_point(ball.center);
    const float half = camera.parallel_height / 2, texel = camera.parallel_height / texels;
    // The border stays free, whichever way the middle was rounded.
    CHECK(seen.head<2>().abs().largest() + ball.radius <= half - border * texel + 1e-3f);
    CHECK(-seen.z() + ball.radius <= camera.far);
    for (const Sphere& caster : casters) {
      if (caster.empty()) continue;
      const Vec3 at = camera.view().apply_to_point(caster.center);
      CHECK(-at.z() - caster.radius >= -1e-3f);
    }
    if (!first) first = camera;
    CHECK(camera.parallel_height == first->parallel_height);
    // A point that stands still keeps its place within its texel.
    const Vec3 here = camera.view().apply_to_point(Vec3(1, 2, 3)), then = first->view().apply_to_point(Vec3(1, 2, 3));
    for (int axis = 0; axis < 2; ++axis) {
      const float steps = (here[axis] - then[axis]) / texel;
      CHECK(std::abs(steps - std::round(steps)) < 0.01f);
    }
  }
}
