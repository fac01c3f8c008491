// The sky behind everything.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "dusk.glsl"

layout(location = 0) out vec4 color;

void main() { color = vec4(dusk_sky(camera_ray(uv), frame.time), 1.0); }
