// Against Eigen, which shares nothing with the types but inverses, determinants and rotations.
#include <periscena/math/transform.h>

#include <Eigen/Geometry>
#include <Eigen/LU>

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

std::mt19937 dice(17);

float number() {
  return std::uniform_real_distribution<float>(-3, 3)(dice);
}

template <class Shape>
Shape any() {
  Shape shape;
  for (float& value : shape) value = number();
  return shape;
}

template <int rows, int columns>
Eigen::Matrix<float, rows, columns> eigen(const Matrix<float, rows, columns>& matrix) {
  return Eigen::Map<const Eigen::Matrix<float, rows, columns>>(matrix.data());
}

/// To a few units in the last place of numbers about 10.
template <class Ours, class Theirs>
bool same(const Ours& ours, const Theirs& theirs) {
  return (eigen(ours) - theirs).cwiseAbs().maxCoeff() <= 4e-6f;
}

}  // namespace

TEST_CASE("vectors and matrices calculate as mathematics says") {
  for (int i = 0; i < 100; ++i) {
    const auto a = any<Vec3>(), b = any<Vec3>();
    const auto ea = eigen(a), eb = eigen(b);
    REQUIRE(same(a + b, ea + eb));
    REQUIRE(same(a - b, ea - eb));
    REQUIRE(same(-a, -ea));
    REQUIRE(same(2 * a / 7, 2 * ea / 7));
    REQUIRE(same(a.cross(b), ea.cross(eb)));
    REQUIRE(same(a.times(b), ea.cwiseProduct(eb)));
    REQUIRE(a.dot(b) == Approx(ea.dot(eb)).margin(1e-5));
    REQUIRE(a.norm() == Approx(ea.norm()));
    REQUIRE(same(a.normalized(), ea.normalized()));
    REQUIRE(same(a.min(b), ea.cwiseMin(eb)));
    REQUIRE(same(a.max(b), ea.cwiseMax(eb)));
    REQUIRE(a.abs().largest() == ea.cwiseAbs().maxCoeff());
    REQUIRE(a.smallest() == ea.minCoeff());
    REQUIRE(a[static_cast<std::size_t>(a.largest_axis())] == a.largest());

    const auto m = any<Mat4>(), n = any<Mat4>();
    const auto em = eigen(m), en = eigen(n);
    const auto v = any<Vec4>();
    REQUIRE(same(m * v, em * eigen(v)));
    REQUIRE((eigen(m * n) - em * en).cwiseAbs().maxCoeff() < 2e-5f);
    REQUIRE(same(m.transpose(), em.transpose()));
    REQUIRE(same(m.corner<3>(), em.topLeftCorner<3, 3>()));
    REQUIRE(same(m.row(2), em.row(2).transpose()));
    REQUIRE(same(m.column(1), em.col(1)));
    REQUIRE(same(m.diagonal(), em.diagonal()));
    REQUIRE(m.abs().sum() == Approx(em.cwiseAbs().sum()));
    REQUIRE(m.determinant() == Approx(em.determinant()).epsilon(1e-3).margin(1e-3));
    const auto wide = any<Matrix<float, 2, 3>>();
    REQUIRE(same(wide * a, eigen(wide) * ea));
  }
}

TEST_CASE("an inverse undoes its matrix") {
  for (int i = 0; i < 100; ++i) {
    const Mat3 m = any<Mat3>() + 8 * Mat3::identity();
    REQUIRE((m * m.inverse() - Mat3::identity()).abs().largest() < 1e-5f);
    const auto d = any<Mat3>().cast<double>() + 8 * Mat3::identity().cast<double>();
    REQUIRE((d * d.inverse()).is_near(Mat3::identity().cast<double>(), 1e-12));
    REQUIRE(d.determinant() == Approx(eigen(d.cast<float>()).determinant()));
    const Mat4 n = any<Mat4>() + 8 * Mat4::identity();
    REQUIRE((n.inverse() * n - Mat4::identity()).abs().largest() < 1e-5f);
  }
}

