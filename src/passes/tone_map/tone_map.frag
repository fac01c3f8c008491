// Exposes light, and bends it into the range of a screen. The target's format encodes to sRGB, so nothing does so here.
#include "periscena/fullscreen.glsl"

uniform sampler2D light;
uniform float exposure;  // see exposure_factor
uniform int curve;
uniform float white;

layout(location = 0) out vec4 color;

const int CLIP = 0, REINHARD = 1, FILM = 2;

vec3 tone_curve(vec3 x) {
  if (curve == REINHARD) return clamp(x * (1.0 + x / (white * white)) / (1.0 + x), 0.0, 1.0);
  if (curve == FILM) return clamp(x * (2.6 * x + 0.05) / (x * (2.45 * x + 0.62) + 0.16), 0.0, 1.0);
  return clamp(x, 0.0, 1.0);
}

void main() {
  vec4 from = texture(light, uv);
  color = vec4(tone_curve(max(from.rgb, 0.0) * exposure), from.a);
}
