#include "periscena/fullscreen.glsl"
layout(location = 0) out vec4 color;
void main() { color = vec4(1.0); }
