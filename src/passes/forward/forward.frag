// A surface, lit as it is drawn, through fog.
#include "periscena/camera.glsl"
#include "periscena/fog.glsl"
#include "periscena/frame.glsl"
#include "periscena/lit.glsl"

layout(location = 0) in vec3 world_position_in;
layout(location = 1) in vec3 world_normal;
layout(location = 2) in vec4 world_tangent;
layout(location = 3) in vec4 uvs;
layout(location = 4) in vec4 mesh_color;
layout(location = 5) flat in uint material_number;

// What materials show: targets that the pass reads. A pass that reads none leaves its bits at 0.
uniform sampler2D picture_1, picture_2, picture_3, picture_4;
uniform int pictures = 0;

layout(location = 0) out vec4 color;

#ifdef OWN_SURFACE
// Of the material's own file: changes what the material says at a point.
void surface(SurfacePoint point, inout Surface surface);
#endif

vec3 picture_light(int numbered) {
  int picture = abs(numbered);
  if (picture == 0 || (pictures & (1 << (picture - 1))) == 0) return vec3(0.0);
  vec2 place = 0.5 + vec2(numbered < 0 ? -uvs.x : uvs.x, -uvs.y);
  switch (picture) {
    case 1: return textureLod(picture_1, place, 0.0).rgb;
    case 2: return textureLod(picture_2, place, 0.0).rgb;
    case 3: return textureLod(picture_3, place, 0.0).rgb;
    default: return textureLod(picture_4, place, 0.0).rgb;
  }
}

vec3 towards_eye() {
  bool perspective = camera.projection[2][3] != 0.0;
  return normalize(perspective ? camera.eye - world_position_in : vec3(camera.view[0][2], camera.view[1][2], camera.view[2][2]));
}

SurfacePoint surface_point() {
  SurfacePoint point;
  point.position = world_position_in;
  float side = gl_FrontFacing ? 1.0 : -1.0;
  point.normal = normalize(world_normal) * side;
  // Square to the normal, whatever interpolation and shear made of it.
  vec3 along = world_tangent.xyz - point.normal * dot(point.normal, world_tangent.xyz);
  float extent = dot(along, along);
  point.tangent = extent > 0.0 ? along * inversesqrt(extent) : vec3(0.0);
  point.bitangent = cross(point.normal, point.tangent) * (world_tangent.w * side);
  point.uv = uvs.xy;
  point.second_uv = uvs.zw;
  point.color = mesh_color;
  point.to_eye = towards_eye();
  point.time = frame.time;
  return point;
}

void main() {
  Material material = materials[material_number];
  bool has_normal = dot(world_normal, world_normal) > 0.0;  // lines and points may have none: they are not lit
  SurfacePoint point = surface_point();
  if (!has_normal) point.normal = point.tangent = point.bitangent = vec3(0.0);
  Surface found = read_surface(material, point);
  if (!has_normal) found.shading = UNLIT;
#ifdef OWN_SURFACE
  surface(point, found);
#endif
  if (found.alpha < material.emission.w) discard;
  vec3 light = shade(found, point) + picture_light(material.numbers.y);
  light = through_fog(light, camera.eye, point.position);
  float alpha = material.numbers.z != 0 ? found.alpha : 1.0;
  color = vec4(light * alpha, alpha);
}
