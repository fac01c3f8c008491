#include "math/odd_numbers.h"
#include "thrown.h"

#include <periscena/math/transform.h>

#include <cmath>
#include <limits>
#include <random>

using namespace periscena;

namespace {

/// Rounding of a few float operations on numbers of about this size.
constexpr float rounding(float size) {
  return 16 * std::numeric_limits<float>::epsilon() * size;
}

bool near_to(const Vec3& a, const Vec3& b, float size = 10) {
  return (a - b).abs().largest() <= rounding(size);
}

Transform random_rigid(std::mt19937& random) {
  std::uniform_real_distribution<float> any(-1, 1);
  return rotate(Vec3(any(random), any(random), 1.5f), 3 * any(random))
      .then(translate({any(random), any(random), any(random)}));
}

}  // namespace

TEST_CASE("transforms happen in the order in which they are read") {
  const Transform transform = Transform::scale(2).then(rotate(Vec3::unit_y(), radians(90))).then(translate({5, 0, 0}));
  // (1, 0, 0) doubles to (2, 0, 0), turns to (0, 0, -2), moves to (5, 0, -2).
  REQUIRE(near_to(transform.apply_to_point({1, 0, 0}), {5, 0, -2}));
  const Transform other_way = Transform::translate({5, 0, 0}).then(rotate(Vec3::unit_y(), radians(90))).then(scale(2));
  REQUIRE(near_to(other_way.apply_to_point({1, 0, 0}), {0, 0, -12}));
}

TEST_CASE("then is the product with the later matrix on the left") {
  std::mt19937 random(7);
  for (int i = 0; i < 50; ++i) {
    const Transform a = random_rigid(random).then(scale(Vec3(1, 2, -3))), b = random_rigid(random);
    REQUIRE((a.then(b).matrix() - b.matrix() * a.matrix()).abs().largest() <= rounding(4));
  }
}

TEST_CASE("a pivot stays where it is, and everything else goes round it") {
  const Pivot pivot{{3, 1, -2}};
  const Transform turn = Transform::rotate(Vec3::unit_z(), radians(90), pivot);
  REQUIRE(near_to(turn.apply_to_point(pivot.point), pivot.point));
  REQUIRE(near_to(turn.apply_to_point(pivot.point + Vec3(1, 0, 0)), pivot.point + Vec3(0, 1, 0)));
  REQUIRE(near_to(Transform::scale(Vec3(2, 3, 4), pivot).apply_to_point(pivot.point + Vec3(1, 1, 1)),
                  pivot.point + Vec3(2, 3, 4)));
}

TEST_CASE("rotations are right-handed and need no unit axis") {
  REQUIRE(near_to(Transform::rotate(Vec3(0, 0, 7), radians(90)).apply_to_point(Vec3::unit_x()), Vec3::unit_y()));
  REQUIRE(near_to(Transform::rotate(Vec3::unit_x(), radians(90)).apply_to_point(Vec3::unit_y()), Vec3::unit_z()));
  const Quat q = Quat::about(Vec3(1, 2, 3).normalized(), 0.7f);
  const Quat stretched(2 * q.w(), 2 * q.x(), 2 * q.y(), 2 * q.z());
  REQUIRE(near_to(Transform::rotate(stretched).apply_to_point({1, 2, 4}), q.matrix() * Vec3(1, 2, 4)));
}

TEST_CASE("a transform undone by its inverse is the identity") {
  std::mt19937 random(3);
  for (int i = 0; i < 50; ++i) {
    const Transform transform = random_rigid(random).then(scale(Vec3(0.01f, 3, 50))).then(random_rigid(random));
    REQUIRE((transform.then(transform.inverse()).matrix() - Mat4::identity()).abs().largest() <= rounding(500));
  }
}

TEST_CASE("normals stay square to the surface under uneven scale, and outward under mirroring") {
  std::mt19937 random(11);
  for (const Vec3& factors : {Vec3(1, 5, 0.2f), Vec3(-1, 2, 3), Vec3(-2, -2, -2)}) {
    const Transform transform = Transform::scale(factors).then(random_rigid(random));
    const Vec3 normal = Vec3(1, 2, 3).normalized(), along = normal.cross(Vec3::unit_x()).normalized(),
               across = normal.cross(along);
    const Vec3 moved = (transform.normal_matrix() * normal).normalized();
    REQUIRE(std::abs(moved.dot(transform.apply_to_direction(along).normalized())) < rounding(4));
    REQUIRE(std::abs(moved.dot(transform.apply_to_direction(across).normalized())) < rounding(4));
    REQUIRE(moved.dot(transform.apply_to_direction(normal)) > 0);
    REQUIRE(transform.mirrors() == (factors.product() < 0));
  }
}

