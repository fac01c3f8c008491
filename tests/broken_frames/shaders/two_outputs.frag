#include "periscena/fullscreen.glsl"
layout(location = 0) out vec4 color;
layout(location = 1) out uint id;
void main() {
  color = vec4(uv, 0.0, 1.0);
  id = 1u;
}
