// Three small pictures side by side, each pixel as a square.
#include "periscena/fullscreen.glsl"

uniform sampler2D one;
uniform sampler2D two;
uniform sampler2D four;

layout(location = 0) out vec4 color;

void main() {
  float third = uv.x * 3.0;
  ivec2 pixel = ivec2(vec2(fract(third), uv.y) * vec2(textureSize(one, 0)));
  vec3 shown = third < 1.0   ? texelFetch(one, pixel, 0).rgb
               : third < 2.0 ? texelFetch(two, pixel, 0).rgb
                             : texelFetch(four, pixel, 0).rgb;
  float border = min(abs(third - 1.0), abs(third - 2.0)) * frame.resolution.x / 3.0;
  color = vec4(border < 2.0 ? vec3(0.0) : shown, 1.0);
}
