// What the fragment programs of objects know of the surface that they are on.
#include "periscena/camera.glsl"
#include "periscena/frame.glsl"
#include "periscena/read_surface.glsl"

layout(location = 2) in vec4 world_tangent;
layout(location = 3) in vec4 uvs;
#ifdef MESH_COLORS
layout(location = 4) in vec4 mesh_color;
#endif
layout(location = 5) flat in uint material_number;

#ifdef OWN_SURFACE
// Of the material's own file: changes what the material says at a point.
void surface(SurfacePoint point, inout Surface surface);
#endif

// Of the triangle that the point is on, by how positions change from pixel to pixel; as far as they tell: near the eye and far from
// the origin they are too coarse, and lines have none.
vec3 plane_normal(vec3 normal, vec3 to_eye) {
  vec3 place = place_and_roughness.xyz, across = dFdx(place), up = dFdy(place), square = cross(across, up);
  float wide = dot(across, across), high = dot(up, up), coarse = 3e-5 * (abs(place.x) + abs(place.y) + abs(place.z));
  if (!(min(wide, high) > coarse * coarse && dot(square, square) > 1e-4 * wide * high)) return normal;
  return normalize(dot(square, to_eye) < 0.0 ? -square : square);
}

SurfacePoint surface_point() {
  SurfacePoint point;
  point.position = place_and_roughness.xyz;
  float side = gl_FrontFacing ? 1.0 : -1.0;
  point.normal = normalize(normal_and_metalness.xyz) * side;
  // Square to the normal, whatever interpolation and shear made of it.
  vec3 along = world_tangent.xyz - point.normal * dot(point.normal, world_tangent.xyz);
  float extent = dot(along, along);
  point.tangent = extent > 0.0 ? along * inversesqrt(extent) : vec3(0.0);
  point.bitangent = cross(point.normal, point.tangent) * (world_tangent.w * side);
  point.uv = uvs.xy;
  point.second_uv = uvs.zw;
#ifdef MESH_COLORS
  point.color = mesh_color;
#else
  point.color = vec4(1.0);
#endif
  point.to_eye = normalize(way_to_eye(point.position));
  point.plane = plane_normal(point.normal, point.to_eye);
  point.time = frame.time;
  point.shadowed = is_receiver(material_number);
  return point;
}

Surface surface_here(out MaterialHere material, out SurfacePoint point) {
  uint number = number_of(material_number);
  material = material_at(number);
  point = surface_point();
#ifdef BARE
  bool has_normal = dot(normal_and_metalness.xyz, normal_and_metalness.xyz) > 0.0;  // lines and points may have none: they are not lit
  if (!has_normal) point.normal = point.plane = point.tangent = point.bitangent = vec3(0.0);
#endif
  Surface found = read_surface(material, number, point);
#ifdef BARE
  if (!has_normal) found.shading = UNLIT;
#endif
#ifdef OWN_SURFACE
  surface(point, found);
#endif
  return found;
}

// Is a masked material not there?
bool is_hole(MaterialHere material, Surface surface) {
#ifdef MASKS
  return surface.alpha < material.emission.w;
#else
  return false;
#endif
}
