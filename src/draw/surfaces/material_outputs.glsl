// What a vertex program says of its object's material: once for each vertex, instead of once for each pixel, and so that mip
// levels are chosen by how texture coordinates change from pixel to pixel (what a fragment program reads from storage, drivers
// need not read where a pixel only helps its neighbours).
// A family says at which locations; what it does not name is not wanted.
#include "periscena/material.glsl"

// The fourth numbers are roughness and metalness: each vector of four more takes time to prepare for each triangle.
layout(location = 0) OUT_OR_IN vec4 place_and_roughness;   // metres, world
layout(location = 1) OUT_OR_IN vec4 normal_and_metalness;  // world, of any length

#ifdef MATERIAL_BY_VERTEX
layout(location = BASE_COLOR_AT) flat OUT_OR_IN vec4 material_base_color;
#ifdef FACTORS_AT
layout(location = FACTORS_AT) flat OUT_OR_IN vec2 material_factors;
#endif
#ifdef EMISSION_AT
layout(location = EMISSION_AT) flat OUT_OR_IN vec4 material_emission;
#endif
#ifdef SPECULAR_AT
layout(location = SPECULAR_AT) flat OUT_OR_IN vec4 material_specular;
#endif
#ifdef NUMBERS_AT
layout(location = NUMBERS_AT) flat OUT_OR_IN ivec4 material_kind;
#endif
#ifdef BASE_COLOR_MAP
layout(location = BASE_COLOR_MAP) OUT_OR_IN vec3 base_color_place;
#endif
#ifdef METALLIC_ROUGHNESS_MAP
layout(location = METALLIC_ROUGHNESS_MAP) OUT_OR_IN vec3 metallic_roughness_place;
#endif
#ifdef ROUGHNESS_SCALE_MAP
layout(location = ROUGHNESS_SCALE_MAP) OUT_OR_IN vec3 roughness_scale_place;
#endif
#ifdef NORMAL_MAP
layout(location = NORMAL_MAP) OUT_OR_IN vec3 normal_place;
#endif
#ifdef OCCLUSION_MAP
layout(location = OCCLUSION_MAP) OUT_OR_IN vec3 occlusion_place;
#endif
#ifdef EMISSION_MAP
layout(location = EMISSION_MAP) OUT_OR_IN vec3 emission_place;
#endif
#endif
