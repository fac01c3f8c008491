// Takes edges that were lit side by side to the samples that show what is lit.
#include "periscena/edge_place.glsl"

uniform usampler2DArray edges;
uniform sampler2DMS depth;
uniform sampler2D gathered_color;
uniform float background;
uniform int sample_here;

layout(location = 0) out vec4 color;
#ifdef COUNTS_LIGHTS
uniform sampler2D gathered_light_count;
layout(location = 1) out float light_count;
#endif

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  uint entry = texelFetch(edges, ivec3(at, sample_here), 0).r;
  // The layers of other samples hold something at edges alone.
  if (texelFetch(edges, ivec3(at, 0), 0).r == 0u || entry == 0u || texelFetch(depth, at, sample_here).r == background) discard;
  ivec2 there = at / 16 * 16 + place_of_edge(edge_number(entry));
  color = texelFetch(gathered_color, there, 0);
#ifdef COUNTS_LIGHTS
  light_count = texelFetch(gathered_light_count, there, 0).r;
#endif
  gl_SampleMask[0] = edge_samples(entry);
}