TEST_CASE("vectors are zero until set, and known when compiled") {
  constexpr Vec3 none;
  STATIC_REQUIRE(none == Vec3(0, 0, 0));
  STATIC_REQUIRE(Vec3(1, 2, 3).cross(Vec3::unit_x()) == Vec3(0, 3, -2));
  STATIC_REQUIRE(Mat3::of_rows({{1, 2, 3}, {4, 5, 6}, {7, 8, 9}}) * Vec3::unit_y() == Vec3(2, 5, 8));
  STATIC_REQUIRE_FALSE(std::is_constructible_v<Vec3, int>);  // Vec3(0) is no null pointer
  STATIC_REQUIRE(sizeof(Vec3) == 12);
  STATIC_REQUIRE(std::is_trivially_copyable_v<Mat4>);
  STATIC_REQUIRE(Mat4::identity().column(3) == Vec3::zero().with(1));
}

TEST_CASE("numbers that are none are found, and lengths beyond squares are right") {
  const float infinity = std::numeric_limits<float>::infinity(), nan = std::numeric_limits<float>::quiet_NaN();
  CHECK(is_finite(Vec3(1, 2, 3)));
  CHECK_FALSE(is_finite(Vec3(1, infinity, 3)));
  CHECK_FALSE(is_finite(Vec3(1, 2, nan)));
  CHECK(Vec3(1, 2, nan).has_nan());
  CHECK_FALSE(Vec3(1, 2, infinity).has_nan());
  CHECK_FALSE(all_at_most(Vec3(0, 0, nan), Vec3(1, 1, 1)));
  CHECK_FALSE(any_less(Vec3(0, 0, nan), Vec3(0, 0, 1)));
  CHECK(any_less(Vec3(0, 0, nan), Vec3(0, 1, 1)));
  CHECK_FALSE(all_less(Vec3(0, 0, 1), Vec3(1, 1, 1)));
  CHECK(all_at_most(Vec3(0, 0, 1), Vec3(1, 1, 1)));
  CHECK(Vec3(3e30f, 0, 4e30f).stable_norm() == Approx(5e30f));
  CHECK(Vec3(3e-30f, 0, 4e-30f).stable_norm() == Approx(5e-30f));
  CHECK(Vec3().stable_norm() == 0);
  CHECK(Vec3(infinity, 0, 0).stable_norm() == infinity);
  CHECK(Vec3().normalized() == Vec3());
  CHECK(Vec3(1e-30f, 0, 0).stable_normalized().x() == Approx(1));
  CHECK(Vec3(1, 2, 3).is_near(Vec3(1, 2, 3.00001f)));
  CHECK_FALSE(Vec3(1, 2, 3).is_near(Vec3(1, 2, 3.001f)));
  CHECK_FALSE(Vec3(0, nan, 0).is_zero(1));
}

TEST_CASE("another library's vectors can be passed where ours are asked for") {
  const Eigen::Vector3f theirs(1, 2, 3);
  CHECK(Transform::translate(theirs).apply_to_point(Eigen::Vector3f(1, 1, 1) + theirs) == Vec3(3, 5, 7));
  Eigen::Matrix<float, 2, 3, Eigen::RowMajor> rows;
  rows << 1, 2, 3, 4, 5, 6;
  CHECK(Matrix<float, 2, 3>(rows) == Matrix<float, 2, 3>::of_rows({{1, 2, 3}, {4, 5, 6}}));
  STATIC_REQUIRE_FALSE(std::is_convertible_v<Eigen::Vector4f, Vec3>);
}

TEST_CASE("quaternions turn as matrices of Rodrigues do") {
  for (int i = 0; i < 100; ++i) {
    const Vec3 axis = any<Vec3>().normalized(), v = any<Vec3>();
    const float angle = number();
    // Rodrigues' formula.
    const Vec3 turned =
        std::cos(angle) * v + std::sin(angle) * axis.cross(v) + (1 - std::cos(angle)) * axis.dot(v) * axis;
    const Quat turn = Quat::about(axis, angle);
    REQUIRE((turn.matrix() * v - turned).abs().largest() < 5e-6f);
    REQUIRE(Quat(turn.matrix()).angle_to(turn) < 2e-3f);
    REQUIRE((Quat().slerp(0.5f, turn).matrix() * v - Quat::about(axis, angle / 2).matrix() * v).abs().largest() <
            1e-5f);
    const Vec3 other = any<Vec3>().normalized();
    REQUIRE((Quat::between(axis, other).matrix() * axis - other).abs().largest() < 1e-5f);
  }
  CHECK(Quat() == Quat::identity());
}
