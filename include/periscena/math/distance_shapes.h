#pragma once

#include <periscena/math/vector.h>

namespace periscena {

// Distances to shapes, in metres: over 0 outside, 0 on the surface, below 0 inside. Never more than the true distance,
// so that one may walk that far along any ray without passing through the surface. GLSL has the same by the same names
// (`#include "periscena/distance_shapes.glsl"`). Shapes lie around the origin; move the place instead of the shape.

float ball_distance(const Vec3& place, float radius);
float box_distance(const Vec3& place, const Vec3& half_size);
float plane_distance(const Vec3& place, const Vec3& normal, float height);  ///< normal of length 1; `height` along it
float capsule_distance(const Vec3& place, const Vec3& a, const Vec3& b, float radius);  ///< a ball drawn from a to b
float cylinder_distance(const Vec3& place, float radius, float half_height);            ///< along Y
float ring_distance(const Vec3& place, float radius, float thickness);  ///< lies flat; `thickness` is the tube's radius

/// The shape grown by a radius, which rounds its edges.
inline float grown(float distance, float radius) {
  return distance - radius;
}

float united(float a, float b);       ///< either
float common_part(float a, float b);  ///< both
float cut(float a, float b);          ///< a without b

/// The same with a soft seam `width` wide: where the distances differ by less, they melt into each other (a parabola
/// between the two; at most a quarter of the width is added or taken away). @param width  metres, > 0
float melted(float a, float b, float width);
float melted_common(float a, float b, float width);
float melted_cut(float a, float b, float width);

/// −1..1, smooth, as good as random, one bump for each unit; its slope is nowhere over steepest_noise.
float smooth_noise(const Vec3& place);
inline constexpr float steepest_noise = 5.2f;

/// A surface made uneven by noise: bumps `height` high, `size` wide. The distance is shortened so that it stays one.
float roughened(float distance, const Vec3& place, float height, float size);

}  // namespace periscena
