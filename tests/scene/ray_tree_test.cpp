#include <periscena/scene/ray_tree.h>

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>

using namespace periscena;

namespace {

std::mt19937 dice(17);

float between(float low, float high) {
  return std::uniform_real_distribution<float>(low, high)(dice);
}

Vec3 anywhere(float extent) {
  return {between(-extent, extent), between(-extent, extent), between(-extent, extent)};
}

/// Triangles of many sizes, some of them slivers, some in one plane, some twice.
std::vector<Triangle> heap(int count) {
  std::vector<Triangle> triangles;
  for (int i = 0; i < count; ++i) {
    const Vec3 at = anywhere(10);
    const float size = i % 50 == 0 ? 8.0f : i % 7 == 0 ? 0.01f : 1.0f;
    Triangle made{at + anywhere(size), at + anywhere(size), at + anywhere(size)};
    if (i % 11 == 0) made.a.z() = made.b.z() = made.c.z() = 1;
    if (i % 13 == 0 && i > 0) made = triangles[static_cast<std::size_t>(i) / 2];
    triangles.push_back(made);
  }
  return triangles;
}

/// One after the other: each tree of a single triangle is nothing but the test of that triangle.
std::optional<RayHit> nearest_of_all(const std::vector<RayTree>& single, const Ray& ray) {
  std::optional<RayHit> found;
  for (std::uint32_t i = 0; i < single.size(); ++i) {
    std::optional<RayHit> hit = single[i].nearest(ray);
    if (!hit || (found && hit->distance >= found->distance)) continue;
    hit->triangle = i;
    found = hit;
  }
  return found;
}

}  // namespace

TEST_CASE("a ray finds in the tree what it finds by trying all triangles") {
  const std::vector<Triangle> triangles = heap(1500);
  const RayTree tree(triangles);
  std::vector<RayTree> single;
  for (const Triangle& triangle : triangles) single.emplace_back(std::vector{triangle});
  int hits = 0, stopped = 0;
  for (int i = 0; i < 2000; ++i) {
    Ray ray{anywhere(14), anywhere(1)};
    if (i % 5 == 0) ray.direction = Vec3::unit(i % 3) * (i % 2 ? 2.0f : -0.5f);  // along an axis
    if (i % 10 == 0) ray.origin.z() = 1;                                         // in the plane of many
    if (i % 3 == 0) ray.farthest = between(0, 20);
    if (i % 4 == 0) ray.nearest = between(0, 3);
    const std::optional<RayHit> expected = nearest_of_all(single, ray), found = tree.nearest(ray);
    REQUIRE(found == expected);
    REQUIRE(tree.blocked(ray) == expected.has_value());
    hits += found.has_value();
    // Only some of them block.
    const auto even = [](const RayHit& hit) { return hit.triangle % 2 == 0; };
    bool blocked = false;
    for (std::uint32_t k = 0; k < single.size() && !blocked; k += 2) blocked = single[k].blocked(ray);
    REQUIRE(tree.blocked(ray, even) == blocked);
    stopped += blocked;
  }
  CHECK(hits > 400);
  CHECK(stopped > 200);
}

