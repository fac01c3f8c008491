// Brings the double-size picture down, exposes it, adds the glow, and bends bright light into the range of a screen. The
// target's format encodes to sRGB, so nothing does so here.
#include "periscena/fullscreen.glsl"

uniform sampler2D scene;
uniform sampler2D glow;
uniform float exposure_ev100;
uniform float glow_share;

layout(location = 0) out vec4 color;

// A filmic curve: a soft toe, a straight middle, a long shoulder; white at 6 times middle white.
vec3 film(vec3 x) {
  vec3 a = x * (x * 2.6 + 0.05), b = x * (x * 2.45 + 0.62) + 0.16;
  return clamp(a / b, 0.0, 1.0);
}

void main() {
  // Each sample is exposed and bent on its own, so that the edges of lamps stay smooth.
  float exposure = 1.0 / (1.2 * exp2(exposure_ev100));
  vec2 texel = 1.0 / vec2(textureSize(scene, 0));
  vec3 light = texture(glow, uv).rgb * glow_share;
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 4; ++i) {
    vec2 corner = vec2(i & 1, i >> 1) - 0.5;
    sum += film(exposure * (texture(scene, uv + corner * texel).rgb + light));
  }
  vec2 from_middle = uv - 0.5;
  color = vec4(sum / 4.0 * (1.0 - 0.42 * dot(from_middle, from_middle)), 1.0);
}
