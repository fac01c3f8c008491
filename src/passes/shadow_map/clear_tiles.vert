// A triangle over each tile, as far from the light as can be.
#include "periscena/shadow_parts.glsl"

void main() {
  gl_Layer = int(shadow_parts[gl_InstanceID].layer);
  gl_ViewportIndex = gl_InstanceID;
  gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0, 0.0, 1.0);
}
