// Light that is no finite number ends here: it is counted, and taken for black (not a number) or for the brightest that a half
// holds (endless).
#include "periscena/bindings.glsl"

layout(std430, binding = FINITE_STORAGE) buffer FiniteCounts {
  uint strange_pixels;
  uint strange_x, strange_y;  // of one of them, from the lower left
};

const float brightest = 65504.0;

vec3 finite_light(vec3 light, ivec2 at) {
  bvec3 nothing = isnan(light);
  bool strange = any(nothing) || any(isinf(light));
  // A loop, as software drivers would go through a branch whether it is taken or not.
  for (; strange; strange = false) {
    if (atomicAdd(strange_pixels, 1u) == 0u) {
      strange_x = uint(at.x);
      strange_y = uint(at.y);
    }
  }
  return mix(clamp(light, -brightest, brightest), vec3(0.0), nothing);
}
