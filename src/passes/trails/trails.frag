// What was seen before, faded, and what is seen now.
#include "periscena/fullscreen.glsl"
#include "periscena/contained.glsl"

uniform sampler2D from;
uniform sampler2D last;
uniform float keep = 0.0;  // 0..1: share of what was before

layout(location = 0) out vec4 color;

void main() {
  vec4 now = texture(from, uv), before = texelFetch(last, ivec2(gl_FragCoord.xy), 0);
  // What is no number would stay for good.
  now = contained(now);
#ifdef BRIGHTER
  color = vec4(max(now.rgb, keep * before.rgb), max(now.a, keep * before.a));
#else
  color = mix(now, before, keep);
#endif
}
