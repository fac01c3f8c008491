// What is bright, at full size or at half: there each pixel takes 4 x 4, by (1 3 3 1) / 8 along rows and columns.
#include "periscena/fullscreen.glsl"
#include "periscena/bright.glsl"

uniform sampler2D source;

layout(location = 0) out vec4 color;

void main() {
  ivec2 size = textureSize(source, 0);
#ifdef HALVE
  ivec2 from = 2 * ivec2(gl_FragCoord.xy) - 1;
  const vec4 weights = vec4(1.0, 3.0, 3.0, 1.0) / 8.0;
  vec3 sum = vec3(0.0);
  for (int y = 0; y < 4; ++y) {
    for (int x = 0; x < 4; ++x) {
      ivec2 at = clamp(from + ivec2(x, y), ivec2(0), size - 1);
      sum += weights[x] * weights[y] * bright_part(texelFetch(source, at, 0).rgb, at);
    }
  }
  color = vec4(sum, 1.0);
#else
  ivec2 at = min(ivec2(gl_FragCoord.xy), size - 1);
  color = vec4(bright_part(texelFetch(source, at, 0).rgb, at), 1.0);
#endif
}
