// Places a vertex: object to world, then to clip space by one matrix.
#include "periscena/camera.glsl"
#define OUT_OR_IN out
#include "periscena/material_outputs.glsl"
#include "periscena/objects.glsl"
#ifdef LIGHT_PARTS
#include "periscena/shadow_parts.glsl"
#endif

layout(location = POSITION_ATTRIBUTE) in vec3 position;
layout(location = NORMAL_ATTRIBUTE) in vec3 normal;
layout(location = TANGENT_ATTRIBUTE) in vec4 tangent;
layout(location = UV_ATTRIBUTE) in vec2 uv;
layout(location = OBJECT_INDEX_ATTRIBUTE) in uint object_index;

layout(location = 2) out vec4 world_tangent;
layout(location = 3) out vec4 uvs;
#ifdef MESH_COLORS
layout(location = 4) out vec4 mesh_color;
#endif
layout(location = 5) flat out uint material_number;
#ifdef OBJECT_NUMBERS
layout(location = 6) flat out uint object_number;
#endif

// What was drawn by another program to hide it must lie where it lies.
invariant gl_Position;

#ifdef MATERIAL_BY_VERTEX
#ifdef SCENE_TEXELS
// The same as Material, in texels.
uniform usamplerBuffer material_texels;

uvec4 material_texel(uint number, int part) { return texelFetch(material_texels, MATERIAL_TEXELS * int(number) + part); }
vec4 material_part(uint number, int part) { return uintBitsToFloat(material_texel(number, part)); }
#define PART(number, member, at) material_part(number, at)
#define PLACE(number, map, at) map_place(Map(material_part(number, 5 + 3 * at), material_part(number, 6 + 3 * at), uvec2(0u)), uvs)
#define KIND(number) ivec4(material_texel(number, 4))
#else
#define PART(number, member, at) materials[number].member
#define PLACE(number, map, at) map_place(materials[number].map, uvs)
#define KIND(number) materials[number].numbers
#endif

void pass_material_on(uint number) {
  material_base_color = PART(number, base_color, 0);
  vec4 factors = PART(number, factors, 3);
  place_and_roughness.w = factors.y;
#ifdef METALS
  normal_and_metalness.w = factors.x;
#endif
#ifdef FACTORS_AT
  material_factors = factors.zw;
#endif
#ifdef EMISSION_AT
  material_emission = PART(number, emission, 1);
#endif
#ifdef SPECULAR_AT
  material_specular = PART(number, specular, 2);
#endif
#ifdef NUMBERS_AT
  material_kind = KIND(number);
#endif
#ifdef BASE_COLOR_MAP
  base_color_place = PLACE(number, base_color_map, 0);
#endif
#ifdef METALLIC_ROUGHNESS_MAP
  metallic_roughness_place = PLACE(number, metallic_roughness_map, 1);
#endif
#ifdef ROUGHNESS_SCALE_MAP
  roughness_scale_place = PLACE(number, roughness_scale_map, 2);
#endif
#ifdef NORMAL_MAP
  normal_place = PLACE(number, normal_map, 3);
#endif
#ifdef OCCLUSION_MAP
  occlusion_place = PLACE(number, occlusion_map, 4);
#endif
#ifdef EMISSION_MAP
  emission_place = PLACE(number, emission_map, 5);
#endif
}
#endif

void main() {
  vec4 world = vec4(to_world(object_index, position), 1.0);
  place_and_roughness = vec4(world.xyz, 0.0);
  mat3 linear = linear_part(object_index);
  normal_and_metalness = vec4(normal_to_world(linear, normal), 0.0);
  // A mirrored object mirrors its textures, too.
  world_tangent = vec4(linear * tangent.xyz, determinant(linear) < 0.0 ? -tangent.w : tangent.w);
  uvs = vec4(uv, 0.0, 0.0);
#ifdef SECOND_UV
  uint second = first_second_uv_of(object_index);
  if (second != none) uvs.zw = second_uvs[second + uint(gl_VertexID)];
#endif
#ifdef MESH_COLORS
  uint first_color = first_color_of(object_index);
  mesh_color = first_color == none ? vec4(1.0) : mesh_colors[first_color + uint(gl_VertexID)];
#endif
  material_number = material_number_of(object_index);
#ifdef MATERIAL_BY_VERTEX
  pass_material_on(number_of(material_number));
#endif
#ifdef OBJECT_NUMBERS
  object_number = object_index;
#endif
#ifdef LIGHT_PARTS
  gl_Position = clip_in_its_part(world);
#else
  gl_Position = camera.view_projection * world;
#endif
  gl_PointSize = 1.0;
}
