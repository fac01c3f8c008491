// How far something that moves has come, where it is what is seen.
#include "periscena/frame.glsl"
#include "periscena/velocity.glsl"

uniform sampler2D depth;
uniform bool samples = false;  // is it that of a sample?
uniform float grain = 0.0;     // of its format

layout(location = 0) in vec4 now;
layout(location = 1) in vec4 before;
layout(location = 0) out vec2 velocity;

void main() {
  float seen = texture(depth, gl_FragCoord.xy / frame.resolution).r, own = gl_FragCoord.z;
  // Of several samples, it is that of one elsewhere in the pixel.
  float room = min(own, 1.0 - own), slope = samples ? min(fwidth(own), 0.02 * room) : 0.0;
  if (abs(seen - own) > slope + 4e-6 * room + grain) discard;
  velocity = motion(vec4(now.xy - jitter * now.w, now.zw), before);
}
