// A picture at half its size, by (1 3 3 1) / 8 along rows and columns: four linear fetches.
#include "periscena/fullscreen.glsl"

uniform sampler2D source;

layout(location = 0) out vec4 color;

void main() {
  // Counted in its own pixels, as an odd size is not halved exactly.
  vec2 pixel = 1.0 / vec2(textureSize(source, 0)), middle = 2.0 * gl_FragCoord.xy * pixel, off = 0.75 * pixel;
  vec3 sum = textureLod(source, middle - off, 0.0).rgb + textureLod(source, middle + vec2(off.x, -off.y), 0.0).rgb +
             textureLod(source, middle + vec2(-off.x, off.y), 0.0).rgb + textureLod(source, middle + off, 0.0).rgb;
  color = vec4(0.25 * sum, 1.0);
}
