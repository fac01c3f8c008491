// One picture becomes another. GLSL of your own includes this, and says how much of the second there is at a place:
//
//     #include "periscena/transition.glsl"
//     float second_share(vec2 place, float progress) { return step(distance(place, vec2(0.5)), progress * 0.71); }
//
// `place` is 0..1 from the lower left. At progress 0 and 1 it is not asked.
#include "periscena/fullscreen.glsl"
#include "periscena/encode.glsl"

uniform sampler2D from, to;
uniform float progress;  // more than 0 and less than 1

layout(location = 0) out vec4 color;

float second_share(vec2 place, float progress);

#ifndef OWN_MAIN
void main() { color = mix(texture(from, uv), texture(to, uv), clamp(second_share(uv, progress), 0.0, 1.0)); }
#endif
