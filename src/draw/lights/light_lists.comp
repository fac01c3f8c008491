// Which lights can reach what is in a cell of the picture; a group for each cell.
#include "periscena/bindings.glsl"
#include "periscena/camera.glsl"

layout(local_size_x = 64) in;

struct LightReach {
  vec4 ball;       // camera space; w: radius, below 0 without end
  vec4 rect;       // pixels: left, bottom, right, top
  vec4 distances;  // nearest, farthest along the view axis
};
layout(std430, binding = REACH_STORAGE) readonly buffer LightReaches { LightReach reaches[]; };
layout(r32ui, binding = 0) writeonly uniform uimage2D lists;

uniform ivec4 light_grid = ivec4(1);  // cells across, cells of a slice, words of a cell, and of those the ones before the lights' bits
uniform ivec4 light_picture = ivec4(1);  // pixels: width, height
#ifdef LIGHT_SLICES
uniform vec2 light_slices = vec2(1.0);  // where the first one ends, metres; slices for each doubling of distance
#else
#if SAMPLES > 1
uniform sampler2DMS depth;
#else
uniform sampler2D depth;
#endif
uniform float background = 0.0;
shared uint shared_nearest, shared_farthest;
#endif
shared uint found[LIGHT_WORDS];

const float endless = 1e30;
const float rounding = 1e-4;

#ifndef LIGHT_SLICES
// Distances can lie behind the eye where rays are parallel; as whole numbers they keep their order.
uint ordered(float value) {
  uint bits = floatBitsToUint(value);
  return (bits & 0x80000000u) != 0u ? ~bits : bits | 0x80000000u;
}
float from_ordered(uint bits) { return uintBitsToFloat((bits & 0x80000000u) != 0u ? bits & 0x7fffffffu : ~bits); }

void measure(ivec2 first) {
  int i = int(gl_LocalInvocationIndex);
  float nearest = endless, farthest = -endless;
  ivec2 picture = light_picture.xy;
  for (; i < LIGHT_TILE * LIGHT_TILE; i += 64) {
    ivec2 at = first + ivec2(i % LIGHT_TILE, i / LIGHT_TILE);
    if (any(greaterThanEqual(at, picture))) continue;
#if SAMPLES > 1
    for (int k = 0; k < SAMPLES; ++k) {
#else
    const int k = 0;
    {
#endif
      float seen = texelFetch(depth, at, k).r;
      if (seen != background) {
        float distance = distance_at(seen);
        nearest = min(nearest, distance);
        farthest = max(farthest, distance);
      }
    }
  }
  if (nearest <= farthest) {
    atomicMin(shared_nearest, ordered(nearest));
    atomicMax(shared_farthest, ordered(farthest));
  }
}
#endif

// From where to where what lies between two distances is, in camera space, along an axis; ends: of the cell, in clip space
// by distance.
vec2 extent(vec2 ends, vec2 distances, int axis) {
  if (camera.projection[2][3] == 0.0) return (ends - camera.projection[3][axis]) / camera.projection[axis][axis];
  vec2 slopes = (ends + camera.projection[2][axis]) / camera.projection[axis][axis];
  return vec2(min(slopes.x * distances.x, slopes.x * distances.y), max(slopes.y * distances.x, slopes.y * distances.y));
}

bool reaches_cell(LightReach light, vec4 pixels, vec2 distances, vec3 low, vec3 high) {
  if (any(greaterThan(light.rect.xy, pixels.zw)) || any(lessThan(light.rect.zw, pixels.xy))) return false;
  if (light.distances.x > distances.y || light.distances.y < distances.x) return false;
  if (light.ball.w < 0.0) return true;
  vec3 apart = light.ball.xyz - clamp(light.ball.xyz, low, high);
  float radius = light.ball.w * (1.0 + rounding) + rounding * abs(light.ball.z);
  return dot(apart, apart) <= radius * radius;
}

void main() {
  int index = int(gl_LocalInvocationIndex);
  ivec2 group = ivec2(gl_WorkGroupID.xy);
  int cell = group.y * light_grid.x + group.x, up = light_grid.y / light_grid.x, slice = group.y / up;
  ivec2 first = ivec2(group.x, group.y - slice * up) * LIGHT_TILE;
  for (int i = index; i < LIGHT_WORDS; i += 64) found[i] = 0u;
#ifdef LIGHT_SLICES
  vec2 distances = light_slices.x * exp2((vec2(slice, slice + 1) - 1.0) / light_slices.y);
  if (slice == 0) distances.x = camera.projection[2][3] == 0.0 ? -endless : 0.0;
  if (slice == LIGHT_SLICES - 1) distances.y = endless;
  barrier();
#else
  if (index == 0) {
    shared_nearest = 0xffffffffu;
    shared_farthest = 0u;
  }
  barrier();
  measure(first);
  barrier();
  vec2 distances = vec2(1.0, -1.0);
  if (shared_farthest != 0u) distances = vec2(from_ordered(shared_nearest), from_ordered(shared_farthest));
#endif
  if (distances.x <= distances.y) {
    distances += rounding * vec2(-1.0, 1.0) * abs(distances);
    ivec2 picture = light_picture.xy;
    vec4 pixels = vec4(first, min(first + LIGHT_TILE, picture));
    vec4 clip = 2.0 * pixels / vec4(picture, picture) - 1.0;
    vec2 x = extent(clip.xz, distances, 0), y = extent(clip.yw, distances, 1);
    vec3 low = vec3(x.x, y.x, -distances.y), high = vec3(x.y, y.y, -distances.x);
    for (int i = index; i < LIGHT_COUNT; i += 64) {
      if (reaches_cell(reaches[i], pixels, distances, low, high)) atomicOr(found[i >> 5], 1u << (i & 31));
    }
  }
  barrier();
  for (int i = index; i < light_grid.z; i += 64) {
    uint word = 0u;
    if (i < light_grid.w) {
      for (int k = 0; k < 32 && i * 32 + k < LIGHT_WORDS; ++k) word |= found[i * 32 + k] != 0u ? 1u << k : 0u;
    } else {
      word = found[i - light_grid.w];
    }
    int at = cell * light_grid.z + i;
    imageStore(lists, ivec2(at & (LIST_WIDTH - 1), at / LIST_WIDTH), uvec4(word));
  }
}
