// One triangle that covers the picture: corners at (-1,-1), (3,-1), (-1,3).
#ifndef FILL_DEPTH
#define FILL_DEPTH 0.0  // the far end of reversed depth
#endif

layout(location = 0) out vec2 uv;

void main() {
  vec2 corner = vec2(gl_VertexID == 1 ? 2.0 : 0.0, gl_VertexID == 2 ? 2.0 : 0.0);
  uv = corner;
  gl_Position = vec4(corner * 2.0 - 1.0, FILL_DEPTH, 1.0);
}
