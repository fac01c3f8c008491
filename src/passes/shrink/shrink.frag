// A larger picture, by a filter as wide as pixels are here.
#include "periscena/fullscreen.glsl"
#include "periscena/contained.glsl"

uniform sampler2D from;

layout(location = 0) out vec4 color;

#define BOX 0
#define TENT 1
#define MITCHELL 2
#define LANCZOS 3

float weight_of(float distance_) {
  float x = abs(distance_);
#if FILTER == BOX
  return x <= 0.5 ? 1.0 : 0.0;
#elif FILTER == TENT
  return max(1.0 - x, 0.0);
#elif FILTER == MITCHELL
  return x < 1.0 ? (7.0 * x * x * x - 12.0 * x * x + 16.0 / 3.0) / 6.0 : x < 2.0 ? (-7.0 / 3.0 * x * x * x + 12.0 * x * x - 20.0 * x + 32.0 / 3.0) / 6.0 : 0.0;
#else
  float a = 3.14159265 * x, b = 0.5 * a;
  return x < 1e-4 ? 1.0 : x < 2.0 ? sin(a) * sin(b) / (a * b) : 0.0;
#endif
}

void main() {
  ivec2 size = textureSize(from, 0);
  vec2 scale = vec2(size) / frame.resolution, middle = gl_FragCoord.xy * scale, wide = WIDE * max(scale, 1.0);
  ivec2 first = ivec2(floor(middle - wide)), last = ivec2(ceil(middle + wide)) - 1;
  vec4 sum = vec4(0.0);
  float weights = 0.0;
  for (int y = first.y; y <= last.y; ++y) {
    float row = weight_of((float(y) + 0.5 - middle.y) / max(scale.y, 1.0));
    for (int x = first.x; x <= last.x; ++x) {
      float weight = row * weight_of((float(x) + 0.5 - middle.x) / max(scale.x, 1.0));
      vec4 here = texelFetch(from, clamp(ivec2(x, y), ivec2(0), size - 1), 0);
      sum += weight * contained(here);
      weights += weight;
    }
  }
  // Filters with rims go below black.
  color = max(sum / weights, 0.0);
}
