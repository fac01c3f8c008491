// Letters from an atlas: where their corners are, and how much of a pixel they cover.
#include "periscena/bindings.glsl"

struct Glyph {
  vec4 place;     // left, top, right, bottom: right and down
  vec4 texels;    // the same on its page
  vec4 ink;       // linear, and alpha
  ivec4 numbers;  // page; 1 for distances; of the text; bits: 1 from the right, 2 from below
};
