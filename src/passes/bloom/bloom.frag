// Light with a share of what is bright spread around.
#include "periscena/fullscreen.glsl"
#include "periscena/bright.glsl"
#include "periscena/contained.glsl"

uniform sampler2D light;
#ifdef READS_BRIGHT
uniform sampler2D bright;
#endif
uniform sampler2D spread_light;
uniform float spread_scale = 1.0;  // pixels of it for one of the light
uniform float strength;

layout(location = 0) out vec4 color;
#ifdef WRITES_GLOW
layout(location = 1) out vec4 glow;
#endif

vec4 with_glow() {
  vec2 place = uv * vec2(textureSize(light, 0));
  ivec2 at = ivec2(place);
  vec4 here = texelFetch(light, at, 0);
#ifdef READS_BRIGHT
  vec3 finite = max(finite_light(here.rgb, at), 0.0);
  vec3 taken = bright_part(texelFetch(bright, at, 0).rgb, at);
#else
  vec3 finite = max(contained(here.rgb), 0.0);  // what was bright has been counted
  vec3 taken = bright_of(finite);
#endif
  vec3 around = textureLod(spread_light, place * spread_scale / vec2(textureSize(spread_light, 0)), 0.0).rgb;
#ifdef WRITES_GLOW
  glow = vec4(around, 1.0);
#endif
  return vec4(finite + strength * (around - taken), here.a);
}

#ifndef FILTERS_AFTER
void main() { color = with_glow(); }
#endif
