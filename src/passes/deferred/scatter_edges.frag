// Takes edges that were lit side by side to the samples that show what is lit.
#include "periscena/edge_place.glsl"

uniform usampler2D edges;
uniform sampler2DMS depth;
uniform sampler2D gathered_color;
uniform float background;
uniform vec4 picture = vec4(1.0);  // pixels
uniform int sample_here;

layout(location = 0) out vec4 color;
#ifdef COUNTS_LIGHTS
uniform sampler2D gathered_light_count;
layout(location = 1) out float light_count;
#endif

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  uint entry = texelFetch(edges, at + ivec2(0, sample_here * int(picture.y)), 0).r;
  // The parts of other samples hold something at edges alone.
  if (texelFetch(edges, at, 0).r == 0u || entry == 0u || texelFetch(depth, at, sample_here).r == background) discard;
  ivec2 there = at / 16 * 16 + place_of_edge(edge_number(entry));
  color = texelFetch(gathered_color, there, 0);
#ifdef COUNTS_LIGHTS
  light_count = texelFetch(gathered_light_count, there, 0).r;
#endif
  gl_SampleMask[0] = edge_samples(entry);
}
