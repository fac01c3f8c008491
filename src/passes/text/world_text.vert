// Places letters on surfaces: six vertices for each.
#include "periscena/camera.glsl"
#include "periscena/glyphs.glsl"
#include "periscena/objects.glsl"

layout(std430, binding = GLYPH_STORAGE) readonly buffer Glyphs { Glyph glyphs[]; };

struct TextPlane {
  vec4 origin;    // metres; w: number of the object that it follows, -1 for none
  vec4 right;     // length 1
  vec4 down;      // length 1
};
layout(std430, binding = TEXT_PLANE_STORAGE) readonly buffer TextPlanes { TextPlane planes[]; };

layout(location = 0) out vec2 texel;
layout(location = 1) flat out vec4 ink;
layout(location = 2) flat out vec2 page;
layout(location = 3) out vec3 position;
layout(location = 4) flat out vec3 normal;

void main() {
  Glyph glyph = glyphs[gl_VertexID / 6];
  TextPlane plane = planes[glyph.numbers.z];
  const vec2 corners[6] = vec2[](vec2(0, 0), vec2(0, 1), vec2(1, 1), vec2(0, 0), vec2(1, 1), vec2(1, 0));
  vec2 corner = corners[gl_VertexID % 6];
  vec2 at = mix(glyph.place.xy, glyph.place.zw, corner);
  int node = int(plane.origin.w);
  position = plane.origin.xyz + plane.right.xyz * at.x + plane.down.xyz * at.y;
  mat3 linear = mat3(1.0);
  if (node >= 0) {
    linear = linear_part(uint(node));
    position = to_world(uint(node), position);
  }
  normal = normalize(cross(linear * plane.down.xyz, linear * plane.right.xyz));
  // Off the surface by more than rounding can be: floats far from the origin are coarse.
  vec3 farthest = max(abs(position), abs(camera.eye));
  vec3 lifted = position + normal * (max(farthest.x, max(farthest.y, farthest.z)) * 5e-7);
  gl_Position = camera.view_projection * vec4(lifted, 1.0);
  texel = mix(glyph.texels.xy, glyph.texels.zw, corner);
  ink = glyph.ink;
  page = vec2(glyph.numbers.xy);
}
