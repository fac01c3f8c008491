// One triangle that covers the picture: corners at (-1,-1), (3,-1), (-1,3).
layout(location = 0) out vec2 uv;

void main() {
  vec2 corner = vec2(gl_VertexID == 1 ? 2.0 : 0.0, gl_VertexID == 2 ? 2.0 : 0.0);
  uv = corner;
  gl_Position = vec4(corner * 2.0 - 1.0, 0.0, 1.0);
}
