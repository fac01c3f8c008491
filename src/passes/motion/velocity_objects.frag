// How far something that moves has come, where it is what is seen.
#include "periscena/frame.glsl"
#include "periscena/velocity.glsl"

uniform sampler2D depth;

layout(location = 0) in vec4 now;
layout(location = 1) in vec4 before;
layout(location = 0) out vec2 velocity;

void main() {
  float seen = texture(depth, gl_FragCoord.xy / frame.resolution).r, own = gl_FragCoord.z;
  // Depth may be that of a sample elsewhere in the pixel.
  if (abs(seen - own) > fwidth(own) + 2e-4 * min(own, 1.0 - own)) discard;
  velocity = motion(vec4(now.xy - jitter * now.w, now.zw), before);
}
