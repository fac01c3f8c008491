#include "periscena/fullscreen.glsl"
layout(location = 0) out vec4 color;
layout(location = 0) out vec4 glow;
void main() { color = glow = vec4(1.0); }
