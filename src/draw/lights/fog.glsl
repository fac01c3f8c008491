// Air between the eye and what it sees; the same as Fog in <periscena/scene/light.h>.
#include "periscena/lighting.glsl"

const int NO_FOG = 0, LINEAR_FOG = 1, EXPONENTIAL_FOG = 2, EXPONENTIAL_SQUARED_FOG = 3;

// Where the pass says which, compilers leave out the others.
#ifndef FOG_KIND
#define FOG_KIND lighting.fog_kind
#endif

float fog_transmittance(vec3 eye, vec3 point) {
  float distance = length(point - eye);
  if (FOG_KIND == NO_FOG) return 1.0;
  if (FOG_KIND == LINEAR_FOG)
    return clamp((lighting.fog_end - distance) / (lighting.fog_end - lighting.fog_start), 0.0, 1.0);
  float density = lighting.fog_density;
  if (FOG_KIND == EXPONENTIAL_SQUARED_FOG) return exp(-(density * distance) * (density * distance));
  // The integral of density * 2^(-(y - base) / half_height) along the way, in closed form.
  float rise = lighting.fog_fall * (point.y - eye.y);
  float mean = abs(rise) < 1e-3 ? 1.0 - rise / 2.0 : (1.0 - exp(-rise)) / rise;
  return exp(-density * exp(-lighting.fog_fall * (eye.y - lighting.fog_base)) * mean * distance);
}

vec3 through_fog(vec3 light, vec3 eye, vec3 point) {
  return FOG_KIND == NO_FOG ? light : mix(lighting.fog_color, light, fog_transmittance(eye, point));
}
