// Places letters in pixels: six vertices for each.
#include "periscena/frame.glsl"
#include "periscena/glyphs.glsl"

layout(std430, binding = GLYPH_STORAGE) readonly buffer Glyphs { Glyph glyphs[]; };

layout(location = 0) out vec2 texel;
layout(location = 1) flat out vec4 ink;
layout(location = 2) flat out vec2 page;

void main() {
  Glyph glyph = glyphs[gl_VertexID / 6];
  const vec2 corners[6] = vec2[](vec2(0, 0), vec2(0, 1), vec2(1, 1), vec2(0, 0), vec2(1, 1), vec2(1, 0));
  vec2 corner = corners[gl_VertexID % 6];
  vec2 at = mix(glyph.place.xy, glyph.place.zw, corner);
  if ((glyph.numbers.w & 1) != 0) at.x += frame.size.x;
  if ((glyph.numbers.w & 2) != 0) at.y += frame.size.y;
  gl_Position = vec4(at / frame.size * vec2(2.0, -2.0) + vec2(-1.0, 1.0), 0.0, 1.0);
  texel = mix(glyph.texels.xy, glyph.texels.zw, corner);
  ink = glyph.ink;
  page = vec2(glyph.numbers.xy);
}
