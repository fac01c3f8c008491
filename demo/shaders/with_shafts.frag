// A lit picture and the light that air scatters, smoothed over the grain of its steps.
#include "periscena/fullscreen.glsl"

uniform sampler2D light;
uniform sampler2D shafts;

out vec4 color;

void main() {
  vec2 texel = 1.0 / vec2(textureSize(shafts, 0));
  vec3 air = vec3(0.0);
  for (int y = -2; y <= 2; ++y) {
    for (int x = -2; x <= 2; ++x) air += texture(shafts, uv + texel * vec2(x, y)).rgb;
  }
  color = vec4(texture(light, uv).rgb + air / 25.0, 1.0);
}
