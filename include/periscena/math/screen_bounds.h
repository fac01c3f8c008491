#pragma once

#include <periscena/math/bounds.h>

#include <limits>
#include <optional>

namespace periscena {

/// A rectangle of a picture: 0..1 to the right and up, from its lower left corner.
struct ScreenRect {
  float left = 0, bottom = 0, right = 1, top = 1;

  float area() const { return (right - left) * (top - bottom); }
};

/// The tightest rectangle around what a lens sees of a ball, cut off at the near plane and at the picture's edges:
/// where a light of that range can matter. Nothing sticks out of it, not by rounding either. The eye may be inside the
/// ball.
///
/// In the plane of the view axis and x (then y), the ball is a disc that ends at the near plane; x by distance is
/// greatest and least where lines from the eye touch it, or where it ends. Closed form, in double precision.
///
/// @param ball  camera space, metres; not finite: the whole picture
/// @return nothing when the ball lies before the near plane, beyond the far one, beside the picture, or is empty
std::optional<ScreenRect> screen_bounds(const Projection& lens, const Sphere& ball);

/// The part of a ball around its tip that lies within an angle of a direction: where a spot light can matter.
struct Cone {
  Vec3 tip = Vec3::zero();
  Vec3 direction = -Vec3::unit_z();  ///< length 1
  float range = 1;                   ///< metres
  float half_angle = radians(45);    ///< radians, 0..π/2

  /// The least ball around it.
  Sphere sphere() const;
};

/// The same for a cone: the tightest where all of it lies beyond the near plane, from its tip, its rim, and where lines
/// from the eye touch its cap. Elsewhere what the ball of its range and the least ball around it share.
/// @param cone  camera space
std::optional<ScreenRect> screen_bounds(const Projection& lens, const Cone& cone);

/// From where to where a body lies along the view axis, metres away from the eye.
struct ViewDistances {
  float nearest = 0, farthest = std::numeric_limits<float>::infinity();
};

/// @param ball, cone  camera space; nothing of it lies outside of what is returned, not by rounding either
ViewDistances view_distances(const Sphere& ball);
ViewDistances view_distances(const Cone& cone);

}  // namespace periscena
