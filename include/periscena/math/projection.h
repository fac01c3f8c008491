#pragma once

#include <periscena/math/transform.h>

#include <limits>
#include <optional>

namespace periscena {

/// Which end of the depth range is near. Clip depth is 0 to 1 either way.
enum class DepthOrder {
  reversed,  ///< near = 1, far = 0: precision is spread evenly; test with "greater", clear to 0
  ordinary,  ///< near = 0, far = 1: test with "less", clear to 1
};

/// What a perspective lens is made of.
struct Perspective {
  float fov_y = radians(50);                           ///< vertical field of view, radians, between 0 and π
  float aspect = 1;                                    ///< width by height
  float near = 0.1f;                                   ///< metres, > 0
  float far = std::numeric_limits<float>::infinity();  ///< metres, > near; infinity is fine
  DepthOrder depth = DepthOrder::reversed;
};

/// A perspective lens whose axis need not be in the middle: the sides on the near plane, metres.
struct OffCenterPerspective {
  float left = -1, right = 1, bottom = -1, top = 1;
  float near = 0.1f;
  float far = std::numeric_limits<float>::infinity();
  DepthOrder depth = DepthOrder::reversed;
};

/// A parallel lens: the sides, metres in camera space. `near` may be negative (behind the camera).
struct Orthographic {
  float left = -1, right = 1, bottom = -1, top = 1;
  float near = 0;
  float far = 1;
  DepthOrder depth = DepthOrder::reversed;
};

/// Which depths a matrix gives clip space.
enum class ClipDepth {
  from_zero,       ///< 0 to 1, as all matrices here do
  from_minus_one,  ///< −1 to 1, as matrices for OpenGL's own convention do
};

/// The map from camera space (looking down −Z) to clip space with depth 0..1. The matrices are the standard's
/// (OpenGL 4.5 with GL_ZERO_TO_ONE); derivation in docs/conventions.md.
class Projection {
 public:
  /// @throws Mistake "bad-field-of-view", "bad-aspect", "bad-near", "near-beyond-far", "not-finite"
  static Projection perspective(const Perspective& lens, Place place = Place::here());
  static Projection perspective(const OffCenterPerspective& lens, Place place = Place::here());
  /// @throws Mistake "flat-volume" when left = right or bottom = top, "near-beyond-far", "not-finite"
  static Projection orthographic(const Orthographic& lens, Place place = Place::here());

  /// A lens of a matrix that was made elsewhere: perspective or parallel, the axis anywhere, with planes at right
  /// angles to it. A camera takes it as its `lens`.
  /// @param matrix  to be multiplied with columns; @param depth  of that matrix: nothing in its numbers says which
  /// @throws Mistake "bad-projection": it turns the picture or space inside out, skews it, or has an oblique plane
  /// (which depth could not be told from), near is not in front of the eye, or numbers are not finite
  static Projection of_matrix(const Mat4& matrix, ClipDepth depth, Place place = Place::here());

  const Mat4& matrix() const { return matrix_; }
  Mat4 inverse() const;
  bool is_perspective() const { return perspective_; }
  DepthOrder depth_order() const { return depth_; }
  float near() const { return near_; }
  float far() const { return far_; }

  /// Distance along the view axis, metres, of a depth-buffer value: what depth views and fog need.
  /// @param depth  0..1 as stored; the far end of an infinite lens gives infinity
  float distance_at(float depth) const;

  bool operator==(const Projection&) const = default;

 private:
  Mat4 matrix_ = Mat4::identity();
  bool perspective_ = true;
  DepthOrder depth_ = DepthOrder::reversed;
  float near_ = 0;
  float far_ = 0;
};

/// What a camera goes on seeing when the picture has another shape.
enum class Keep {
  height,  ///< as much from bottom to top; wide pictures see more at the sides, tall ones less
  width,   ///< as much from side to side
  both,    ///< all that it sees at `keep_aspect`, and more above and below, or at the sides
};

/// A place and a lens. The lens' shape is filled in when the picture's size is known.
struct Camera {
  Vec3 eye = Vec3(0, 0, 5);    ///< metres
  Vec3 target = Vec3::zero();  ///< metres
  Vec3 up = Vec3::unit_y();    ///< any length
  float fov_y = radians(50);   ///< radians; for parallel lenses see `parallel_height`
  float near = 0.1f;           ///< metres
  float far = std::numeric_limits<float>::infinity();
  float parallel_height = 0;  ///< metres seen from bottom to top; > 0 makes the lens parallel
  DepthOrder depth = DepthOrder::reversed;
  Keep keep = Keep::height;
  float keep_aspect = 16.0f / 9;  ///< width by height at which `fov_y` and `parallel_height` hold; not for Keep::height

  /// A lens of the program's own, whatever the picture's shape; `fov_y`, `near`, `far`, `parallel_height` and `keep` do
  /// not count then. Its depth order must be `depth`.
  std::optional<Projection> lens = {};

  bool operator==(const Camera&) const = default;

  /// The same camera with the lens that it has in a picture of this shape, which keeps its height.
  /// @param aspect  width by height, > 0 @return with the numbers of `lens`, where it has one
  /// @throws Mistake "bad-aspect" when `keep_aspect` is not more than 0, "bad-projection" as projection()
  Camera for_shape(float aspect, Place place = Place::here()) const;

  /// World to camera space. @throws as look_at
  Transform view(Place place = Place::here()) const;

  /// Camera to clip space. @param aspect  width by height of the picture
  /// @throws as Projection, and "bad-projection" when `lens` has another depth order than `depth`
  Projection projection(float aspect, Place place = Place::here()) const;
};

}  // namespace periscena
