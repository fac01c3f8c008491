// Three pictures side by side, with a line between.
#include "periscena/fullscreen.glsl"

uniform sampler2D first, second, third;

layout(location = 0) out vec4 color;

void main() {
  vec2 place = vec2(fract(uv.x * 3.0), uv.y);
  vec3 shown = uv.x < 1.0 / 3.0 ? texture(first, place).rgb
             : uv.x < 2.0 / 3.0 ? texture(second, place).rgb
                                : texture(third, place).rgb;
  float edge = min(abs(uv.x - 1.0 / 3.0), abs(uv.x - 2.0 / 3.0)) * frame.resolution.x;
  color = vec4(edge < 2.0 ? vec3(0.0) : shown, 1.0);
}