TEST_CASE("hits lie where closed forms say") {
  auto scene = Scene();
  Node node;
  node.mesh = scene.add_mesh("ball", shapes::sphere(1, 96));
  node.material = scene.add_material({});
  node.placement = Transform::scale(Vec3(2, 2, 2)).then(Transform::translate({0, 1, -5}));
  node.motion = Motion{.kind = Motion::Kind::slide, .axis = Vec3::unit_x(), .from = 0, .to = 4, .period = 2};
  scene.add_node(node);
  std::vector<TriangleSource> sources;
  const RayTree still(world_triangles(scene, 0, {}, &sources));
  REQUIRE(sources.size() == scene.meshes()[0].triangle_count());
  const RayTree moved(world_triangles(scene, 1));
  int met = 0;
  for (int i = 0; i < 500; ++i) {
    const Vec3 target = Vec3(0, 1, -5) + anywhere(2.2f);
    const Ray ray{Vec3(0, 1, 3), target - Vec3(0, 1, 3)};
    const Vec3 along = ray.direction.normalized(), from = ray.origin - Vec3(0, 1, -5);
    const float b = from.dot(along), rest = b * b - from.squared_norm() + 4;
    const auto hit = still.nearest(ray);
    if (rest > 0.2f) {
      REQUIRE(hit);
      // Chords of an arc of 1/48 of half a turn lie below it by up to r (1 - cos(pi / 96)), seen at a slant.
      CHECK(hit->distance * ray.direction.norm() == Approx(-b - std::sqrt(rest)).margin(0.02));
      const Triangle& t = still.triangles()[hit->triangle];
      const Vec3 at = t.a + hit->second * (t.b - t.a) + hit->third * (t.c - t.a);
      CHECK((at - (ray.origin + hit->distance * ray.direction)).norm() < 1e-4f);
      ++met;
    } else if (rest < 0) {
      CHECK_FALSE(hit);
    }
    // At 1 s, half a period, it is 4 m of its own, 8 m in the world, aside.
    Ray aside = ray;
    aside.origin.x() += 8;
    const auto there = moved.nearest(aside);
    REQUIRE(there.has_value() == hit.has_value());
    if (hit) CHECK(there->distance == Approx(hit->distance).margin(1e-3));
  }
  CHECK(met > 100);
  CHECK(world_triangles(scene, 0, {false}).empty());
}

TEST_CASE("a closed mesh lets no ray through its edges and corners") {
  auto scene = Scene();
  Node node;
  node.mesh = scene.add_mesh("box", shapes::box({2, 2, 2}));
  node.material = scene.add_material({});
  scene.add_node(node);
  const RayTree box(world_triangles(scene, 0));
  for (int i = 0; i < 3000; ++i) {
    // Through an edge, a corner or a diagonal, exactly.
    Vec3 at(i % 2 ? 1.0f : -1.0f, i % 3 ? between(-1, 1) : 1.0f, i % 5 ? between(-1, 1) : -1.0f);
    if (i % 7 == 0) at.z() = at.y();
    const Ray ray{Vec3::zero(), at};
    const auto hit = box.nearest(ray);
    REQUIRE(hit);
    CHECK(hit->distance == Approx(1).margin(1e-5));
  }
}

TEST_CASE("trees of nothing, and of triangles that are none, meet no ray") {
  const float nan = std::numeric_limits<float>::quiet_NaN(), inf = std::numeric_limits<float>::infinity();
  CHECK_FALSE(RayTree().nearest({}));
  CHECK_FALSE(RayTree(std::vector<Triangle>()).blocked({}));
  const RayTree broken({{Vec3(nan, 0, -1), Vec3(1, 0, -1), Vec3(0, 1, -1)},
                        {Vec3(-inf, 0, -1), Vec3(1, 0, -1), Vec3(0, 1, -1)},
                        {Vec3(0, 0, -1), Vec3(0, 0, -1), Vec3(0, 0, -1)},
                        {Vec3(-1, 0, -1), Vec3(0, 0, -1), Vec3(1, 0, -1)}});
  CHECK_FALSE(broken.nearest({}));
  CHECK_FALSE(broken.nearest({.direction = Vec3::zero()}));
  CHECK_FALSE(broken.nearest({.direction = Vec3(nan, 0, 0)}));
  // Many in one place, which no cut can part.
  const RayTree same(std::vector<Triangle>(1000, {Vec3(-1, -1, -2), Vec3(1, -1, -2), Vec3(0, 1, -2)}));
  CHECK(same.nearest({})->distance == 2);
  CHECK(same.nearest({})->triangle == 0);
  CHECK_FALSE(same.nearest({.farthest = 1.9f}));
}
