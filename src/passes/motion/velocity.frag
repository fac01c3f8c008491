// How far the view's own motion has moved what is seen at a pixel.
#include "periscena/fullscreen.glsl"
#include "periscena/velocity.glsl"

uniform sampler2D depth;
uniform mat4 to_before = mat4(1.0);  // from clip space to what it was

layout(location = 0) out vec2 velocity;

void main() {
  vec2 now = uv * 2.0 - 1.0 - jitter;
  velocity = motion(vec4(now, 0.0, 1.0), to_before * vec4(now, texture(depth, uv).r, 1.0));
}
