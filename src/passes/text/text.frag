// A letter over a picture.
#include "periscena/glyph_coverage.glsl"

layout(location = 0) out vec4 color;

void main() {
  float alpha = ink.a * glyph_coverage();
  color = vec4(ink.rgb * alpha, alpha);
}
