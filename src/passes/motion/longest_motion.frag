// The longest motion of a row's part, of a tile, or of the tiles around; see MotionBlur.
#include "periscena/frame.glsl"
#include "periscena/smear.glsl"

uniform sampler2D from;
uniform int tile = 1;

layout(location = 0) out vec2 longest;

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy), last = textureSize(from, 0) - 1;
  longest = vec2(0.0);
#ifdef AROUND
  for (int y = -1; y <= 1; ++y) {
    for (int x = -1; x <= 1; ++x) {
      vec2 one = texelFetch(from, clamp(at + ivec2(x, y), ivec2(0), last), 0).rg;
      if (dot(one, one) > dot(longest, longest)) longest = one;
    }
  }
#else
  for (int i = 0; i < tile; ++i) {
#ifdef ACROSS
    vec2 one = half_way(texelFetch(from, min(ivec2(at.x * tile + i, at.y), last), 0).rg, vec2(last + 1));
#else
    vec2 one = texelFetch(from, min(ivec2(at.x, at.y * tile + i), last), 0).rg;
#endif
    if (dot(one, one) > dot(longest, longest)) longest = one;
  }
#endif
}
