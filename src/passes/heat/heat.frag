// Numbers as colours, from cold to hot, over a grey picture; a strip below shows them from 0 to `most`.
#include "periscena/fullscreen.glsl"

uniform sampler2D amount;
#ifdef READS_UNDER
uniform sampler2D under;
#endif
uniform float most = 16.0;
uniform float strength = 0.8;  // 0..1: how much of the picture below is covered

layout(location = 0) out vec4 color;

// Linear light. Nothing is clear, so that it stands apart from little.
const vec3 ramp[6] = vec3[](vec3(0.02, 0.03, 0.25), vec3(0.0, 0.25, 0.5), vec3(0.0, 0.42, 0.2), vec3(0.75, 0.55, 0.02),
                            vec3(0.85, 0.12, 0.02), vec3(1.0, 0.85, 0.8));

vec3 heat(float share) {
  float at = clamp(share, 0.0, 1.0) * 5.0;
  int band = min(int(at), 4);
  return mix(ramp[band], ramp[band + 1], at - float(band));
}

void main() {
  vec2 size = frame.resolution;
  float strip = max(6.0, size.y / 45.0);
  if (gl_FragCoord.y < strip) {
    color = vec4(heat(uv.x), 1.0);
    return;
  }
  float here = texelFetch(amount, ivec2(gl_FragCoord.xy), 0).r;
  vec3 below = vec3(0.0);
#ifdef READS_UNDER
  below = vec3(dot(textureLod(under, uv, 0.0).rgb, vec3(0.2126, 0.7152, 0.0722)));
#endif
  color = vec4(mix(below, heat(here / most), here > 0.0 ? strength : 0.0), 1.0);
}
