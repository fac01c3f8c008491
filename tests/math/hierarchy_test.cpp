#include "thrown.h"

#include <periscena/math/hierarchy.h>

using namespace periscena;

TEST_CASE("a child's world is its own transform, then its parent's, all the way up") {
  Hierarchy tree;
  const auto gate = tree.add({}, translate({2, 0, 0}));
  const auto beam = tree.add(gate, translate({0, 1, 0}));
  const auto tip = tree.add(beam, translate({0, 0, 3}));
  REQUIRE(tree.world(tip).apply_to_point(Vec3::zero()).is_near(Vec3(2, 1, 3)));
  tree.set_local(gate, rotate(Vec3::unit_y(), radians(90)).then(translate({2, 0, 0})));
  tree.update();
  // (0, 1, 3) turned by 90° about Y is (3, 1, 0).
  REQUIRE(tree.world(tip).apply_to_point(Vec3::zero()).is_near(Vec3(5, 1, 0)));
  REQUIRE(tree.parent(tip) == beam);
  REQUIRE_FALSE(tree.parent(gate).valid());
}

TEST_CASE("a chain of a hundred quarter turns and steps closes as it must") {
  Hierarchy tree;
  NodeHandle node;
  for (int i = 0; i < 100; ++i) node = tree.add(node, rotate(Vec3::unit_y(), radians(90)).then(translate({1, 0, 0})));
  // Four steps of a square come home, and a hundred is a multiple of four.
  REQUIRE(tree.world(node).matrix().is_near(Mat4::identity(), 1e-3f));
  REQUIRE(tree.worlds().size() == 100);
}

TEST_CASE("parents must be there before their children, and handles must be known") {
  Hierarchy tree;
  REQUIRE(thrown_slug([&] { tree.add(NodeHandle{0}, Transform::identity()); }) == "unknown-parent");
  tree.add({}, Transform::identity());
  REQUIRE(thrown_slug([&] { tree.set_local(NodeHandle{1}, Transform::identity()); }) == "unknown-node");
  REQUIRE(thrown_slug([&] { tree.world(NodeHandle{}); }) == "unknown-node");
}
