#include "thrown.h"

#include <periscena/scene/scene.h>

#include <cmath>

using namespace periscena;

TEST_CASE("a swing goes from one end to the other and back, easing like a cosine, round its pivot") {
  Motion motion;
  motion.pivot = {1, 0, 0};
  motion.from = radians(10);
  motion.to = radians(70);
  motion.period = 8;
  const auto angle = [&](double t) {
    const Vec3 arm = motion.at(t).apply_to_direction(Vec3::unit_x());
    return degrees(std::atan2(-arm.z(), arm.x()));
  };
  REQUIRE(angle(0) == Approx(10));
  REQUIRE(angle(4) == Approx(70));
  REQUIRE(angle(8) == Approx(10));
  REQUIRE(angle(2) == Approx(40));
  REQUIRE(angle(1) == Approx(40 - 30 * std::cos(radians(45))));
  REQUIRE(angle(1) == Approx(angle(7)));
  REQUIRE(motion.at(3).apply_to_point(motion.pivot).is_near(motion.pivot, 1e-5f));
}

TEST_CASE("a swing that rests at its ends does so for those shares of its period, and moves in what is left") {
  Motion motion{Motion::Kind::slide, Vec3::unit_x(), Vec3::zero(), 0, 1, 10, 0};
  motion.hold_from = 0.4f;
  motion.hold_to = 0.2f;
  const auto at = [&](double t) { return motion.at(t).apply_to_point(Vec3::zero()).x(); };
  // At rest from -2 s to 2 s and from 4 s to 6 s; two seconds to move, each way.
  for (const double t : {-2.0, 0.0, 1.9, 8.1, 12.0}) REQUIRE(at(t) == Approx(0).margin(1e-5));
  for (const double t : {4.0, 5.0, 6.0}) REQUIRE(at(t) == Approx(1));
  REQUIRE(at(3) == Approx(0.5));
  REQUIRE(at(2.5) == Approx(0.5 - 0.5 * std::cos(radians(45))));
  REQUIRE(at(7.5) == Approx(at(2.5)));
}

TEST_CASE("a spin makes a turn each period, a slide moves along its axis whatever the axis' length") {
  Motion spin{Motion::Kind::spin, Vec3::unit_z(), Vec3::zero(), 0, 0, 4, 0.25f};
  REQUIRE(spin.at(0).apply_to_point(Vec3::unit_x()).is_near(Vec3::unit_y(), 1e-5f));
  REQUIRE(spin.at(1).apply_to_point(Vec3::unit_x()).is_near(-Vec3::unit_x(), 1e-5f));
  Motion slide{Motion::Kind::slide, Vec3(0, 5, 0), Vec3::zero(), 1, 3, 2, 0};
  REQUIRE(slide.at(1).apply_to_point(Vec3::zero()).is_near(Vec3(0, 3, 0)));
}

TEST_CASE("motion is a function of absolute time: far away in time it is as exact as near") {
  const Motion motion{Motion::Kind::spin, Vec3::unit_z(), Vec3::zero(), 0, 0, 4, 0};
  const double far_away = 4.0 * 1e8;
  REQUIRE(motion.at(far_away + 1).matrix().is_near(motion.at(1).matrix(), 1e-5f));
  REQUIRE(motion.at(-3).matrix().is_near(motion.at(1).matrix(), 1e-5f));
}

TEST_CASE("world transforms: a node's motion, its placement, then its parent's world") {
  Scene scene;
  Node gate;
  gate.name = "gate";
  gate.motion = Motion{Motion::Kind::swing, Vec3::unit_y(), Vec3::zero(), 0, radians(90), 2, 0};
  gate.placement = translate({10, 0, 0});
  const NodeHandle parent = scene.add_node(gate);
  Node beam;
  beam.parent = parent;
  beam.placement = translate({1, 0, 0});
  scene.add_node(beam);
  std::vector<Transform> worlds(2, Transform::identity());
  scene.world_transforms(1, worlds);
  // At half a period the gate stands at 90°, so what was at +X is at -Z, then 10 along X.
  REQUIRE(worlds[1].apply_to_point(Vec3::zero()).is_near(Vec3(10, 0, -1), 1e-5f));
}

TEST_CASE("a scene refuses what can't be in it") {
  Scene scene;
  const MeshHandle box = scene.add_mesh("box", shapes::box({1, 1, 1}));
  const MaterialHandle oak = scene.add_material(Material{"oak"});
  REQUIRE(thrown_slug([&] { scene.add_mesh("box", shapes::box({1, 1, 1})); }) == "taken-name");
  REQUIRE(thrown_slug([&] { scene.add_material(Material{"oak"}); }) == "taken-name");
  REQUIRE(thrown_slug([&] { scene.add_mesh("empty", {}); }) == "broken-mesh");
  Node node;
  node.name = "a";
  node.mesh = box;
  REQUIRE(thrown_slug([&] { scene.add_node(node); }) == "unknown-mesh");  // no material
  node.material = oak;
  scene.add_node(node);
  REQUIRE(thrown_slug([&] { scene.add_node(node); }) == "taken-name");
  node.name = "b";
  node.parent = {9};
  REQUIRE(thrown_slug([&] { scene.add_node(node); }) == "unknown-parent");
  node.parent = {};
  node.motion = Motion{};
  node.motion->period = 0;
  REQUIRE(thrown_slug([&] { scene.add_node(node); }) == "bad-motion");
  node.motion = Motion{};
  node.motion->hold_from = node.motion->hold_to = 0.5f;
  REQUIRE(thrown_slug([&] { scene.add_node(node); }) == "bad-motion");
  node.motion = Motion{};
  node.motion->axis = Vec3::zero();
  REQUIRE(thrown_slug([&] { scene.add_node(node); }) == "bad-motion");
  scene.add_light(Light{.name = "sun"});
  REQUIRE(thrown_slug([&] { scene.add_light(AmbientLight{"sun"}); }) == "taken-name");
  REQUIRE(thrown_slug([&] {
            scene.add_light(Light{.name = "dark", .kind = DirectionalLight{.direction = Vec3::zero()}});
          }) == "bad-light");
  View view{"v", {}};
  view.camera.target = view.camera.eye;
  REQUIRE(thrown_slug([&] { scene.add_view(view); }) == "eye-at-target");
  REQUIRE(scene.triangle_count() == 12);
}
