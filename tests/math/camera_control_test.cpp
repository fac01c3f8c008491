#include "math/odd_numbers.h"
#include "thrown.h"

#include <periscena/math/camera_control.h>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

/// Where a point is in the picture, as shares of its size from the upper left, and its depth.
Vec3 seen(const Camera& camera, float aspect, const Vec3& point) {
  const Vec4 clip = camera.projection(aspect).matrix() * camera.view().matrix() * point.with(1);
  return {0.5f + 0.5f * clip.x() / clip.w(), 0.5f - 0.5f * clip.y() / clip.w(), clip.z() / clip.w()};
}

class Dice {
 public:
  float operator()(float from, float to) { return std::uniform_real_distribution<float>(from, to)(random_); }
  Vec3 vec(float size) { return {(*this)(-size, size), (*this)(-size, size), (*this)(-size, size)}; }
  Camera camera() {
    Camera camera{.eye = vec(5), .target = vec(5), .fov_y = (*this)(0.2f, 2.5f), .near = 0.05f};
    camera.up = {(*this)(-0.2f, 0.2f), 1, (*this)(-0.2f, 0.2f)};
    camera.keep = static_cast<Keep>(++count_ % 3);
    camera.keep_aspect = (*this)(0.5f, 2);
    if (count_ % 4 == 0) {
      camera.parallel_height = (*this)(1, 5);
      camera.far = 100;
      camera.near = 0;
    }
    return camera;
  }

 private:
  std::mt19937 random_{7};
  int count_ = 0;
};

}  // namespace

TEST_CASE("a view of another shape keeps its height, its width, or both") {
  for (const float parallel : {0.0f, 3.0f}) {
    Camera camera{.fov_y = radians(50), .far = 100, .parallel_height = parallel, .keep_aspect = 1.6f};
    // Half of what the picture shows, up and to the right, at a distance of 1.
    const auto half = [&](Keep keep, float aspect) {
      camera.keep = keep;
      const Mat4 to_clip = camera.projection(aspect).matrix();
      return Vec2(1 / to_clip(0, 0), 1 / to_clip(1, 1));
    };
    const Vec2 own = half(Keep::height, 1.6f);
    for (const float aspect : {0.2f, 1.0f, 1.6f, 2.0f, 5.0f}) {
      INFO("shape " << aspect);
      CHECK(half(Keep::height, aspect).y() == Approx(own.y()));
      CHECK(half(Keep::width, aspect).x() == Approx(own.x()));
      const Vec2 both = half(Keep::both, aspect);
      CHECK(both.x() >= Approx(own.x()));
      CHECK(both.y() >= Approx(own.y()));
      CHECK(std::min(both.x() / own.x(), both.y() / own.y()) == Approx(1));
      for (const Keep keep : {Keep::height, Keep::width, Keep::both})
        CHECK(half(keep, aspect).x() / half(keep, aspect).y() == Approx(aspect));
    }
  }
  Camera lost{.keep = Keep::width, .keep_aspect = 0};
  CHECK(thrown_slug([&] { lost.projection(1); }) == "bad-aspect");
  lost.keep_aspect = nan_value;
  CHECK(thrown_slug([&] { lost.projection(1); }) == "bad-aspect");
}

TEST_CASE("a place of the picture and a depth give back the point that was seen there") {
  Dice dice;
  for (int round = 0; round < 400; ++round) {
    Camera camera = dice.camera();
    const float aspect = dice(0.3f, 3);
    if (round % 3 == 0) {
      const float left = dice(-1, 0.5f), bottom = dice(-1, 0.5f), right = left + dice(0.5f, 2),
                  top = bottom + dice(0.5f, 2);
      if (camera.parallel_height > 0)
        camera.lens = Projection::orthographic({left, right, bottom, top, camera.near, 100, camera.depth});
      else
        camera.lens =
            Projection::perspective(OffCenterPerspective{left, right, bottom, top, 0.5f, camera.far, camera.depth});
    }
    const Vec3 ahead = (camera.target - camera.eye).normalized();
    const Vec3 point = camera.eye + dice(0.5f, 20) * ahead + dice.vec(0.3f);
    const Vec3 place = seen(camera, aspect, point);
    const Vec3 found = point_seen(camera, aspect, place.head<2>(), place.z());
    INFO("round " << round);
    REQUIRE(found.is_near(point, 2e-3f * (point - camera.eye).norm() + 2e-3f));
    const Vec3 sight = sight_through(camera, aspect, place.head<2>());
    if (camera.parallel_height > 0)
      REQUIRE(sight.is_near(ahead, 1e-5f));
    else
      REQUIRE(sight.is_near((point - camera.eye).normalized(), 1e-3f));
  }
}

