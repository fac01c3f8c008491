// Exposes light, and bends it into the range of a screen. The target's format encodes to sRGB, so nothing does so here.
#include "periscena/finite.glsl"
#define CURVE $CURVE
#include "periscena/tone_curves.glsl"

#ifdef $READS_EXPOSURE
uniform sampler2D $exposure;  // EV100, of a meter
uniform float $compensation;
float $exposed() { return exp2($compensation - texelFetch($exposure, ivec2(0), 0).r) / 1.2; }
#else
uniform float $factor;  // see exposure_factor
float $exposed() { return $factor; }
#endif
uniform float $white;

#ifdef $DITHER
// Noise of two steps of eight bits, highest in the middle, so that what is rounded is right on average and does not differ by
// brightness; none at black and white, which stay as they are.
vec3 $shown(vec3 light) {
  vec3 encoded = encoded_of(light) * 255.0;
  vec3 noise = random_at(uvec3(gl_FragCoord.xy, 1u)) + random_at(uvec3(gl_FragCoord.xy, 2u)) - 1.0;
  encoded += noise * clamp(min(encoded, 255.0 - encoded), 0.0, 1.0);
  return light_of(clamp(encoded / 255.0, 0.0, 1.0));
}
#else
vec3 $shown(vec3 light) { return light; }
#endif

vec3 $bent(vec3 light) {
  return tone_curve(max(finite_light(light, ivec2(gl_FragCoord.xy)), 0.0) * $exposed(), $white);
}

#ifdef $EACH_SAMPLE
// Each sample as the screen will show it: where bright light meets dark, the mean of light would be as bright as light.
vec4 $step(sampler2DMS from) {
  vec4 sum = vec4(0.0);
  int count = textureSamples(from);
  for (int i = 0; i < count; ++i) {
    vec4 light = texelFetch(from, ivec2(gl_FragCoord.xy), i);
    sum += vec4($bent(light.rgb), light.a) / float(count);
  }
  return vec4($shown(sum.rgb), sum.a);
}
#else
vec4 $step(vec4 light) { return vec4($shown($bent(light.rgb)), light.a); }
#endif
