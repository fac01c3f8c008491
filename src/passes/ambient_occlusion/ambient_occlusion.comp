// How much of the sky above each pixel is free of what stands around it. Jimenez, Wu, Pesce and Jarabo, "Practical Real-Time
// Strategies for Accurate Indirect Occlusion", SIGGRAPH 2016: in slices through the view ray, the horizon to either side,
// and between both the cosine-weighted share of the arc in closed form.
#include "periscena/bindings.glsl"
#include "periscena/camera.glsl"
#include "periscena/geometry_buffer.glsl"

layout(local_size_x = 8, local_size_y = 8) in;

uniform sampler2D depth, normal;
layout(r8, binding = 0) writeonly uniform image2D occlusion;
uniform vec4 picture = vec4(1.0);  // pixels: width, height
uniform float background = 0.0;
uniform float radius = 1.0;        // metres

const int slices = 2, steps = 8;
const float half_turn = 3.14159265358979;

vec3 view_place(ivec2 at, float seen) {
  vec2 clip = 2.0 * (vec2(at) + 0.5) / picture.xy - 1.0;
  float away = distance_at(seen);
  vec2 lens = vec2(camera.projection[0][0], camera.projection[1][1]);
  bool perspective = camera.projection[2][3] != 0.0;
  vec2 shift = perspective ? vec2(camera.projection[2][0], camera.projection[2][1]) : -vec2(camera.projection[3][0], camera.projection[3][1]);
  return vec3((clip + shift) / lens * (perspective ? away : 1.0), -away);
}

// The greatest cosine to the view ray that is seen along a direction.
float horizon(ivec2 at, vec3 place, vec3 to_eye, vec2 direction, float pixels, float jitter, float least) {
  float found = least;
  for (int i = 0; i < steps; ++i) {
    float share = (float(i) + jitter) / float(steps);
    ivec2 there = at + ivec2(round(direction * (1.0 + share * share * (pixels - 1.0))));
    if (any(lessThan(there, ivec2(0))) || any(greaterThanEqual(there, ivec2(picture.xy)))) break;
    float seen = texelFetch(depth, there, 0).r;
    if (seen == background || there == at) continue;
    vec3 way = view_place(there, seen) - place;
    float length_of_it = length(way);
    float counts = clamp(4.0 - 4.0 * length_of_it / radius, 0.0, 1.0);
    found = max(found, mix(least, dot(way, to_eye) / length_of_it, counts));
  }
  return found;
}

float arc(float to, float n) { return 0.25 * (-cos(2.0 * to - n) + cos(n) + 2.0 * to * sin(n)); }

void main() {
  ivec2 at = ivec2(gl_GlobalInvocationID.xy);
  if (any(greaterThanEqual(at, ivec2(picture.xy)))) return;
  float seen = texelFetch(depth, at, 0).r;
  float free = 1.0;
  if (seen != background) {
    vec3 place = view_place(at, seen);
    bool perspective = camera.projection[2][3] != 0.0;
    vec3 to_eye = perspective ? -normalize(place) : vec3(0.0, 0.0, 1.0);
    vec3 n = mat3(camera.view) * from_octahedral(texelFetch(normal, at, 0).zw);
    // Rounding of depth must not make a plane its own horizon.
    place += n * (0.002 * -place.z);
    float pixels = 0.5 * radius * camera.projection[1][1] * picture.y / (perspective ? -place.z : 1.0);
    pixels = min(pixels, 0.25 * picture.y);
    if (pixels > 1.0) {
      // Each pixel of 4 x 4 looks other ways; the filter that follows takes them together.
      int turn = (at.x & 3) + 4 * (at.y & 3);
      float jitter = float((turn * 7) & 15) / 16.0 + 1.0 / 32.0;
      free = 0.0;
      for (int s = 0; s < slices; ++s) {
        float angle = half_turn * (float(s) + (float(turn) + 0.5) / 16.0) / float(slices);
        vec2 direction = vec2(cos(angle), sin(angle));
        vec3 along = vec3(direction, 0.0);
        vec3 across = normalize(cross(along, to_eye)), in_slice = n - across * dot(n, across);
        float share = length(in_slice);
        if (share < 1e-4) continue;
        float side = dot(along - to_eye * dot(along, to_eye), in_slice) < 0.0 ? -1.0 : 1.0;
        float tilt = side * acos(clamp(dot(in_slice, to_eye) / share, -1.0, 1.0));
        float right = acos(horizon(at, place, to_eye, direction, pixels, jitter, cos(tilt + 0.5 * half_turn)));
        float left = -acos(horizon(at, place, to_eye, -direction, pixels, jitter, cos(tilt - 0.5 * half_turn)));
        right = tilt + min(right - tilt, 0.5 * half_turn);
        left = tilt + max(left - tilt, -0.5 * half_turn);
        free += share * (arc(right, tilt) + arc(left, tilt)) / float(slices);
      }
    }
  }
  imageStore(occlusion, at, vec4(clamp(free, 0.0, 1.0)));
}
