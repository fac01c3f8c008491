#include <periscena/math/transform.h>

#include "math/eigen.h"

#include <Eigen/Geometry>
#include <Eigen/LU>

#include <fmt/format.h>

#include <cmath>

namespace periscena {
namespace {

void expect_finite(bool finite, const char* what, const Place& place) {
  if (finite) return;
  throw Mistake("not-finite", place, fmt::format("{} holds NaN or infinity", what),
                "look for a division by zero or an unset value where it comes from");
}

Mat4 linear_about(const Mat3& linear, const Vec3& pivot) {
  Mat4 matrix = Mat4::identity();
  matrix.set_corner(linear);
  matrix.set_column(3, pivot - linear * pivot);
  return matrix;
}

/// The rotation of the polar decomposition, by Newton's iteration (Higham, "Computing the polar decomposition", SIAM
/// Journal on Scientific and Statistical Computing 7, 1986). Near the end each step doubles the right digits.
/// @param linear  of positive determinant, with numbers of about 1
Eigen::Matrix3d nearest_rotation(const Eigen::Matrix3d& linear) {
  Eigen::Matrix3d rotation = linear;
  for (int i = 0; i < 100; ++i) {
    const Eigen::Matrix3d next = (rotation + rotation.inverse().transpose()) / 2;
    const double change = (next - rotation).cwiseAbs().maxCoeff();
    rotation = next;
    if (change <= 1e-15) break;
  }
  return rotation;
}

}  // namespace

Transform Transform::scale(float factor, Pivot about, Place place) {
  return scale(Vec3::constant(factor), about, std::move(place));
}

Transform Transform::scale(const Vec3& factors, Pivot about, Place place) {
  expect_finite(is_finite(factors) && is_finite(about.point), "a scale", place);
  return Transform(linear_about(Mat3::diagonal(factors), about.point));
}

Transform Transform::rotate(const Quat& rotation, Pivot about, Place place) {
  expect_finite(is_finite(rotation.numbers()) && is_finite(about.point), "a rotation", place);
  if (rotation.numbers().stable_norm() < 1e-12f) {
    throw Mistake("bad-rotation", place, "a quaternion of length 0 is no rotation",
                  "Quat::identity() is the rotation by 0°");
  }
  return Transform(linear_about(rotation.normalized().matrix(), about.point));
}

Transform Transform::rotate(const Vec3& axis, float angle_radians, Pivot about, Place place) {
  expect_finite(is_finite(axis) && std::isfinite(angle_radians) && is_finite(about.point), "a rotation", place);
  const float length = axis.stable_norm();
  if (length < 1e-12f) {
    throw Mistake("bad-rotation", place, "a rotation axis of length 0 points nowhere",
                  "give an axis such as [0, 1, 0]");
  }
  return Transform(
      linear_about(Eigen::AngleAxisf(angle_radians, to_eigen(axis / length)).toRotationMatrix(), about.point));
}

Transform Transform::translate(const Vec3& offset, Place place) {
  expect_finite(is_finite(offset), "a translation", place);
  Mat4 matrix = Mat4::identity();
  matrix.set_column(3, offset);
  return Transform(matrix);
}

Transform Transform::from_matrix(const Mat4& matrix, Place place) {
  expect_finite(is_finite(matrix), "a matrix", place);
  if ((matrix.row(3) - Vec4(0, 0, 0, 1)).abs().largest() > 1e-6f) {
    throw Mistake("not-affine", place,
                  fmt::format("the matrix's last row is {} {} {} {}, so it is not affine", matrix(3, 0), matrix(3, 1),
                              matrix(3, 2), matrix(3, 3)),
                  "the translation belongs in the last column (column vectors); transpose a row-vector matrix first");
  }
  return Transform(matrix);
}

Transform Transform::then(const Transform& next) const {
  return Transform(next.matrix_ * matrix_);
}

Vec3 Transform::apply_to_point(const Vec3& point) const {
  return matrix_.corner<3>() * point + matrix_.column(3).head<3>();
}

Vec3 Transform::apply_to_direction(const Vec3& direction) const {
  return matrix_.corner<3>() * direction;
}

Transform Transform::inverse(Place place) const {
  const Eigen::Matrix3d linear = to_eigen(matrix_.corner<3>().cast<double>());
  const double size = linear.cwiseAbs().maxCoeff();
  if (!(std::abs(linear.determinant()) > 1e-9 * size * size * size)) {
    throw Mistake("singular-matrix", place, "this transform has no inverse: it flattens space",
                  "look for a scale by 0 in what it is made of");
  }
  const Eigen::Matrix3d inverse = linear.inverse();
  Mat4 matrix = Mat4::identity();
  matrix.set_corner(Mat3(inverse.cast<float>()));
  matrix.set_column(3, Vec3((-inverse * to_eigen(matrix_.column(3).head<3>().cast<double>())).cast<float>()));
  return Transform(matrix);
}

Mat3 Transform::normal_matrix() const {
  const Mat3 linear = matrix_.corner<3>();
  Mat3 cofactors;
  cofactors.set_column(0, linear.column(1).cross(linear.column(2)));
  cofactors.set_column(1, linear.column(2).cross(linear.column(0)));
  cofactors.set_column(2, linear.column(0).cross(linear.column(1)));
  return mirrors() ? -cofactors : cofactors;
}

bool Transform::mirrors() const {
  return matrix_.corner<3>().determinant() < 0;
}

Decomposition Transform::decompose(Place place) const {
  const Eigen::Matrix3d linear = to_eigen(matrix_.corner<3>().cast<double>());
  const double size = linear.cwiseAbs().maxCoeff();
  if (!(std::abs(linear.determinant()) > 1e-9 * size * size * size)) {
    throw Mistake("singular-matrix", place, "this transform flattens space, so it has no rotation",
                  "look for a scale by 0 in what it is made of");
  }
  const double sign = linear.determinant() < 0 ? -1 : 1;
  const Eigen::Matrix3d rotation = nearest_rotation(sign / size * linear);
  const Eigen::Matrix3d product = rotation.transpose() * linear, stretch = (product + product.transpose()) / 2;
  Decomposition parts;
  parts.scale = stretch.diagonal().cast<float>();
  const Eigen::Quaterniond turn(rotation);
  parts.rotation = Quat(Vec4(turn.coeffs().cast<float>()));
  parts.translation = matrix_.column(3).head<3>();
  const Eigen::Matrix3d off_diagonal = stretch - Eigen::Matrix3d(stretch.diagonal().asDiagonal());
  parts.sheared = off_diagonal.cwiseAbs().maxCoeff() > 1e-4 * size;
  return parts;
}

Transform look_at(const Vec3& eye, const Vec3& target, const Vec3& up, Place place) {
  expect_finite(is_finite(eye) && is_finite(target) && is_finite(up), "a view", place);
  const Vec3 forward = target - eye;
  const float distance = forward.stable_norm();
  if (distance <= 1e-6f * std::max(1.0f, eye.abs().largest())) {
    throw Mistake("eye-at-target", place,
                  fmt::format("the eye and the target are one point, ({}, {}, {})", eye.x(), eye.y(), eye.z()),
                  "move one of them: a view needs a direction");
  }
  const Vec3 backward = -forward / distance;
  const float up_length = up.stable_norm();
  const Vec3 right = up_length > 0 ? (up / up_length).cross(backward) : Vec3::zero();
  if (right.norm() < 1e-5f) {
    throw Mistake("up-along-view", place, "up points along the view, so there is no telling which way is up",
                  "choose another up, such as [0, 0, -1] for a view straight down");
  }
  Mat3 axes;
  axes.set_row(0, right.normalized());
  axes.set_row(2, backward);
  axes.set_row(1, backward.cross(right.normalized()));
  Mat4 matrix = Mat4::identity();
  matrix.set_corner(axes);
  matrix.set_column(3, -axes * eye);
  return Transform::from_matrix(matrix, std::move(place));
}

}  // namespace periscena
