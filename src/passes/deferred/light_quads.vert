// A quad over the rectangle that a light can reach; an instance each, those without end left out.
#include "periscena/bindings.glsl"

struct LightReach {
  vec4 ball;
  vec4 rect;  // pixels: left, bottom, right, top
  vec4 distances;
};
layout(std430, binding = REACH_STORAGE) readonly buffer LightReaches { LightReach reaches[]; };

uniform vec4 picture = vec4(1.0);  // pixels
uniform int first_light = 0;

layout(location = 0) out vec2 uv;
layout(location = 1) flat out int light_number;

void main() {
  light_number = first_light + gl_InstanceID;
  vec4 rect = reaches[light_number].rect;
  // Two triangles.
  vec2 corner = vec2(gl_VertexID % 3 == 1 || gl_VertexID == 3 ? 1.0 : 0.0, gl_VertexID % 3 == 2 || gl_VertexID == 3 ? 1.0 : 0.0);
  uv = mix(rect.xy, rect.zw, corner) / picture.xy;
  gl_Position = vec4(uv * 2.0 - 1.0, 0.0, 1.0);
}
