#include <periscena/math/transform.h>

#include <Eigen/SVD>

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
  Mat4 matrix = Mat4::Identity();
  matrix.topLeftCorner<3, 3>() = linear;
  matrix.topRightCorner<3, 1>() = pivot - linear * pivot;
  return matrix;
}

}  // namespace

Transform Transform::scale(float factor, Pivot about, Place place) {
  return scale(Vec3::Constant(factor), about, std::move(place));
}

Transform Transform::scale(const Vec3& factors, Pivot about, Place place) {
  expect_finite(is_finite(factors) && is_finite(about.point), "a scale", place);
  return Transform(linear_about(factors.asDiagonal(), about.point));
}

Transform Transform::rotate(const Quat& rotation, Pivot about, Place place) {
  expect_finite(is_finite(rotation.coeffs()) && is_finite(about.point), "a rotation", place);
  if (rotation.coeffs().stableNorm() < 1e-12f) {
    throw Mistake("bad-rotation", place, "a quaternion of length 0 is no rotation",
                  "Quat::Identity() is the rotation by 0°");
  }
  return Transform(linear_about(rotation.normalized().toRotationMatrix(), about.point));
}

Transform Transform::rotate(const Vec3& axis, float angle_radians, Pivot about, Place place) {
  expect_finite(is_finite(axis) && std::isfinite(angle_radians) && is_finite(about.point), "a rotation", place);
  const float length = axis.stableNorm();
  if (length < 1e-12f) {
    throw Mistake("bad-rotation", place, "a rotation axis of length 0 points nowhere",
                  "give an axis such as [0, 1, 0]");
  }
  return Transform(linear_about(Eigen::AngleAxisf(angle_radians, axis / length).toRotationMatrix(), about.point));
}

Transform Transform::translate(const Vec3& offset, Place place) {
  expect_finite(is_finite(offset), "a translation", place);
  Mat4 matrix = Mat4::Identity();
  matrix.topRightCorner<3, 1>() = offset;
  return Transform(matrix);
}

Transform Transform::from_matrix(const Mat4& matrix, Place place) {
  expect_finite(is_finite(matrix), "a matrix", place);
  if ((matrix.row(3) - Eigen::RowVector4f(0, 0, 0, 1)).cwiseAbs().maxCoeff() > 1e-6f) {
    throw Mistake("not-affine", place,
                  fmt::format("the matrix's last row is {} {} {} {}, so it is not affine", matrix(3, 0), matrix(3, 1),
                              matrix(3, 2), matrix(3, 3)),
                  "the translation belongs in the last column (column vectors); transpose a row-vector matrix first");
  }
  return Transform(matrix);
}

Transform Transform::then(const Transform& next) const {
  Mat4 product;
  product.noalias() = next.matrix_ * matrix_;
  return Transform(product);
}

Vec3 Transform::apply_to_point(const Vec3& point) const {
  return matrix_.topLeftCorner<3, 3>() * point + matrix_.topRightCorner<3, 1>();
}

Vec3 Transform::apply_to_direction(const Vec3& direction) const {
  return matrix_.topLeftCorner<3, 3>() * direction;
}

Transform Transform::inverse(Place place) const {
  const Eigen::Matrix3d linear = matrix_.topLeftCorner<3, 3>().cast<double>();
  const double size = linear.cwiseAbs().maxCoeff();
  if (!(std::abs(linear.determinant()) > 1e-9 * size * size * size)) {
    throw Mistake("singular-matrix", place, "this transform has no inverse: it flattens space",
                  "look for a scale by 0 in what it is made of");
  }
  const Eigen::Matrix3d inverse = linear.inverse();
  Mat4 matrix = Mat4::Identity();
  matrix.topLeftCorner<3, 3>() = inverse.cast<float>();
  matrix.topRightCorner<3, 1>() = (-inverse * matrix_.topRightCorner<3, 1>().cast<double>()).cast<float>();
  return Transform(matrix);
}

Mat3 Transform::normal_matrix() const {
  const Mat3 linear = matrix_.topLeftCorner<3, 3>();
  Mat3 cofactors;
  cofactors.col(0) = linear.col(1).cross(linear.col(2));
  cofactors.col(1) = linear.col(2).cross(linear.col(0));
  cofactors.col(2) = linear.col(0).cross(linear.col(1));
  return mirrors() ? Mat3(-cofactors) : cofactors;
}

bool Transform::mirrors() const {
  return matrix_.topLeftCorner<3, 3>().determinant() < 0;
}

Decomposition Transform::decompose(Place place) const {
  const Eigen::Matrix3d linear = matrix_.topLeftCorner<3, 3>().cast<double>();
  const double size = linear.cwiseAbs().maxCoeff();
  if (!(std::abs(linear.determinant()) > 1e-9 * size * size * size)) {
    throw Mistake("singular-matrix", place, "this transform flattens space, so it has no rotation",
                  "look for a scale by 0 in what it is made of");
  }
  const double sign = linear.determinant() < 0 ? -1 : 1;
  const Eigen::JacobiSVD<Eigen::Matrix3d> svd(sign * linear, Eigen::ComputeFullU | Eigen::ComputeFullV);
  const Eigen::Matrix3d rotation = svd.matrixU() * svd.matrixV().transpose();
  const Eigen::Matrix3d stretch = sign * svd.matrixV() * svd.singularValues().asDiagonal() * svd.matrixV().transpose();
  Decomposition parts;
  parts.scale = stretch.diagonal().cast<float>();
  parts.rotation = Quat(Eigen::Quaterniond(rotation).cast<float>());
  parts.translation = matrix_.topRightCorner<3, 1>();
  const Eigen::Matrix3d off_diagonal = stretch - Eigen::Matrix3d(stretch.diagonal().asDiagonal());
  parts.sheared = off_diagonal.cwiseAbs().maxCoeff() > 1e-4 * size;
  return parts;
}

Transform look_at(const Vec3& eye, const Vec3& target, const Vec3& up, Place place) {
  expect_finite(is_finite(eye) && is_finite(target) && is_finite(up), "a view", place);
  const Vec3 forward = target - eye;
  const float distance = forward.stableNorm();
  if (distance <= 1e-6f * std::max(1.0f, eye.cwiseAbs().maxCoeff())) {
    throw Mistake("eye-at-target", place,
                  fmt::format("the eye and the target are one point, ({}, {}, {})", eye.x(), eye.y(), eye.z()),
                  "move one of them: a view needs a direction");
  }
  const Vec3 backward = -forward / distance;
  const float up_length = up.stableNorm();
  const Vec3 right = up_length > 0 ? Vec3((up / up_length).cross(backward)) : Vec3::Zero();
  if (right.norm() < 1e-5f) {
    throw Mistake("up-along-view", place, "up points along the view, so there is no telling which way is up",
                  "choose another up, such as [0, 0, -1] for a view straight down");
  }
  Mat3 axes;
  axes.row(0) = right.normalized();
  axes.row(2) = backward;
  axes.row(1) = backward.cross(right.normalized());
  Mat4 matrix = Mat4::Identity();
  matrix.topLeftCorner<3, 3>() = axes;
  matrix.topRightCorner<3, 1>() = -axes * eye;
  return Transform::from_matrix(matrix, std::move(place));
}

}  // namespace periscena
