#include "thrown.h"

#include <periscena/scene/motion.h>

#include <cmath>

using namespace periscena;

TEST_CASE("keys are met exactly, steps jump, lines are straight, and the ends hold") {
  Track<Vec3> track{Interpolation::linear, {1, 2, 4}, {{0, 0, 0}, {2, 4, 6}, {0, 0, 0}}};
  REQUIRE(track.at(1) == Vec3(0, 0, 0));
  REQUIRE(track.at(2) == Vec3(2, 4, 6));
  REQUIRE(track.at(1.5).is_near(Vec3(1, 2, 3)));
  REQUIRE(track.at(3).is_near(Vec3(1, 2, 3)));
  REQUIRE(track.at(-100) == Vec3(0, 0, 0));
  REQUIRE(track.at(1e9) == Vec3(0, 0, 0));
  track.interpolation = Interpolation::step;
  REQUIRE(track.at(1.999) == Vec3(0, 0, 0));
  REQUIRE(track.at(3.999) == Vec3(2, 4, 6));
}

TEST_CASE("a cubic through keys of a cubic is that cubic") {
  // x(t) = t³ − 2 t, with its derivative at the keys: Hermite's form is exact for it.
  const auto x = [](float t) { return t * t * t - 2 * t; };
  const auto slope = [](float t) { return 3 * t * t - 2; };
  Track<Vec3> track;
  track.interpolation = Interpolation::cubic;
  for (const float t : {0.0f, 1.0f, 3.0f}) {
    track.times.push_back(t);
    for (const float value : {slope(t), x(t), slope(t)}) track.values.push_back({value, 0, 0});
  }
  for (float t = 0; t <= 3; t += 0.125f) REQUIRE(track.at(t).x() == Approx(x(t)).margin(1e-4));
}

TEST_CASE("rotations turn at even speed along the shorter arc") {
  const auto about_y = [](float degrees) { return Quat::about(Vec3::unit_y(), radians(degrees)); };
  Quat far = about_y(90);
  far = Quat(-far.numbers());  // the same rotation, the other way round the sphere
  const Track<Quat> track{Interpolation::linear, {0, 1}, {about_y(0), far}};
  for (const float t : {0.25f, 0.5f, 0.75f}) REQUIRE(track.at(t).angle_to(about_y(90 * t)) < 1e-3f);
}

TEST_CASE("keyed placements repeat, and a gap of a minute between two frames breaks nothing") {
  KeyedPlacement keys;
  keys.translation_track = {Interpolation::linear, {0, 2}, {{0, 0, 0}, {8, 0, 0}}};
  keys.repeat_seconds = 2;
  for (const double t : {0.5, 60.5, 3600.5, -1.5})
    REQUIRE(keys.at(t).apply_to_point(Vec3::zero()).x() == Approx(2).margin(1e-2));
  keys.scale = {2, 2, 2};
  keys.rotation = Quat::about(Vec3::unit_z(), radians(90));
  // Scale, then rotation, then translation.
  REQUIRE(keys.at(1).apply_to_point({1, 0, 0}).is_near(Vec3(4, 2, 0), 1e-5f));
}

TEST_CASE("keys that can't be are refused, with what is wrong") {
  KeyedPlacement keys;
  keys.translation_track = {Interpolation::linear, {0, 2, 2}, {{0, 0, 0}, {1, 0, 0}, {2, 0, 0}}};
  REQUIRE_THAT(thrown_text([&] { keys.expect_sound("gate"); }), Catch::Contains("times must grow"));
  keys.translation_track = {Interpolation::cubic, {0, 2}, {{0, 0, 0}, {1, 0, 0}}};
  REQUIRE_THAT(thrown_text([&] { keys.expect_sound("gate"); }), Catch::Contains("2 values for 2 times"));
  keys.translation_track = {Interpolation::linear, {0}, {{std::nanf(""), 0, 0}}};
  REQUIRE(thrown_slug([&] { keys.expect_sound("gate"); }) == "bad-keys");
}

TEST_CASE("fixed steps are run once each, from anywhere to anywhere, and a long gap is capped") {
  FixedSteps steps(10, 100);
  std::vector<double> ran;
  int restarts = 0;
  const auto run_to = [&](double t) {
    return steps.run_to(
        t, [&](double at) { ran.push_back(at); },
        [&] {
          ++restarts;
          ran.clear();
        });
  };
  REQUIRE(run_to(0.25).steps == 3);  // those that begin at 0, 0.1, 0.2
  REQUIRE(run_to(0.25).steps == 0);
  REQUIRE(run_to(1.0).steps == 7);
  REQUIRE(ran.size() == 10);
  for (std::size_t i = 0; i < ran.size(); ++i) REQUIRE(ran[i] == Approx(0.1 * static_cast<double>(i)));
  // Back in time: from the start, to the same state as without the detour.
  REQUIRE(run_to(0.55).restarted);
  REQUIRE(restarts == 1);
  REQUIRE(ran.size() == 6);
  // A minute later.
  const FixedSteps::Ran gap = run_to(60);
  REQUIRE(gap.skipped);
  REQUIRE(gap.steps == 100);
  REQUIRE(ran.back() == Approx(59.9));
  REQUIRE(thrown_slug([] { FixedSteps(0); }) == "bad-rate");
}
