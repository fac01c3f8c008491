#include <periscena/math/projection.h>

#include <fmt/format.h>

#include <cmath>

namespace periscena {
namespace {

void expect_depths(float near, float far, bool perspective, const Place& place) {
  if (std::isnan(near) || std::isnan(far) || std::isinf(near) || (std::isinf(far) && !perspective)) {
    throw Mistake("not-finite", place, fmt::format("near is {} and far is {}", near, far),
                  perspective ? "near must be finite; far may be infinity" : "both must be finite for a parallel lens");
  }
  if (perspective && !(near > 0)) {
    throw Mistake("bad-near", place, fmt::format("near is {}, but a perspective lens needs near > 0", near),
                  "choose the largest near that cuts nothing off, such as 0.1");
  }
  if (!(near < far)) {
    throw Mistake("near-beyond-far", place, fmt::format("near is {} and far is {}: nothing lies between", near, far),
                  "near must be less than far; reversed depth is depth = reversed, not swapped distances");
  }
}

void expect_sides(float left, float right, float bottom, float top, const Place& place) {
  if (!std::isfinite(left) || !std::isfinite(right) || !std::isfinite(bottom) || !std::isfinite(top)) {
    throw Mistake("not-finite", place, fmt::format("the sides are {}, {}, {}, {}", left, right, bottom, top),
                  "all four must be finite");
  }
  if (left == right || bottom == top) {
    throw Mistake("flat-volume", place,
                  fmt::format("the sides {} to {} and {} to {} enclose nothing", left, right, bottom, top),
                  "left and right, bottom and top must differ");
  }
}

/// The last two rows of a perspective matrix: z' = a z + b, w' = −z. Solves depth(−near) and depth(−far) for a and b;
/// with far = ∞ the limits.
void set_perspective_depth(Mat4& matrix, float near, float far, DepthOrder depth) {
  const bool infinite = std::isinf(far);
  const double n = near, f = far;
  double a = 0, b = 0;
  if (depth == DepthOrder::reversed) {
    a = infinite ? 0 : n / (f - n);
    b = infinite ? n : n * f / (f - n);
  } else {
    a = infinite ? -1 : -f / (f - n);
    b = infinite ? -n : -n * f / (f - n);
  }
  matrix(2, 2) = static_cast<float>(a);
  matrix(2, 3) = static_cast<float>(b);
  matrix(3, 2) = -1;
  matrix(3, 3) = 0;
}

}  // namespace

Projection Projection::perspective(const Perspective& lens, Place place) {
  if (!(lens.fov_y > 0 && lens.fov_y < pi)) {
    throw Mistake("bad-field-of-view", place, fmt::format("the field of view is {}°", degrees(lens.fov_y)),
                  "choose more than 0° and less than 180°; in C++ the unit is radians: radians(50)");
  }
  if (!(lens.aspect > 0) || std::isinf(lens.aspect)) {
    throw Mistake("bad-aspect", place, fmt::format("the aspect is {}", lens.aspect),
                  "it is width divided by height, > 0");
  }
  expect_depths(lens.near, lens.far, true, place);
  const float top = lens.near * std::tan(lens.fov_y / 2);
  const float right = top * lens.aspect;
  return perspective(OffCenterPerspective{-right, right, -top, top, lens.near, lens.far, lens.depth}, std::move(place));
}

Projection Projection::perspective(const OffCenterPerspective& lens, Place place) {
  expect_depths(lens.near, lens.far, true, place);
  expect_sides(lens.left, lens.right, lens.bottom, lens.top, place);
  Projection projection;
  Mat4& matrix = projection.matrix_;
  matrix = Mat4::zero();
  matrix(0, 0) = 2 * lens.near / (lens.right - lens.left);
  matrix(0, 2) = (lens.right + lens.left) / (lens.right - lens.left);
  matrix(1, 1) = 2 * lens.near / (lens.top - lens.bottom);
  matrix(1, 2) = (lens.top + lens.bottom) / (lens.top - lens.bottom);
  set_perspective_depth(matrix, lens.near, lens.far, lens.depth);
  projection.perspective_ = true;
  projection.depth_ = lens.depth;
  projection.near_ = lens.near;
  projection.far_ = lens.far;
  return projection;
}

Projection Projection::orthographic(const Orthographic& lens, Place place) {
  expect_depths(lens.near, lens.far, false, place);
  expect_sides(lens.left, lens.right, lens.bottom, lens.top, place);
  Projection projection;
  Mat4& matrix = projection.matrix_;
  matrix = Mat4::identity();
  matrix(0, 0) = 2 / (lens.right - lens.left);
  matrix(0, 3) = -(lens.right + lens.left) / (lens.right - lens.left);
  matrix(1, 1) = 2 / (lens.top - lens.bottom);
  matrix(1, 3) = -(lens.top + lens.bottom) / (lens.top - lens.bottom);
  const float length = lens.far - lens.near;
  const bool reversed = lens.depth == DepthOrder::reversed;
  matrix(2, 2) = (reversed ? 1 : -1) / length;
  matrix(2, 3) = (reversed ? lens.far : -lens.near) / length;
  projection.perspective_ = false;
  projection.depth_ = lens.depth;
  projection.near_ = lens.near;
  projection.far_ = lens.far;
  return projection;
}

Mat4 Projection::inverse() const {
  return matrix_.cast<double>().inverse().cast<float>();
}

float Projection::distance_at(float depth) const {
  const double a = matrix_(2, 2), b = matrix_(2, 3), d = depth;
  return static_cast<float>(perspective_ ? b / (d + a) : (b - d) / a);
}

Transform Camera::view(Place place) const {
  return look_at(eye, target, up, std::move(place));
}

Camera Camera::for_shape(float aspect, Place place) const {
  if (keep == Keep::height) return *this;
  if (!(keep_aspect > 0 && std::isfinite(keep_aspect))) {
    throw Mistake("bad-aspect", std::move(place), fmt::format("the view keeps its width at a shape of {}", keep_aspect),
                  "keep_aspect is width divided by height, more than 0");
  }
  Camera shaped = *this;
  shaped.keep = Keep::height;
  const float higher = keep_aspect / aspect;
  if (keep == Keep::both && !(higher > 1)) return shaped;
  shaped.parallel_height = parallel_height * higher;
  shaped.fov_y = 2 * std::atan(std::tan(fov_y / 2) * higher);
  return shaped;
}

Projection Camera::projection(float aspect, Place place) const {
  const Camera shaped = for_shape(aspect, place);
  if (parallel_height > 0) {
    const float top = shaped.parallel_height / 2, right = top * aspect;
    return Projection::orthographic({-right, right, -top, top, near, far, depth}, std::move(place));
  }
  return Projection::perspective(Perspective{shaped.fov_y, aspect, near, far, depth}, std::move(place));
}

}  // namespace periscena
