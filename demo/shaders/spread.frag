// A Gaussian along one direction, with a wide and a narrow part.
#include "periscena/fullscreen.glsl"

uniform sampler2D source;
uniform vec2 direction;  // (1, 0) or (0, 1)

layout(location = 0) out vec4 color;

void main() {
  vec2 texel = direction / frame.resolution;
  float height = frame.resolution.y / 180.0;  // the same look at every size
  vec3 sum = vec3(0.0);
  float weights = 0.0;
  for (int i = -20; i <= 20; ++i) {
    float at = float(i) * height;
    float weight = exp(-0.5 * float(i * i) / 6.0) + 0.2 * exp(-0.5 * float(i * i) / 64.0);
    sum += weight * texture(source, uv + texel * at).rgb;
    weights += weight;
  }
  color = vec4(sum / weights, 1.0);
}
