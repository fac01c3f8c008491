// Walks along each pixel's ray to a surface that GLSL of your own describes by its distance, and lights it. Your GLSL includes
// this, and says
//
//     float distance_to(vec3 place) { return ball_distance(place - vec3(0.0, 1.0, 0.0), 1.0); }
//
// and, if it wants, `#define OWN_MATTER` before the include, and what the surface is made of:
//
//     void matter_at(vec3 place, inout Surface surface) { surface.base_color = vec3(0.2, 0.3, 0.1); }
//
// Both may ask frame.time. `place` is in the world, metres.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "periscena/surface.glsl"
#include "periscena/distance_shapes.glsl"
#include "periscena/finite.glsl"

uniform vec4 base_color = vec4(0.5, 0.5, 0.5, 1.0);
uniform float roughness = 0.8;
uniform float metallic = 0.0;
uniform int most_steps = 128;
uniform float farthest = 100.0;         // metres
uniform float step_share = 1.0;         // 0..1: of the distance that is walked at once
uniform vec3 lowest = vec3(-1e6), highest = vec3(1e6);  // the box that all of it is in, metres

float distance_to(vec3 place);
#ifdef OWN_MATTER
void matter_at(vec3 place, inout Surface surface);
#endif

#ifdef COUNTS_STEPS
layout(location = 0) out float steps;
#else
#include "periscena/fog.glsl"

// What of a light gets past the surface itself, 0..1: less, the nearer its rays pass by.
float own_shadow(vec3 position, vec3 normal, vec3 to_light, float until);
#define OWN_SHADOW
#include "periscena/lit.glsl"
layout(location = 0) out vec4 color;
#endif

// Metres that a pixel is wide, a metre away; for parallel rays, anywhere.
float pixel_size() { return 2.0 / (camera.projection[1][1] * frame.resolution.y); }

// Where a ray is in the box: from, to.
vec2 part_in_box(vec3 from, vec3 along) {
  vec3 slowly = mix(along, vec3(1e-9), lessThan(abs(along), vec3(1e-9)));
  vec3 a = (lowest - from) / slowly, b = (highest - from) / slowly, least = min(a, b), most = max(a, b);
  return vec2(max(max(least.x, least.y), max(least.z, 0.0)), min(min(most.x, most.y), min(most.z, farthest)));
}

struct Walk {
  bool hit;
  float away;  // metres along the ray
  int steps;
};

// tolerance: metres that count as there, a metre away (x) and anywhere (y).
Walk walk(vec3 from, vec3 along, vec2 tolerance) {
  vec2 part = part_in_box(from, along);
  Walk walk = Walk(false, part.x, 0);
  // A loop for the ones that go on, as software drivers would go through a branch whether it is taken or not.
  for (bool goes_on = part.x < part.y; goes_on && walk.steps < most_steps; ++walk.steps) {
    float left = distance_to(from + walk.away * along);
    bool strange = isnan(left) || isinf(left);
    for (bool count = strange; count; count = false) finite_light(vec3(left), ivec2(gl_FragCoord.xy));
    walk.hit = !strange && left < tolerance.x * walk.away + tolerance.y;
    walk.away += walk.hit || strange ? 0.0 : left * step_share;
    goes_on = !walk.hit && !strange && walk.away < part.y;
  }
  return walk;
}

// By central differences, so far apart as a pixel is wide.
vec3 slope_at(vec3 place, float apart) {
  vec3 slope;
  for (int i = 0; i < 3; ++i) {
    vec3 off = vec3(0.0);
    off[i] = apart;
    slope[i] = distance_to(place + off) - distance_to(place - off);
  }
  float steep = length(slope);
  return steep > 0.0 ? slope / steep : vec3(0.0, 1.0, 0.0);
}

#ifndef COUNTS_STEPS
float own_shadow(vec3 position, vec3 normal, vec3 to_light, float until) {
#ifdef SELF_SHADOWS
  float least = 1.0, away = 0.02;
  vec3 from = position + normal * 0.004;
  until = min(until, farthest);
  bool goes_on = true;
  for (int i = 0; goes_on && i < 48; ++i) {
    float left = distance_to(from + away * to_light);
    least = min(least, 24.0 * left / away);
    away += clamp(left, 0.01, 1.0);
    goes_on = least > 0.002 && away < until && !isnan(left);
  }
  least = clamp(least, 0.0, 1.0);
  return least * least * (3.0 - 2.0 * least);
#else
  return 1.0;
#endif
}

// How free the sky is above, by what is near along the normal.
float free_sky(vec3 place, vec3 normal) {
  float taken = 0.0, weight = 1.0;
  for (int i = 1; i <= 4; ++i) {
    float away = 0.06 * float(i * i);
    taken += weight * max(away - distance_to(place + away * normal), 0.0) / away;
    weight *= 0.6;
  }
  return clamp(1.0 - 0.6 * taken, 0.0, 1.0);
}
#endif

void main() {
  bool perspective = camera.projection[2][3] != 0.0;
  vec3 along = camera_ray(uv);
  // From the eye, or of parallel rays from a plane before all that is seen.
  vec3 there = world_position(uv, NEAR_DEPTH), from = perspective ? camera.eye : there;
  float size = pixel_size();
  vec2 tolerance = perspective ? vec2(0.1 * size, 1e-5) : vec2(0.0, 0.1 * size);
  Walk found = walk(from, along, tolerance);
#ifdef COUNTS_STEPS
  steps = float(found.steps);
  gl_FragDepth = NEAR_DEPTH;
#else
  if (!found.hit) discard;
  vec3 place = from + found.away * along;
  vec4 clip = camera.view_projection * vec4(place, 1.0);
  gl_FragDepth = clamp(clip.z / clip.w, 0.0, 1.0);
  SurfacePoint point;
  point.position = place;
  point.normal = point.plane = slope_at(place, max(perspective ? size * found.away : size, 1e-4));
  point.tangent = point.bitangent = vec3(0.0);
  point.uv = point.second_uv = vec2(0.0);
  point.color = vec4(1.0);
  point.to_eye = -along;
  point.time = frame.time;
  point.shadowed = true;
  Surface surface;
  surface.shading = METALLIC_ROUGHNESS;
  surface.base_color = base_color.rgb;
  surface.alpha = 1.0;
  surface.metallic = metallic;
  surface.roughness = roughness;
  surface.specular = vec3(0.0);
  surface.shininess = 0.0;
  surface.normal = point.normal;
  surface.emission = vec3(0.0);
  surface.occlusion = free_sky(place, point.normal);
#ifdef OWN_MATTER
  matter_at(place, surface);
#endif
  color = vec4(through_fog(shade(surface, point), camera.eye, place), 1.0);
#endif
}
