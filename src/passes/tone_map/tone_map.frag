// Exposes light, and bends it into the range of a screen. The target's format encodes to sRGB, so nothing does so here.
#include "periscena/fullscreen.glsl"

#ifdef EACH_SAMPLE
uniform sampler2DMS light;
#else
uniform sampler2D light;
#endif
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
#ifdef EACH_SAMPLE
  // Each sample as the screen will show it: where bright light meets dark, the mean of light would be as bright as light.
  color = vec4(0.0);
  int count = textureSamples(light);
  for (int i = 0; i < count; ++i) {
    vec4 from = texelFetch(light, ivec2(gl_FragCoord.xy), i);
    color += vec4(tone_curve(max(from.rgb, 0.0) * exposure), from.a) / float(count);
  }
#else
  vec4 from = texture(light, uv);
  color = vec4(tone_curve(max(from.rgb, 0.0) * exposure), from.a);
#endif
}
