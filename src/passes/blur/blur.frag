// A Gaussian along rows or columns: a fetch on both sides for each tap.
#include "periscena/fullscreen.glsl"
#include "periscena/contained.glsl"

uniform sampler2D source;
uniform sampler2D taps;  // offset, pixels; weight
uniform int tap_count = 1;
uniform vec2 along = vec2(1.0, 0.0);  // pixels

layout(location = 0) out vec4 color;

vec4 taken(vec2 place) {
  vec4 here = texture(source, place);
#ifdef FIRST
  // What is no number would take its neighbours with it.
  here = contained(here);
#endif
  return here;
}

void main() {
  vec2 pixel = along / frame.resolution;
  vec4 sum = texelFetch(taps, ivec2(0), 0).g * taken(uv);
  for (int i = 1; i < tap_count; ++i) {
    vec2 tap = texelFetch(taps, ivec2(i, 0), 0).rg;
    sum += tap.g * (taken(uv + tap.r * pixel) + taken(uv - tap.r * pixel));
  }
  color = sum;
}
