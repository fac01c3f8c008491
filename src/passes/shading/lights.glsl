// The lights of a pass and what gets past its shadows, for every program alike.
#include "periscena/lighting.glsl"
#ifdef SHADOWS
#include "periscena/shadow_lookup.glsl"
#endif

// What shadows leave of a light, 0..1. normal: of the surface at `position`, length 1, or 0 for a point in the air;
// to_light: length 1.
float share_past_shadows(int number, vec3 position, vec3 normal, vec3 to_light) {
#ifdef SHADOWS
  int shadow = int(lights[number].direction.w);
  if (shadow != 0) return light_past(shadow, position, normal, to_light);
#endif
  return 1.0;
}

// lux that get from a light, 0 to lighting.light_count - 1, to what faces it at `position`.
vec3 light_reaching(int number, vec3 position, vec3 normal, out vec3 to_light) {
  vec3 lux = light_at(lights[number], position, to_light);
  return lux == vec3(0.0) ? lux : lux * share_past_shadows(number, position, normal, to_light);
}
