#pragma once

#include <periscena/base/error.h>
#include <periscena/math/vector.h>

namespace periscena {

/// The fixed point of a rotation or a scale, in the coordinates that it is applied to.
struct Pivot {
  Vec3 point = Vec3::zero();
};

struct Decomposition;

/// An affine map, built in the order in which things happen:
///
///     Transform::scale(2).then(rotate(up, radians(90))).then(translate({5, 0, 0}))
///
/// first doubles, then turns, then moves. There is always an explicit start, `Transform::identity()` if nothing else.
/// Column vectors: `matrix() * point`. Every number must be finite.
class Transform {
 public:
  static Transform identity() { return Transform(Mat4::identity()); }
  static Transform scale(float factor, Pivot about = {}, Place place = Place::here());
  static Transform scale(const Vec3& factors, Pivot about = {}, Place place = Place::here());

  /// @param rotation  is normalised here; @throws Mistake "bad-rotation" when its length is 0
  static Transform rotate(const Quat& rotation, Pivot about = {}, Place place = Place::here());

  /// Counter-clockwise seen from the axis' tip (right-handed).
  /// @param axis  any length but 0
  static Transform rotate(const Vec3& axis, float angle_radians, Pivot about = {}, Place place = Place::here());

  /// @param offset  metres
  static Transform translate(const Vec3& offset, Place place = Place::here());

  /// From somebody else's matrix. @throws Mistake "not-affine" unless its last row is 0 0 0 1
  static Transform from_matrix(const Mat4& matrix, Place place = Place::here());

  /// This first, then `next`.
  Transform then(const Transform& next) const;

  const Mat4& matrix() const { return matrix_; }
  Vec3 apply_to_point(const Vec3& point) const;
  Vec3 apply_to_direction(const Vec3& direction) const;  ///< no translation; length changes with the scale

  /// @throws Mistake "singular-matrix" when something was scaled to nothing
  Transform inverse(Place place = Place::here()) const;

  /// What normals are multiplied with (and normalised after): the cofactors of the linear part, so it exists even when
  /// the inverse does not; a multiple of the inverse transpose that keeps outward normals outward under mirroring.
  Mat3 normal_matrix() const;

  /// Does it turn counter-clockwise triangles clockwise (an odd number of negative scales)?
  bool mirrors() const;

  /// Apart into scale, rotation, translation, in that order of happening. @see Decomposition
  Decomposition decompose(Place place = Place::here()) const;

 private:
  explicit Transform(const Mat4& matrix) : matrix_(matrix) {}

  Mat4 matrix_ = Mat4::identity();
};

/// The pieces for after `.then(…)`: they read as `Transform::`'s of the same names.
inline Transform scale(float factor, Pivot about = {}, Place place = Place::here()) {
  return Transform::scale(factor, about, place);
}
inline Transform scale(const Vec3& factors, Pivot about = {}, Place place = Place::here()) {
  return Transform::scale(factors, about, place);
}
inline Transform rotate(const Quat& rotation, Pivot about = {}, Place place = Place::here()) {
  return Transform::rotate(rotation, about, place);
}
inline Transform rotate(const Vec3& axis, float angle_radians, Pivot about = {}, Place place = Place::here()) {
  return Transform::rotate(axis, angle_radians, about, place);
}
inline Transform translate(const Vec3& offset, Place place = Place::here()) {
  return Transform::translate(offset, place);
}

/// A transform as stretch (symmetric, so it includes shear), then rotation, then translation: the polar decomposition.
/// A mirroring transform has all factors of `scale` negated. `scale` is the diagonal of the stretch; when `sheared` is
/// false, `Transform::scale(scale).then(rotate(rotation)).then(translate(translation))` gives the transform back.
/// @see Shoemake and Duff, "Matrix Animation and Polar Decomposition", Graphics Interface 1992
struct Decomposition {
  Vec3 scale = Vec3::ones();
  Quat rotation = Quat::identity();
  Vec3 translation = Vec3::zero();
  bool sheared = false;  ///< the stretch has off-diagonal parts over 1e-4 of its size
};

/// The map from world to camera space for a camera at `eye` that sees `target` in the middle and `up` upwards.
/// @throws Mistake "eye-at-target", "up-along-view", "not-finite"
Transform look_at(const Vec3& eye, const Vec3& target, const Vec3& up = Vec3::unit_y(), Place place = Place::here());

/// Are all numbers of a matrix or vector finite?
template <class T, int rows, int columns>
bool is_finite(const Matrix<T, rows, columns>& numbers) {
  return numbers.is_finite();
}

}  // namespace periscena
