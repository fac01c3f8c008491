// A picture at twice its size: a linear fetch gives (1 3 3 1) / 4. It is blended over what the level below is.
#include "periscena/fullscreen.glsl"

uniform sampler2D source;
uniform float share = 1.0;

layout(location = 0) out vec4 color;

void main() { color = vec4(textureLod(source, 0.5 * gl_FragCoord.xy / vec2(textureSize(source, 0)), 0.0).rgb, share); }
