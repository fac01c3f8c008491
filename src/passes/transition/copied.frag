// A picture as it is.
#include "periscena/fullscreen.glsl"

uniform sampler2D source;

layout(location = 0) out vec4 color;

void main() { color = texture(source, uv); }