TEST_CASE("a camera fitted to a box sees all of it, touches two sides, and has it in the middle") {
  Dice dice;
  int checked = 0;
  for (int round = 0; round < 600; ++round) {
    const Camera camera = dice.camera();
    const float aspect = dice(0.2f, 4), margin = round % 3 == 0 ? 0 : dice(0, 0.2f);
    const Vec3 middle = dice.vec(30);
    const Vec3 half(dice(0.001f, 4), dice(0.001f, 4), round % 7 == 0 ? 0 : dice(0.001f, 4));
    const Box box{middle - half, middle + half};
    const Camera fitted = fit_camera(camera, box, aspect, margin);
    Vec2 low(9, 9), high(-9, -9);
    for (int corner = 0; corner < 8; ++corner) {
      const Vec3 at = seen(fitted, aspect,
                           {corner & 1 ? box.max.x() : box.min.x(), corner & 2 ? box.max.y() : box.min.y(),
                            corner & 4 ? box.max.z() : box.min.z()});
      low = low.min(at.head<2>());
      high = high.max(at.head<2>());
      INFO("round " << round);
      REQUIRE(at.z() >= 0);
      REQUIRE(at.z() <= 1);
    }
    const float smaller = std::min(1.0f, aspect);
    const Vec2 free(margin * smaller / aspect, margin * smaller), slack = Vec2::constant(4e-3f);
    INFO("round " << round << ": " << low.x() << " " << low.y() << " to " << high.x() << " " << high.y());
    REQUIRE_FALSE(any_less(low + slack, free));
    REQUIRE_FALSE(any_less(Vec2::ones() - free + slack, high));
    // As large as can be: the freer side is the only one that is farther than the margin.
    REQUIRE((fitted.target - fitted.eye).normalized().is_near((camera.target - camera.eye).normalized(), 1e-3f));
    // Of something long seen along its length, the end comes too near first.
    const Vec3 ahead = (fitted.target - fitted.eye).normalized();
    const float in_front = half.dot({std::abs(ahead.x()), std::abs(ahead.y()), std::abs(ahead.z())});
    if ((fitted.target - fitted.eye).norm() < 1.02f * in_front) continue;
    ++checked;
    REQUIRE(std::min(low.x() - free.x(), low.y() - free.y()) < 8e-3f);
    const bool wide = low.x() - free.x() < low.y() - free.y();
    const Vec2 rest = Vec2::ones() - free - high;
    REQUIRE((wide ? rest.x() : rest.y()) < 8e-3f);
  }
  CHECK(checked > 300);
}

TEST_CASE("a camera fitted to points touches the outermost of them, and comes nearer than to their box") {
  Dice dice;
  int nearer = 0;
  for (int round = 0; round < 200; ++round) {
    const Camera camera = dice.camera();
    const float aspect = dice(0.3f, 3);
    const Vec3 middle = dice.vec(20);
    CameraFit fit(camera, aspect, 0);
    Box box;
    std::vector<Vec3> points;
    for (int i = 0; i < 40; ++i) {
      points.push_back(middle + 2 * dice.vec(1).normalized());  // of a sphere, which leaves the box' corners free
      fit.include(points.back());
      box.include(points.back());
    }
    fit.include({infinity, 0, 0});
    const Camera fitted = fit.camera();
    float closest = 1;
    for (const Vec3& point : points) {
      const Vec3 at = seen(fitted, aspect, point);
      INFO("round " << round);
      REQUIRE(std::min({at.x(), at.y(), 1 - at.x(), 1 - at.y()}) > -2e-3f);
      closest = std::min({closest, at.x(), at.y(), 1 - at.x(), 1 - at.y()});
    }
    CHECK(closest < 2e-3f);
    const Camera boxed = fit_camera(camera, box, aspect, 0);
    if (camera.parallel_height > 0)
      nearer += fitted.parallel_height < boxed.parallel_height;
    else
      nearer += (fitted.eye - middle).norm() < (boxed.eye - middle).norm();
  }
  CHECK(nearer > 190);
}

TEST_CASE("a camera is not fitted to nothing") {
  CHECK(CameraFit({}, 1).empty());
  CHECK(thrown_slug([] { CameraFit({}, 1).camera(); }) == "empty-box");
  const Box unit{Vec3::zero(), Vec3::ones()};
  CHECK(thrown_slug([] { fit_camera({}, {}, 1); }) == "empty-box");
  CHECK(thrown_slug([] { fit_camera({}, {Vec3::zero(), {1, infinity, 1}}, 1); }) == "empty-box");
  CHECK(thrown_slug([&] { fit_camera({}, unit, 0); }) == "bad-aspect");
  CHECK(thrown_slug([&] { fit_camera({}, unit, nan_value); }) == "bad-aspect");
  CHECK(thrown_slug([&] { fit_camera({}, unit, 1, 0.5f); }) == "bad-margin");
  CHECK(thrown_slug([&] { fit_camera({}, unit, 1, nan_value); }) == "bad-margin");
}

