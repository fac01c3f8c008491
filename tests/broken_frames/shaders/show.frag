#include "periscena/fullscreen.glsl"
uniform sampler2D scene;
layout(location = 0) out vec4 color;
void main() { color = texture(scene, uv); }
