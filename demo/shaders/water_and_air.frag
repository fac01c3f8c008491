// What light does between the lock and the eye: corners get less of the sky, water mirrors, and the evening's haze fills in.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "dusk.glsl"

uniform sampler2D scene;
uniform sampler2D depth;

layout(location = 0) out vec4 color;

const float half_width = 2.8, upper_gates = -11.85, lower_gates = 10.15;

vec3 position_at(vec2 place) { return world_position(place, texture(depth, place).r); }

// Geometric normal from the nearer neighbour on each axis, so that edges stay clean.
vec3 normal_at(vec3 position) {
  vec2 texel = 1.0 / frame.resolution;
  vec3 right = position_at(uv + vec2(texel.x, 0)) - position, left = position - position_at(uv - vec2(texel.x, 0));
  vec3 up = position_at(uv + vec2(0, texel.y)) - position, down = position - position_at(uv - vec2(0, texel.y));
  vec3 across = dot(right, right) < dot(left, left) ? right : left;
  vec3 along = dot(up, up) < dot(down, down) ? up : down;
  return normalize(cross(across, along));
}

// Share of the hemisphere that nothing close by hides.
float openness(vec3 position, vec3 normal) {
  const int count = 14;
  const float radius = 0.85;
  float hidden = 0.0;
  float turn = 6.2831853 * hash(gl_FragCoord.xy);
  for (int i = 0; i < count; ++i) {
    float height = 1.0 - (float(i) + 0.5) / float(count);
    float angle = turn + 2.399963 * float(i);
    vec3 direction = vec3(cos(angle) * sqrt(1.0 - height * height), height, sin(angle) * sqrt(1.0 - height * height));
    direction = faceforward(direction, -normal, direction);
    vec3 at = position + normal * 0.03 + direction * radius * (0.15 + 0.85 * fract(float(i) * 0.618 + 0.3));
    vec4 clip = camera.view_projection * vec4(at, 1.0);
    vec2 place = clip.xy / clip.w * 0.5 + 0.5;
    float here = distance_at(texture(depth, place).r), there = clip.w;
    float gap = there - here;
    hidden += gap > 0.02 ? smoothstep(2.0 * radius, 0.3 * radius, gap) : 0.0;
  }
  return 1.0 - 0.85 * hidden / float(count);
}

bool is_water(vec3 position, vec3 normal) {
  if (normal.y < 0.7 || abs(position.x) > half_width) return false;
  // The chamber empties and fills as its motion in osier_lock.toml says: at rest for three eighths of the 24 s at each end.
  float emptied = clamp((1.0 - abs(2.0 * fract(frame.time / 24.0) - 1.0) - 0.375) / 0.25, 0.0, 1.0);
  float chamber = mix(0.55, -0.75, 0.5 - 0.5 * cos(3.1415927 * emptied));
  float level = position.z < upper_gates ? 0.55 : position.z > lower_gates ? -0.75 : chamber;
  return abs(position.y - level) < 0.02;
}

vec3 ripples(vec2 place) {
  float t = frame.time;
  vec2 slope = vec2(0.0);
  slope += vec2(value_noise(place * vec2(2.1, 3.3) + vec2(0.3, 0.22) * t) - 0.5, value_noise(place.yx * 2.7 + 9.0 - 0.26 * t) - 0.5);
  slope += 0.5 * vec2(value_noise(place * 7.3 - 0.5 * t) - 0.5, value_noise(place.yx * 6.1 + 3.0 + 0.45 * t) - 0.5);
  return normalize(vec3(0.045 * slope.x, 1.0, 0.045 * slope.y));
}

// What the water mirrors: the scene where a ray meets it on the picture, else the sky.
vec3 mirrored(vec3 from, vec3 direction) {
  float reach = 0.06;
  vec3 at = from;
  for (int i = 0; i < 40; ++i) {
    at += direction * reach;
    vec4 clip = camera.view_projection * vec4(at, 1.0);
    vec2 place = clip.xy / clip.w * 0.5 + 0.5;
    if (clip.w < camera.near || any(lessThan(place, vec2(0.0))) || any(greaterThan(place, vec2(1.0)))) break;
    float here = distance_at(texture(depth, place).r);
    float behind = clip.w - here;
    if (behind > 0.0 && behind < reach * 2.0 + 0.25) {
      vec2 edge = smoothstep(vec2(0.0), vec2(0.06), place) * smoothstep(vec2(1.0), vec2(0.94), place);
      return mix(dusk_sky(direction, frame.time), texture(scene, place).rgb, edge.x * edge.y);
    }
    reach *= 1.13;
  }
  return dusk_sky(direction, frame.time);
}

void main() {
  float stored = texture(depth, uv).r;
  vec3 here = texture(scene, uv).rgb;
  if (stored == 0.0) {
    color = vec4(here, 1.0);
    return;
  }
  vec3 position = world_position(uv, stored);
  vec3 normal = normal_at(position);
  float distance = length(position - camera.eye);
  vec3 ray = (position - camera.eye) / distance;
  if (is_water(position, normal)) {
    vec3 surface = ripples(position.xz);
    float facing = max(dot(-ray, surface), 0.0);
    float mirror = 0.02 + 0.98 * pow(1.0 - facing, 5.0);
    vec3 bounced = reflect(ray, surface);
    bounced.y = abs(bounced.y);
    here = mix(here * 0.8, mirrored(position, bounced), clamp(mirror * 1.25 + 0.06, 0.0, 1.0));
  } else if (max(here.r, here.g) < 3500.0) {
    here *= openness(position, normal);
  }
  vec3 haze = dusk_sky(normalize(vec3(ray.x, max(ray.y, 0.0) + 0.03, ray.z)), frame.time);
  color = vec4(mix(haze, here, exp(-max(distance - 16.0, 0.0) * 0.0062)), 1.0);
}