TEST_CASE("an orbit keeps its distances, and what it turns about stays where it is in the picture") {
  Dice dice;
  for (int round = 0; round < 300; ++round) {
    Camera camera = dice.camera();
    camera.up = Vec3::unit_y();
    OrbitController orbit(camera);
    const Vec3 about = round % 2 ? camera.target : dice.vec(4);
    const float aspect = dice(0.5f, 2);
    const Vec3 before = camera.view().apply_to_point(about);
    const float distance = (camera.eye - camera.target).norm();
    for (int turn = 0; turn < 20; ++turn) orbit.turn(dice(-1, 1), dice(-1, 1), about);
    const Camera& after = orbit.camera();
    INFO("round " << round);
    REQUIRE((after.eye - after.target).norm() == Approx(distance).epsilon(1e-3));
    REQUIRE(after.view().apply_to_point(about).is_near(before, 2e-3f * (1 + before.norm())));
    REQUIRE_NOTHROW(after.projection(aspect));
  }
}

TEST_CASE("dragging turns the world after the pointer, and never over a pole") {
  OrbitController orbit({.eye = {0, 0, 5}, .target = Vec3::zero()});
  const Vec3 near_side(0, 0, 1);
  orbit.turn(0.2f, 0.1f);
  const Vec3 at = seen(orbit.camera(), 1, near_side);
  CHECK(at.x() > 0.51f);
  CHECK(at.y() < 0.49f);
  orbit.turn(0, 100);
  CHECK(orbit.camera().eye.is_near({0, -5, 0}, 0.2f));
  CHECK(std::abs(orbit.camera().eye.normalized().y()) < 0.99999f);
  orbit.turn(0, -100);
  CHECK(orbit.camera().eye.is_near({0, 5, 0}, 0.2f));
  CHECK(orbit.camera().view().matrix().is_finite());
}

TEST_CASE("what is held follows the pointer in a pan, and stays under it in a dolly") {
  Dice dice;
  for (int round = 0; round < 300; ++round) {
    const Camera camera = dice.camera();
    const float aspect = dice(0.4f, 2.5f);
    OrbitController orbit(camera);
    const Vec3 held = camera.eye + dice(1, 9) * (camera.target - camera.eye).normalized() + dice.vec(0.3f);
    const Vec3 before = seen(camera, aspect, held);
    const Vec2 by(dice(-0.5f, 0.5f), dice(-0.5f, 0.5f));
    orbit.pan(by, aspect, held);
    INFO("round " << round);
    REQUIRE(Vec2(seen(orbit.camera(), aspect, held).head<2>() - before.head<2>()).is_near(by, 5e-3f));
    orbit.pan(-by, aspect, held);
    const float factor = dice(0.3f, 3);
    orbit.dolly(factor, held);
    REQUIRE(Vec2(seen(orbit.camera(), aspect, held).head<2>()).is_near(before.head<2>(), 5e-3f));
    REQUIRE((orbit.camera().eye - held).norm() == Approx(factor * (camera.eye - held).norm()).epsilon(1e-3));
  }
  OrbitController orbit({.eye = {0, 0, 5}});
  for (int i = 0; i < 100; ++i) orbit.dolly(0.1f);
  CHECK(orbit.camera().eye.norm() == Approx(1e-3f));
  for (int i = 0; i < 100; ++i) orbit.dolly(10);
  CHECK(orbit.camera().eye.norm() == Approx(1e6f));
  orbit.dolly(nan_value);
  CHECK(orbit.camera().eye.is_finite());
}

TEST_CASE("a flight goes where keys say, as fast as it was told") {
  FlyController fly({.eye = Vec3::zero(), .target = {0, 0, -1}}, 3);
  fly.move({0, 0, 1}, 2);
  CHECK(fly.camera().eye.is_near({0, 0, -6}, 1e-5f));
  fly.move({1, 0, 0}, 1);
  CHECK(fly.camera().eye.is_near({3, 0, -6}, 1e-5f));
  fly.move({1, 1, 0}, 1);  // no faster along two keys
  CHECK((fly.camera().eye - Vec3(3, 0, -6)).norm() == Approx(3));
  const float distance = (fly.camera().target - fly.camera().eye).norm();
  fly.look(pi / 2, 0);
  CHECK((fly.camera().target - fly.camera().eye).is_near({distance, 0, 0}, 1e-5f));
  fly.look(0, 50);
  CHECK((fly.camera().target - fly.camera().eye).normalized().y() > 0.999f);
  CHECK(fly.camera().view().matrix().is_finite());
  fly.set_speed_by_distance(10);
  CHECK(fly.speed() == 5);
}
