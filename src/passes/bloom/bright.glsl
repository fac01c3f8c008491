// The part of light that is spread: what is over a threshold, softly; all of it when that is 0.
#include "periscena/finite.glsl"

uniform float threshold = 0.0;  // nits
uniform float knee = 0.0;       // nits: where it begins, below the threshold

// @param light  finite, 0 and more
vec3 bright_of(vec3 light) {
#ifdef THRESHOLD
  float level = max(light.r, max(light.g, light.b));
  float soft = clamp(level - threshold + knee, 0.0, 2.0 * knee);
  light *= max(soft * soft / (4.0 * knee + 1e-6), level - threshold) / max(level, 1e-6);
#endif
  return light;
}

vec3 bright_part(vec3 light, ivec2 at) { return bright_of(max(finite_light(light, at), 0.0)); }
