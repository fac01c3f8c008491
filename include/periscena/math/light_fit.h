#pragma once

#include <periscena/math/bounds.h>

#include <optional>
#include <span>

namespace periscena {

/// A square, parallel view along a direction that just holds some balls: what a far light sees of what may cast
/// shadows.
///
/// All that lies in the light's way to a ball's shadow projects into the view's square, so a point outside it is lit.
/// Depth is reversed: 1 at the ball that is nearest to the light.
///
/// @param direction  in which the light shines; any length but 0
/// @param spheres  world space; empty ones are left out
/// @param margin  added on each side, as a share of the width, >= 0: room for the filter of a shadow map's edge
/// @return nothing when all are empty
/// @throws Mistake "bad-direction" when the direction's length is 0 or not finite
std::optional<Camera> fit_parallel(const Vec3& direction, std::span<const Sphere> spheres, float margin = 0,
                                   Place place = Place::here());

}  // namespace periscena
