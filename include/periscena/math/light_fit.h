#pragma once

#include <periscena/math/bounds.h>

#include <optional>
#include <span>
#include <vector>

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

/// Where what a camera sees is parted, so that each part gets a map of its own: a blend of even steps and of steps that
/// grow as pixels' footprints do.
///
/// @param near, far  distances along the view, metres, 0 < near < far
/// @param parts  1 to 4
/// @param weight  0: even; 1: growing
/// @return parts + 1 distances, from near to far
/// @throws Mistake "bad-split" when an argument is out of its range or not finite
/// @see Zhang, Sun, Xu and Lun, "Parallel-Split Shadow Maps for Large-scale Virtual Environments", VRCIA 2006
std::vector<float> split_view(float near, float far, int parts, float weight, Place place = Place::here());

/// The smallest ball with its middle on the view's axis that holds what a camera sees between two distances.
/// @param aspect  width by height; @param from, to  metres along the view, from < to
Sphere view_part(const Camera& camera, float aspect, float from, float to);

/// A square, parallel view along a direction that holds a ball, and in depth all that may cast shadows into it. As long
/// as the ball's radius, the direction and the map stay the same, the view only moves by whole texels, so that shadows
/// do not shimmer when the ball moves.
///
/// @param direction  in which the light shines; any length but 0
/// @param casters  balls around what casts shadows; empty ones are left out
/// @param texels  of the map's side, > 2 (border + 1)
/// @param border  texels around the ball that stay free for filters
/// @throws Mistake "bad-direction" as fit_parallel
Camera fit_steady(const Vec3& direction, const Sphere& part, std::span<const Sphere> casters, int texels, int border,
                  Place place = Place::here());

}  // namespace periscena
