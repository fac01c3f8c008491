#include <periscena/math/projection.h>

#include <fmt/format.h>

#include <cmath>
#include <limits>

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

Projection Projection::of_matrix(const Mat4& given, ClipDepth depth, Place place) {
  const auto refuse = [&](const std::string& cause, const char* help) {
    throw Mistake("bad-projection", place, "the matrix " + cause, help);
  };
  for (int row = 0; row < 4; ++row) {
    for (int column = 0; column < 4; ++column) {
      if (!std::isfinite(given(row, column)))
        refuse(fmt::format("holds {} in row {}, column {}", given(row, column), row, column), "all must be finite");
    }
  }
  DoubleMat4 matrix = given.cast<double>();
  const bool perspective = matrix(3, 3) == 0;
  const double scale = perspective ? -matrix(3, 2) : matrix(3, 3);
  if (matrix(3, 0) != 0 || matrix(3, 1) != 0 || (!perspective && matrix(3, 2) != 0) || !(scale > 0)) {
    refuse(fmt::format("ends with the row {}, {}, {}, {}", given(3, 0), given(3, 1), given(3, 2), given(3, 3)),
           "it must be 0, 0, −1, 0 for perspective, or 0, 0, 0, 1 for a parallel lens, of a camera that looks down −Z; "
           "transpose matrices that are stored by rows");
  }
  for (int row = 0; row < 4; ++row) {
    for (int column = 0; column < 4; ++column) matrix(row, column) /= scale;
  }
  if (depth == ClipDepth::from_minus_one) {
    for (int column = 0; column < 4; ++column) matrix(2, column) = (matrix(2, column) + matrix(3, column)) / 2;
  }
  if (!(matrix(0, 0) > 0) || !(matrix(1, 1) > 0)) {
    refuse(fmt::format("mirrors the picture: it scales x by {} and y by {}", matrix(0, 0), matrix(1, 1)),
           "both must be more than 0: clip space has +X to the right and +Y up");
  }
  const bool shifts = perspective ? matrix(0, 3) != 0 || matrix(1, 3) != 0 : matrix(0, 2) != 0 || matrix(1, 2) != 0;
  if (matrix(0, 1) != 0 || matrix(1, 0) != 0 || shifts)
    refuse("skews or turns what it shows", "put places and turns into the camera, and only the lens into the matrix");
  if (matrix(2, 0) != 0 || matrix(2, 1) != 0)
    refuse("has an oblique near or far plane", "distances can't be told from its depths; clip by a plane instead");
  const double a = matrix(2, 2), b = matrix(2, 3);
  // Where depth is 0 and where it is 1: a perspective lens gives −a + b / distance, a parallel one b − a · distance.
  const auto at = [&](double wanted) {
    const double over = perspective ? wanted + a : a, under = perspective ? b : b - wanted;
    return over == 0 ? std::numeric_limits<double>::infinity() : under / over;
  };
  const bool reversed = perspective ? b > 0 : a > 0;
  Projection projection;
  projection.matrix_ = matrix.cast<float>();
  projection.perspective_ = perspective;
  projection.depth_ = reversed ? DepthOrder::reversed : DepthOrder::ordinary;
  projection.near_ = static_cast<float>(at(reversed ? 1 : 0));
  projection.far_ = static_cast<float>(at(reversed ? 0 : 1));
  const bool in_front = !perspective || projection.near_ > 0;
  if (!in_front || !(projection.near_ < projection.far_) || (!perspective && std::isinf(projection.far_))) {
    refuse(fmt::format("shows what lies from {} to {} m ahead", projection.near_, projection.far_),
           "near must be in front of the eye, and far beyond it; is its depth 0 to 1, or −1 to 1?");
  }
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
  if (lens) {
    if (lens->depth_order() != depth) {
      const auto name = [](DepthOrder order) { return order == DepthOrder::reversed ? "reversed" : "ordinary"; };
      throw Mistake(
          "bad-projection", std::move(place),
          fmt::format("the camera's depth is {}, that of its lens {}", name(depth), name(lens->depth_order())),
          "set depth to what the lens has; passes choose by it how to test and clear");
    }
    Camera shaped = *this;
    const float height = 2 / lens->matrix()(1, 1);
    shaped.keep = Keep::height;
    shaped.near = lens->near();
    shaped.far = lens->far();
    shaped.parallel_height = lens->is_perspective() ? 0 : height;
    if (lens->is_perspective()) shaped.fov_y = 2 * std::atan(height / 2);
    return shaped;
  }
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
  if (lens) return *lens;
  if (parallel_height > 0) {
    const float top = shaped.parallel_height / 2, right = top * aspect;
    return Projection::orthographic({-right, right, -top, top, near, far, depth}, std::move(place));
  }
  return Projection::perspective(Perspective{shaped.fov_y, aspect, near, far, depth}, std::move(place));
}

}  // namespace periscena
