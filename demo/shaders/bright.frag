// Keeps what is brighter than a threshold, with a soft knee.
#include "periscena/fullscreen.glsl"

uniform sampler2D scene;
uniform float threshold_nits;

layout(location = 0) out vec4 color;

void main() {
  // Sixteen taps in a grid over this pixel's share of the larger picture, so that small lamps do not flicker.
  vec2 texel = 1.0 / frame.resolution;
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 16; ++i) {
    vec2 place = uv + texel * (vec2(i % 4, i / 4) - 1.5) * 0.25;
    vec3 c = min(texture(scene, place).rgb, vec3(30000.0));
    float level = max(c.r, max(c.g, c.b));
    sum += c * smoothstep(threshold_nits, 2.0 * threshold_nits, level);
  }
  color = vec4(sum / 16.0, 1.0);
}
