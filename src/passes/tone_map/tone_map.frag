// Exposes light, and bends it into the range of a screen. The target's format encodes to sRGB, so nothing does so here.
#include "periscena/fullscreen.glsl"
#include "periscena/finite.glsl"
#include "periscena/encode.glsl"
#include "periscena/tone_curves.glsl"

#ifdef EACH_SAMPLE
uniform sampler2DMS light;
#else
uniform sampler2D light;
#endif
#ifdef READS_EXPOSURE
uniform sampler2D exposure;  // EV100, of a meter
uniform float compensation;
#else
uniform float factor;  // see exposure_factor
#endif
uniform float white = 1.0;

layout(location = 0) out vec4 color;

#ifdef DITHER
// Noise of two steps of eight bits, highest in the middle, so that what is rounded is right on average and does not differ by
// brightness; none at black and white, which stay as they are.
vec3 dithered(vec3 light) {
  vec3 encoded = encoded_of(light) * 255.0;
  vec3 noise = random_at(uvec3(gl_FragCoord.xy, 1u)) + random_at(uvec3(gl_FragCoord.xy, 2u)) - 1.0;
  encoded += noise * clamp(min(encoded, 255.0 - encoded), 0.0, 1.0);
  return light_of(clamp(encoded / 255.0, 0.0, 1.0));
}
#endif

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
#ifdef READS_EXPOSURE
  float factor = exp2(compensation - texelFetch(exposure, ivec2(0), 0).r) / 1.2;
#endif
#ifdef EACH_SAMPLE
  // Each sample as the screen will show it: where bright light meets dark, the mean of light would be as bright as light.
  color = vec4(0.0);
  int count = textureSamples(light);
  for (int i = 0; i < count; ++i) {
    vec4 from = texelFetch(light, at, i);
    color += vec4(tone_curve(max(finite_light(from.rgb, at), 0.0) * factor, white), from.a) / float(count);
  }
#else
  vec4 from = texture(light, uv);
  color = vec4(tone_curve(max(finite_light(from.rgb, at), 0.0) * factor, white), from.a);
#endif
#ifdef DITHER
  color.rgb = dithered(color.rgb);
#endif
}
