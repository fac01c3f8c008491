#include "periscena/fullscreen.glsl"
#include "nosie.glsl"

out vec4 color;

void main() { color = vec4(1.0); }
