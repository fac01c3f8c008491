#pragma once

#include <periscena/math/bounds.h>

#include <optional>

namespace periscena {

/// A rectangle of a picture: 0..1 to the right and up, from its lower left corner.
struct ScreenRect {
  float left = 0, bottom = 0, right = 1, top = 1;

  float area() const { return (right - left) * (top - bottom); }
};

/// The tightest rectangle around what a lens sees of a ball, cut off at the near plane and at the picture's edges: where
/// a light of that range can matter. Nothing sticks out of it, not by rounding either. The eye may be inside the ball.
///
/// In the plane of the view axis and x (then y), the ball is a disc that ends at the near plane; x by distance is greatest
/// and least where lines from the eye touch it, or where it ends. Closed form, in double precision.
///
/// @param ball  camera space, metres; not finite: the whole picture
/// @return nothing when the ball lies before the near plane, beyond the far one, beside the picture, or is empty
std::optional<ScreenRect> screen_bounds(const Projection& lens, const Sphere& ball);

}  // namespace periscena
