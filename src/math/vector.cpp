#include "math/eigen.h"

#include <Eigen/Geometry>
#include <Eigen/LU>

namespace periscena {
namespace {

Eigen::Quaternionf to_eigen(const Quat& q) {
  return {q.w(), q.x(), q.y(), q.z()};
}

Quat from_eigen(const Eigen::Quaternionf& q) {
  return {q.w(), q.x(), q.y(), q.z()};
}

}  // namespace

template <class T, int rows, int columns>
T Matrix<T, rows, columns>::determinant() const requires is_solvable {
  return to_eigen(*this).determinant();
}

template <class T, int rows, int columns>
Matrix<T, rows, columns> Matrix<T, rows, columns>::inverse() const requires is_solvable {
  return to_eigen(*this).inverse();
}

template float Matrix<float, 2, 2>::determinant() const;
template Matrix<float, 2, 2> Matrix<float, 2, 2>::inverse() const;
template float Matrix<float, 3, 3>::determinant() const;
template Matrix<float, 3, 3> Matrix<float, 3, 3>::inverse() const;
template float Matrix<float, 4, 4>::determinant() const;
template Matrix<float, 4, 4> Matrix<float, 4, 4>::inverse() const;
template double Matrix<double, 2, 2>::determinant() const;
template Matrix<double, 2, 2> Matrix<double, 2, 2>::inverse() const;
template double Matrix<double, 3, 3>::determinant() const;
template Matrix<double, 3, 3> Matrix<double, 3, 3>::inverse() const;
template double Matrix<double, 4, 4>::determinant() const;
template Matrix<double, 4, 4> Matrix<double, 4, 4>::inverse() const;

Quat::Quat(const Mat3& rotation) : Quat(from_eigen(Eigen::Quaternionf(to_eigen(rotation)))) {}

Quat Quat::about(const Vec3& axis, float angle_radians) {
  return from_eigen(Eigen::Quaternionf(Eigen::AngleAxisf(angle_radians, to_eigen(axis))));
}

Quat Quat::between(const Vec3& from, const Vec3& to) {
  return from_eigen(Eigen::Quaternionf::FromTwoVectors(to_eigen(from), to_eigen(to)));
}

Mat3 Quat::matrix() const {
  return to_eigen(*this).toRotationMatrix();
}

Quat Quat::slerp(float share, const Quat& to) const {
  return from_eigen(to_eigen(*this).slerp(share, to_eigen(to)));
}

float Quat::angle_to(const Quat& other) const {
  return to_eigen(*this).angularDistance(to_eigen(other));
}

}  // namespace periscena
