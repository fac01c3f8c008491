// From where to where what is on each tile of the picture is, along the view axis; a group for each tile.
#include "periscena/light_cells.glsl"

layout(local_size_x = 64) in;

#if SAMPLES > 1
uniform sampler2DMS depth;
#else
uniform sampler2D depth;
#endif
uniform float background = 0.0;
shared uint shared_nearest, shared_farthest;

// Distances can lie behind the eye where rays are parallel; as whole numbers they keep their order.
uint ordered(float value) {
  uint bits = floatBitsToUint(value);
  return (bits & 0x80000000u) != 0u ? ~bits : bits | 0x80000000u;
}
float from_ordered(uint bits) { return uintBitsToFloat((bits & 0x80000000u) != 0u ? bits & 0x7fffffffu : ~bits); }

void measure(ivec2 first) {
  float nearest = endless, farthest = -endless;
  for (int i = int(gl_LocalInvocationIndex); i < 1 << 2 * LIGHT_TILE_BITS; i += 64) {
    ivec2 at = first + ivec2(i & (1 << LIGHT_TILE_BITS) - 1, i >> LIGHT_TILE_BITS);
    if (any(greaterThanEqual(at, light_picture.xy))) continue;
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

void main() {
  int index = int(gl_LocalInvocationIndex);
  ivec2 tile = ivec2(gl_WorkGroupID.xy);
  if (index == 0) {
    shared_nearest = 0xffffffffu;
    shared_farthest = 0u;
  }
  barrier();
  measure(tile << LIGHT_TILE_BITS);
  barrier();
  if (index > 1) return;
  // Where there is nothing, the nearest is farther away than the farthest.
  vec2 distances = shared_farthest != 0u ? vec2(from_ordered(shared_nearest), from_ordered(shared_farthest)) : vec2(1.0, -1.0);
  imageStore(lists, place_of(light_picture.w + 2 * (tile.y * light_grid.x + tile.x) + index), uvec4(floatBitsToUint(distances[index])));
}
