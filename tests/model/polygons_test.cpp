#include "model/polygons.h"

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>

using namespace periscena;

namespace {

/// Twice the signed area, seen from +Z.
double area(const Vec3& a, const Vec3& b, const Vec3& c) {
  return static_cast<double>((b - a).cross(c - a).z());
}

double area(std::span<const Vec3> corners) {
  double sum = 0;
  for (std::size_t i = 1; i + 1 < corners.size(); ++i) sum += area(corners[0], corners[i], corners[i + 1]);
  return sum;
}

/// All triangles run as the polygon does, and together have its area: they cover it once.
void expect_covered(std::span<const Vec3> corners) {
  Triangulation triangulation;
  const auto triangles = triangulation.triangulate(corners);
  REQUIRE(triangles);
  REQUIRE(triangles->size() == corners.size() - 2);
  const double whole = area(corners);
  double sum = 0;
  for (const auto& [a, b, c] : *triangles) {
    const double one = area(corners[a], corners[b], corners[c]);
    REQUIRE(one * whole >= -1e-6 * whole * whole);
    sum += one;
  }
  REQUIRE(sum == Approx(whole).epsilon(1e-4));
}

/// A star: every other corner is nearer to the middle, so half of them turn inward.
std::vector<Vec3> star(std::size_t corners, float inner, bool clockwise) {
  std::vector<Vec3> made;
  for (std::size_t i = 0; i < corners; ++i) {
    const float turn = 2 * std::numbers::pi_v<float> * static_cast<float>(i) / static_cast<float>(corners);
    const float radius = i % 2 ? inner : 1;
    made.emplace_back(radius * std::cos(turn), (clockwise ? -radius : radius) * std::sin(turn), 0.5f);
  }
  return made;
}

}  // namespace

TEST_CASE("polygons of any shape and winding are covered once by their triangles") {
  for (const bool clockwise : {false, true}) {
    for (const std::size_t corners : {3u, 5u, 6u, 20u, 300u}) expect_covered(star(corners, 1, clockwise));
    for (const std::size_t corners : {6u, 8u, 40u, 200u, 1000u}) expect_covered(star(corners, 0.3f, clockwise));
  }
  // An L, and a comb whose teeth reach in.
  expect_covered(std::vector<Vec3>{{0, 0, 0}, {2, 0, 0}, {2, 1, 0}, {1, 1, 0}, {1, 2, 0}, {0, 2, 0}});
  std::vector<Vec3> comb{{40, 0, 0}, {40, 3, 0}, {0, 3, 0}, {0, 0, 0}};
  for (int i = 1; i < 40; ++i) comb.emplace_back(static_cast<float>(i), i % 2 ? 2.5f : 0.0f, 0.0f);
  expect_covered(comb);
}

TEST_CASE("four corners are split along the shorter diagonal") {
  Triangulation triangulation;
  const auto triangles = triangulation.triangulate(std::vector<Vec3>{{0, 0, 0}, {3, 1, 0}, {6, 0, 0}, {3, -1, 0}});
  REQUIRE(triangles == Triangulation::Triangles{{0, 1, 3}, {1, 2, 3}});
}

TEST_CASE("polygons that cut through themselves, or have no area, end") {
  std::mt19937 random(3);
  std::uniform_real_distribution<float> place(-1, 1);
  for (const std::size_t corners : {5u, 30u, 500u}) {
    std::vector<Vec3> tangled;
    for (std::size_t i = 0; i < corners; ++i) tangled.emplace_back(place(random), place(random), place(random));
    REQUIRE(Triangulation().triangulate(tangled)->size() == corners - 2);
  }
  REQUIRE(Triangulation().triangulate(std::vector<Vec3>(50, Vec3::ones()))->size() == 48);
}

TEST_CASE("what is convex may have any number of corners, what is not has a limit") {
  REQUIRE(Triangulation().triangulate(star(20'000, 1, false))->size() == 19'998);
  REQUIRE(Triangulation().triangulate(star(1024, 0.5f, false)));
  REQUIRE_FALSE(Triangulation().triangulate(star(1026, 0.5f, false)));
}
