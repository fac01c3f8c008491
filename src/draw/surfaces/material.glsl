// Materials, as they lie in storage. Of a program's family, see SurfaceFamily, what none of its materials has is left out.
#include "periscena/bindings.glsl"
#include "periscena/material_number.glsl"
#include "periscena/surface.glsl"

#ifndef FAMILY
#define BASE_COLOR_MAP
#define METALLIC_ROUGHNESS_MAP
#define ROUGHNESS_SCALE_MAP
#define NORMAL_MAP
#define OCCLUSION_MAP
#define EMISSION_MAP
#define METALS
#define EMITS
#define MASKS
#define BLENDS
#define SHOWS
#define MESH_COLORS
#define SECOND_UV
#define BARE
#endif

// A map: rows of the matrix that takes texture coordinates to it; the first w its layer, the second w its set; and its
// handle, where textures are not bound.
struct Map {
  vec4 u, v;
  uvec2 handle;
};

struct Material {
  vec4 base_color;  // with alpha
  vec4 emission;    // w: of masked ones the least alpha; else 0
  vec4 specular;    // w: shininess
  vec4 factors;     // metallic, roughness, scale of the normal map, strength of occlusion
  ivec4 numbers;    // shading; picture, from 1, negative when mirrored, 0 for none; 1 when alpha counts
  Map base_color_map, metallic_roughness_map, roughness_scale_map, normal_map, occlusion_map, emission_map;
};
layout(std430, binding = MATERIAL_STORAGE) readonly buffer Materials { Material materials[]; };

vec3 map_place(Map map, vec4 uvs) {
#ifdef SECOND_UV
  vec3 uv = vec3(map.v.w > 0.5 ? uvs.zw : uvs.xy, 1.0);
#else
  vec3 uv = vec3(uvs.xy, 1.0);
#endif
  return vec3(dot(map.u.xyz, uv), dot(map.v.xyz, uv), map.u.w);
}
