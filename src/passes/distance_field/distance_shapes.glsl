// Distances to shapes, metres: over 0 outside, below 0 inside, never more than the true one. The same as in
// <periscena/math/distance_shapes.h>.
#include "periscena/encode.glsl"

float ball_distance(vec3 place, float radius) { return length(place) - radius; }

float box_distance(vec3 place, vec3 half_size) {
  vec3 beyond = abs(place) - half_size;
  return length(max(beyond, 0.0)) + min(max(beyond.x, max(beyond.y, beyond.z)), 0.0);
}

float plane_distance(vec3 place, vec3 normal, float height) { return dot(place, normal) - height; }

float capsule_distance(vec3 place, vec3 a, vec3 b, float radius) {
  vec3 from = place - a, axis = b - a;
  return length(from - clamp(dot(from, axis) / max(dot(axis, axis), 1e-12), 0.0, 1.0) * axis) - radius;
}

float cylinder_distance(vec3 place, float radius, float half_height) {
  vec2 beyond = vec2(length(place.xz) - radius, abs(place.y) - half_height);
  return length(max(beyond, 0.0)) + min(max(beyond.x, beyond.y), 0.0);
}

float ring_distance(vec3 place, float radius, float thickness) { return length(vec2(length(place.xz) - radius, place.y)) - thickness; }

float grown(float distance_, float radius) { return distance_ - radius; }

float united(float a, float b) { return min(a, b); }
float common_part(float a, float b) { return max(a, b); }
float cut(float a, float b) { return max(a, -b); }

float melted(float a, float b, float width) {
  float near = max(width - abs(a - b), 0.0) / width;
  return min(a, b) - 0.25 * width * near * near;
}

float melted_common(float a, float b, float width) { return -melted(-a, -b, width); }
float melted_cut(float a, float b, float width) { return melted_common(a, -b, width); }

const float steepest_noise = 5.2;

float smooth_noise(vec3 place) {
  vec3 corner = floor(place), at = place - corner, share = at * at * (3.0 - 2.0 * at);
  float sum = 0.0;
  for (int i = 0; i < 8; ++i) {
    ivec3 up = ivec3(i & 1, (i >> 1) & 1, i >> 2);
    vec3 weight = mix(1.0 - share, share, equal(up, ivec3(1)));
    sum += weight.x * weight.y * weight.z * (2.0 * random_at(uvec3(ivec3(corner) + up)).x - 1.0);
  }
  return sum;
}

float roughened(float distance_, vec3 place, float height, float size) {
  return (distance_ + height * smooth_noise(place / size)) / (1.0 + height / size * steepest_noise);
}
