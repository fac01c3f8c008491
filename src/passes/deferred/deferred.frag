// Lights each pixel of a geometry buffer once, through fog. Where nothing was drawn, what is there stays.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "periscena/fog.glsl"
#include "periscena/geometry_buffer.glsl"
#include "periscena/lit.glsl"

uniform sampler2D depth;
uniform sampler2D normal;
uniform sampler2D base_color;
uniform sampler2D material;
#ifdef READS_EMISSION
uniform sampler2D emission;
#endif
#ifdef READS_POSITION
uniform sampler2D position;
#endif
uniform float background;  // depth where nothing is

layout(location = 0) out vec4 color;

vec3 towards_eye(vec3 from) {
  bool perspective = camera.projection[2][3] != 0.0;
  return normalize(perspective ? camera.eye - from : vec3(camera.view[0][2], camera.view[1][2], camera.view[2][2]));
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  float seen = texelFetch(depth, at, 0).r;
  if (seen == background) discard;
  vec3 light_of_its_own = vec3(0.0);
#ifdef READS_EMISSION
  light_of_its_own = texelFetch(emission, at, 0).rgb;
#endif
  vec4 normals = texelFetch(normal, at, 0);
  SurfacePoint point;
  Surface surface = kept_surface(normals, texelFetch(material, at, 0), texelFetch(base_color, at, 0).rgb, light_of_its_own, point.shadowed);
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
#ifdef ONE_LIGHT
  // Added to what the others gave.
  if (surface.shading == UNLIT) discard;
  color = vec4(fog_transmittance(camera.eye, point.position) * light_from_lights(surface, point), 0.0);
#else
  color = vec4(through_fog(shade(surface, point), camera.eye, point.position), 1.0);
#endif
}
