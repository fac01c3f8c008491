// What is bright, at full size or at half: there each pixel takes 4 x 4, by (1 3 3 1) / 8 along rows and columns.
#include "periscena/fullscreen.glsl"
#include "periscena/bright.glsl"

uniform sampler2D source;

layout(location = 0) out vec4 color;

#ifdef HALVE
vec3 mean_of_each(ivec2 size) {
  ivec2 from = 2 * ivec2(gl_FragCoord.xy) - 1;
  const vec4 weights = vec4(1.0, 3.0, 3.0, 1.0) / 8.0;
  vec3 sum = vec3(0.0);
  for (int y = 0; y < 4; ++y) {
    for (int x = 0; x < 4; ++x) {
      ivec2 at = clamp(from + ivec2(x, y), ivec2(0), size - 1);
      sum += weights[x] * weights[y] * bright_part(texelFetch(source, at, 0).rgb, at);
    }
  }
  return sum;
}
#endif

void main() {
  ivec2 size = textureSize(source, 0);
#if defined(HALVE) && !defined(THRESHOLD)
  // All light is spread: four fetches between pixels give the same mean, unless one of them is no finite number.
  vec2 pixel = 1.0 / vec2(size), middle = 2.0 * gl_FragCoord.xy * pixel, off = 0.75 * pixel;
  vec3 sum = 0.25 * (textureLod(source, middle - off, 0.0).rgb + textureLod(source, middle + vec2(off.x, -off.y), 0.0).rgb +
                     textureLod(source, middle + vec2(-off.x, off.y), 0.0).rgb + textureLod(source, middle + off, 0.0).rgb);
  for (bool rare = !is_usual(sum); rare; rare = false) sum = mean_of_each(size);
  color = vec4(max(sum, 0.0), 1.0);
#elif defined(HALVE)
  color = vec4(mean_of_each(size), 1.0);
#else
  ivec2 at = min(ivec2(gl_FragCoord.xy), size - 1);
  color = vec4(bright_part(texelFetch(source, at, 0).rgb, at), 1.0);
#endif
}
