// Lines of markers: six vertices for each, made into a strip as wide as the line and a pixel more on each side.
#include "periscena/frame.glsl"
#include "periscena/camera.glsl"

struct Line {
  vec4 from, to;  // world
  vec4 aside;     // pixels
  vec4 color;
};
layout(std430, binding = MARKER_STORAGE) readonly buffer Lines { Line lines[]; };

uniform float width;  // pixels

layout(location = 0) flat out vec4 line_color;
layout(location = 1) noperspective out float across;  // pixels from the middle

// The part of a line before the eye; what lies behind it has no place on the picture.
vec4 cut(vec4 point, vec4 other, float nearest) {
  return point.w >= nearest ? point : mix(point, other, (nearest - point.w) / (other.w - point.w));
}

void main() {
  Line line = lines[gl_VertexID / 6];
  int corner = gl_VertexID % 6;
  vec4 from = camera.view_projection * vec4(line.from.xyz, 1.0), to = camera.view_projection * vec4(line.to.xyz, 1.0);
  float nearest = camera.projection[2][3] != 0.0 ? camera.near : 0.0;
  line_color = line.color;
  across = 0.0;
  gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
  if (from.w < nearest && to.w < nearest) return;
  vec4 a = cut(from, to, nearest), b = cut(to, from, nearest);
  vec2 pixels = 0.5 * frame.resolution;
  vec2 at_a = a.xy / a.w * pixels + line.aside.xy, at_b = b.xy / b.w * pixels + line.aside.zw;
  vec2 along = at_b - at_a;
  float length_on_picture = length(along);
  along = length_on_picture > 0.001 ? along / length_on_picture : vec2(1.0, 0.0);
  bool second = corner == 1 || corner == 2 || corner == 4;
  float side = corner == 2 || corner == 4 || corner == 5 ? 1.0 : -1.0;
  across = side * (0.5 * width + 1.0);
  vec4 end = second ? b : a;
  vec2 at = (second ? at_b : at_a) + vec2(-along.y, along.x) * across;
  gl_Position = vec4(at / pixels * end.w, end.z, end.w);
}
