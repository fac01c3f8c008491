// The surface at a pixel, from a geometry buffer.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "periscena/geometry_buffer.glsl"

uniform sampler2D depth;
uniform sampler2D normal;
uniform sampler2D material;
#ifdef READS_POSITION
uniform sampler2D position;
#endif
uniform float background;  // depth where nothing is

vec3 towards_eye(vec3 from) {
  bool perspective = camera.projection[2][3] != 0.0;
  return normalize(perspective ? camera.eye - from : vec3(camera.view[0][2], camera.view[1][2], camera.view[2][2]));
}

// Leaves the pixel as it is where nothing was drawn.
Surface surface_at_pixel(vec3 base_color, vec3 emission, out SurfacePoint point) {
  ivec2 at = ivec2(gl_FragCoord.xy);
  float seen = texelFetch(depth, at, 0).r;
  if (seen == background) discard;
  vec4 normals = texelFetch(normal, at, 0);
  Surface surface = kept_surface(normals, texelFetch(material, at, 0), base_color, emission, point.shadowed);
#ifdef READS_POSITION
  point.position = texelFetch(position, at, 0).xyz;
#else
  point.position = world_position(uv, seen);
#endif
  point.normal = from_octahedral(normals.zw);
  point.tangent = point.bitangent = vec3(0.0);
  point.uv = point.second_uv = vec2(0.0);
  point.color = vec4(1.0);
  point.to_eye = towards_eye(point.position);
  point.time = frame.time;
  return surface;
}