TEST_CASE("the normal matrix exists although the transform is flat") {
  const Mat3 normals = Transform::scale(Vec3(1, 0, 1)).normal_matrix();
  REQUIRE(near_to((normals * Vec3::unit_y()).normalized(), Vec3::unit_y()));
}

TEST_CASE("decomposing gives scale, rotation and translation back") {
  const Quat turn = Quat::about(Vec3(1, -2, 0.5f).normalized(), 1.1f);
  const Decomposition parts =
      Transform::scale(Vec3(2, 3, 0.5f)).then(rotate(turn)).then(translate({1, 2, 3})).decompose();
  REQUIRE(near_to(parts.scale, {2, 3, 0.5f}));
  REQUIRE(near_to(parts.translation, {1, 2, 3}));
  REQUIRE(std::abs(parts.rotation.numbers().dot(turn.numbers())) == Approx(1).margin(1e-5));
  REQUIRE_FALSE(parts.sheared);
}

TEST_CASE("a mirror decomposes into a rotation and negated factors that rebuild it") {
  const Transform mirror = Transform::scale(Vec3(-2, 2, 2)).then(rotate(Vec3::unit_y(), 0.4f));
  const Decomposition parts = mirror.decompose();
  REQUIRE(parts.rotation.matrix().determinant() == Approx(1));
  REQUIRE(parts.scale.product() < 0);
  const Transform rebuilt =
      Transform::scale(parts.scale).then(rotate(parts.rotation)).then(translate(parts.translation));
  REQUIRE((rebuilt.matrix() - mirror.matrix()).abs().largest() < rounding(10));
  const Transform sheared =
      Transform::scale(Vec3(1, 3, 1)).then(rotate(Vec3::unit_z(), 0.5f)).then(scale(Vec3(1, 3, 1)));
  REQUIRE(sheared.decompose().sheared);
}

TEST_CASE("look_at puts the eye at the origin, the target on -Z and up upwards") {
  const Vec3 eye(3, 4, 5), target(-1, 0, 2);
  const Transform view = look_at(eye, target);
  REQUIRE(near_to(view.apply_to_point(eye), Vec3::zero()));
  REQUIRE(near_to(view.apply_to_point(target), Vec3(0, 0, -(target - eye).norm())));
  REQUIRE(view.apply_to_direction(Vec3::unit_y()).y() > 0);
  REQUIRE(std::abs(view.apply_to_direction(Vec3::unit_y()).x()) < rounding(1));
  REQUIRE_FALSE(view.mirrors());
}

TEST_CASE("what makes no sense is refused with the place that asked for it") {
  REQUIRE(thrown_slug([] { Transform::scale(nan_value); }) == "not-finite");
  REQUIRE(thrown_slug([] { Transform::translate({0, infinity, 0}); }) == "not-finite");
  REQUIRE(thrown_slug([] { Transform::rotate(Vec3::zero(), 1); }) == "bad-rotation");
  REQUIRE(thrown_slug([] { Transform::rotate(Quat(0, 0, 0, 0)); }) == "bad-rotation");
  REQUIRE(thrown_slug([] { Transform::scale(Vec3(1, 0, 1)).inverse(); }) == "singular-matrix");
  REQUIRE(thrown_slug([] { Transform::scale(Vec3(0, 0, 0)).decompose(); }) == "singular-matrix");
  REQUIRE(thrown_slug([] { look_at({1, 2, 3}, {1, 2, 3}); }) == "eye-at-target");
  REQUIRE(thrown_slug([] { look_at({0, 5, 0}, {0, 0, 0}); }) == "up-along-view");
  REQUIRE(thrown_slug([] { look_at({0, 0, 5}, {0, 0, 0}, Vec3::zero()); }) == "up-along-view");
  Mat4 row_vectors = Mat4::identity();
  row_vectors(3, 0) = 5;
  REQUIRE(thrown_slug([&] { Transform::from_matrix(row_vectors); }) == "not-affine");
  REQUIRE_THAT(thrown_text([] { Transform::scale(nan_value); }), Catch::Contains("transform_test.cpp"));
}

TEST_CASE("tiny but sound transforms are not called singular") {
  REQUIRE_NOTHROW(Transform::scale(1e-6f).inverse());
  REQUIRE_NOTHROW(look_at({0, 0, 1e-3f}, {0, 0, 0}));
}
