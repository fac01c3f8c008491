// Light that is no finite number ends here: it is counted, and taken for black (not a number) or for the brightest that a half
// holds (endless).
#include "periscena/bindings.glsl"

layout(std430, binding = FINITE_STORAGE) buffer FiniteCounts {
  uint strange_pixels;
  uint strange_x, strange_y;  // of one of them, from the lower left
};

const float brightest = 65504.0;

// False where a channel is no finite number, or brighter than a half holds: one test for all that is rare. By bits, as compilers
// take what is not less for greater or equal.
bool is_usual(vec3 light) {
  return all(lessThanEqual(floatBitsToUint(light) & 0x7FFFFFFFu, uvec3(0x477FE000u)));  // `brightest`
}

vec3 finite_light(vec3 light, ivec2 at) {
  // A loop, as software drivers would go through a branch whether it is taken or not.
  for (bool rare = !is_usual(light); rare; rare = false) {
    bvec3 nothing = isnan(light);
    if (any(nothing) || any(isinf(light))) {
      if (atomicAdd(strange_pixels, 1u) == 0u) {
        strange_x = uint(at.x);
        strange_y = uint(at.y);
      }
    }
    light = mix(clamp(light, -brightest, brightest), vec3(0.0), nothing);
  }
  return light;
}
