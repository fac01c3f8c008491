#include <periscena/math/distance_shapes.h>

#include <catch2/catch.hpp>

#include <cmath>
#include <functional>
#include <random>

using namespace periscena;

namespace {

struct Solid {
  const char* name;
  std::function<float(const Vec3&)> distance;
  std::function<bool(const Vec3&)> inside;  ///< by the shape's definition, not by a distance
  bool exact;                               ///< is the distance the true one, not merely no more?
};

const Vec3 half(0.7f, 0.3f, 0.5f);

bool in_box(const Vec3& p) {
  return std::abs(p[0]) < half[0] && std::abs(p[1]) < half[1] && std::abs(p[2]) < half[2];
}
bool in_ball(const Vec3& p) {
  return p.squared_norm() < 0.36f;
}

bool in_capsule(const Vec3& p) {
  for (int i = 0; i <= 2000; ++i) {
    const float t = static_cast<float>(i) / 2000;
    if ((p - (Vec3(-0.4f, 0, 0.1f) * (1 - t) + Vec3(0.5f, 0.6f, -0.2f) * t)).norm() < 0.25f) return true;
  }
  return false;
}

std::vector<Solid> solids() {
  const auto box = [](const Vec3& p) { return box_distance(p, half); };
  const auto ball = [](const Vec3& p) { return ball_distance(p, 0.6f); };
  return {
      {"ball", ball, in_ball, true},
      {"box", box, in_box, true},
      {"plane", [](const Vec3& p) { return plane_distance(p, Vec3(0, 0.6f, 0.8f), 0.2f); },
       [](const Vec3& p) { return 0.6f * p[1] + 0.8f * p[2] < 0.2f; }, true},
      {"capsule",
       [](const Vec3& p) { return capsule_distance(p, Vec3(-0.4f, 0, 0.1f), Vec3(0.5f, 0.6f, -0.2f), 0.25f); },
       in_capsule, true},
      {"cylinder", [](const Vec3& p) { return cylinder_distance(p, 0.5f, 0.4f); },
       [](const Vec3& p) { return p[0] * p[0] + p[2] * p[2] < 0.25f && std::abs(p[1]) < 0.4f; }, true},
      {"ring", [](const Vec3& p) { return ring_distance(p, 0.7f, 0.2f); },
       [](const Vec3& p) { return std::pow(std::sqrt(p[0] * p[0] + p[2] * p[2]) - 0.7f, 2.0f) + p[1] * p[1] < 0.04f; },
       true},
      {"union", [=](const Vec3& p) { return united(box(p), ball(p)); },
       [](const Vec3& p) { return in_box(p) || in_ball(p); }, false},
      {"common part", [=](const Vec3& p) { return common_part(box(p), ball(p)); },
       [](const Vec3& p) { return in_box(p) && in_ball(p); }, false},
      {"cut", [=](const Vec3& p) { return cut(box(p), ball(p)); },
       [](const Vec3& p) { return in_box(p) && !in_ball(p); }, false}};
}

Vec3 somewhere(std::mt19937& random, float reach) {
  std::uniform_real_distribution<float> even(-reach, reach);
  return {even(random), even(random), even(random)};
}

}  // namespace

TEST_CASE("a distance is nowhere more than the way to the nearest point of the other side") {
  std::mt19937 random(3);
  for (const Solid& solid : solids()) {
    INFO(solid.name);
    for (int i = 0; i < 400; ++i) {
      const Vec3 place = somewhere(random, 1.5f);
      const float distance = solid.distance(place);
      if (std::abs(distance) < 1e-3f) continue;
      CHECK((distance < 0) == solid.inside(place));
      for (int k = 0; k < 60; ++k) {
        const Vec3 other = place + somewhere(random, 1).normalized() * (0.9995f * std::abs(distance));
        REQUIRE(solid.inside(other) == (distance < 0));
      }
    }
  }
}

TEST_CASE("the distance to a simple shape is the true one") {
  std::mt19937 random(5);
  for (const Solid& solid : solids()) {
    if (!solid.exact) continue;
    INFO(solid.name);
    for (int i = 0; i < 200; ++i) {
      const Vec3 place = somewhere(random, 1.5f);
      const float distance = solid.distance(place);
      if (std::abs(distance) < 0.02f) continue;
      // Along the way down its slope, the surface lies that far off.
      Vec3 slope;
      for (int k = 0; k < 3; ++k) {
        Vec3 off = Vec3::zero();
        off[k] = 1e-3f;
        slope[k] = solid.distance(place + off) - solid.distance(place - off);
      }
      if (slope.norm() < 1.9e-3f) continue;  // on a ridge, where two sides are as near
      const Vec3 beyond = place - slope.normalized() * (distance + (distance > 0 ? 0.01f : -0.01f));
      CHECK(solid.inside(beyond) == (distance > 0));
    }
  }
}

TEST_CASE("seams melt by a quarter of their width at most, only where they are near, and keep a slope of 1") {
  std::mt19937 random(9);
  std::uniform_real_distribution<float> even(-1, 1);
  for (int i = 0; i < 2000; ++i) {
    const float a = even(random), b = even(random), width = 0.3f;
    const float soft = melted(a, b, width);
    CHECK(soft <= united(a, b));
    CHECK(soft >= united(a, b) - width / 4 - 1e-6f);
    if (std::abs(a - b) >= width) CHECK(soft == united(a, b));
    CHECK(melted(a, b, width) == melted(b, a, width));
    CHECK(melted_common(a, b, width) >= common_part(a, b));
    CHECK(melted_cut(a, b, width) >= cut(a, b));
    // Where both change by no more than a step, so does what they melt into.
    const float da = 0.01f * even(random), db = 0.01f * even(random);
    CHECK(std::abs(melted(a + da, b + db, width) - soft) <= std::max(std::abs(da), std::abs(db)) + 1e-6f);
  }
}

TEST_CASE("noise stays within its bounds, is no steeper than it says, and roughened surfaces keep their distance") {
  std::mt19937 random(13);
  float steepest = 0;
  double sum = 0;
  for (int i = 0; i < 20000; ++i) {
    const Vec3 place = somewhere(random, 20);
    const float here = smooth_noise(place);
    CHECK(std::abs(here) <= 1);
    sum += here;
    const Vec3 step = somewhere(random, 1).normalized() * 0.01f;
    steepest = std::max(steepest, std::abs(smooth_noise(place + step) - here) / 0.01f);
    const float rough = roughened(ball_distance(place, 3), place, 0.2f, 0.7f);
    CHECK(std::abs(roughened(ball_distance(place + step, 3), place + step, 0.2f, 0.7f) - rough) <= 0.01f * 1.01f);
  }
  CHECK(steepest < steepest_noise);
  CHECK(steepest > 2);
  CHECK(std::abs(sum / 20000) < 0.02);
}
