// How much of a light gets past what casts shadows.
#include "periscena/bindings.glsl"

struct Shadow {
  mat4 to_map;      // world to the map: texture coordinates and depth
  float texel;      // metres that a texel is wide
};
layout(std430, binding = SHADOW_STORAGE) readonly buffer Shadows { Shadow shadows[]; };

uniform sampler2DShadow shadow_map_1, shadow_map_2, shadow_map_3, shadow_map_4;

float compare_with_map(int number, vec3 place) {
  switch (number) {
    case 1: return textureLod(shadow_map_1, place, 0.0);
    case 2: return textureLod(shadow_map_2, place, 0.0);
    case 3: return textureLod(shadow_map_3, place, 0.0);
    default: return textureLod(shadow_map_4, place, 0.0);
  }
}

// 0 in full shadow, 1 where nothing is in the way. number: of the light's shadow, from 1. normal, to_light: length 1.
//
// The map knows one depth for each texel, and the comparison takes in texels whose middles are up to sqrt(2) texels
// away. On a plane that is tilted by an angle a, depth differs by up to sqrt(2) texels times tan a over that way. Lifted
// by d along the normal, the point comes d / cos a nearer to the light; so d = sqrt(2) texels times sin a is just enough
// to keep a plane from shadowing itself. A tenth of a texel more is for rounding.
float light_past(int number, vec3 position, vec3 normal, vec3 to_light) {
  Shadow shadow = shadows[number - 1];
  float tilt = length(cross(normal, to_light));
  vec3 lifted = position + normal * (shadow.texel * (1.4142136 * tilt + 0.1));
  vec3 place = (shadow.to_map * vec4(lifted, 1.0)).xyz;
  // All casters are in the map's view, so nothing outside it is in shadow.
  if (any(lessThan(place.xy, vec2(0.0))) || any(greaterThan(place.xy, vec2(1.0)))) return 1.0;
  // Behind all casters there are shadows still.
  return compare_with_map(number, vec3(place.xy, max(place.z, 0.0)));
}
