// The ways of a transition, see TransitionWay.
#ifdef DISPLACE
#define OWN_MAIN
#endif
#include "periscena/transition.glsl"

#ifdef READS_BY
uniform sampler2D by;
#endif
uniform vec2 along = vec2(1.0, 0.0);  // where the edge moves to, so long that the picture is 1 wide
uniform float softness = 0.1;
uniform float strength = 0.1;
uniform int cell = 4;

// An edge that begins outside and ends outside, at a place of 0..1.
float past_edge(float place, float at) {
  float soft = max(softness, 1e-4);
  return clamp((at * (1.0 + soft) - place) / soft, 0.0, 1.0);
}

float second_share(vec2 place, float at) {
#if defined(WIPE)
  return past_edge(dot(place - 0.5, along) + 0.5, at);
#elif defined(DISSOLVE) && defined(READS_BY)
  return past_edge(texture(by, place).r, at);
#elif defined(DISSOLVE)
  return past_edge(random_at(uvec3(uvec2(place * frame.resolution) / uint(cell), 0u)).x, at);
#else
  return at;
#endif
}

#ifdef DISPLACE
void main() {
  vec2 push = (texture(by, uv).rg * 2.0 - 1.0) * strength;
  color = mix(texture(from, uv + push * progress), texture(to, uv - push * (1.0 - progress)), progress);
}
#endif
