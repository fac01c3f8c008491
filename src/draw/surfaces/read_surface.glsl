// What a material makes of a point.
#define OUT_OR_IN in
#include "periscena/material_outputs.glsl"

// A material without a map, in a family that has one, has one pixel here that changes nothing.
#ifndef TEXTURE_HANDLES
uniform sampler2DArray base_color_maps, metallic_roughness_maps, roughness_scale_maps, normal_maps, occlusion_maps,
    emission_maps;
#endif

// What is known of the material that the fragment is of; its maps are looked up by read_surface.
struct MaterialHere {
  vec4 base_color, emission, specular, factors;
  ivec4 numbers;
};

#ifdef MATERIAL_BY_VERTEX
MaterialHere material_at(uint number) {
  MaterialHere material = MaterialHere(material_base_color, vec4(0.0), vec4(0.0), vec4(0.0, place_and_roughness.w, 0.0, 0.0), ivec4(0));
#ifdef METALS
  material.factors.x = normal_and_metalness.w;
#endif
#ifdef FACTORS_AT
  material.factors.zw = material_factors;
#endif
#ifdef EMISSION_AT
  material.emission = material_emission;
#endif
#ifdef SPECULAR_AT
  material.specular = material_specular;
#endif
#ifdef NUMBERS_AT
  material.numbers = material_kind;
#endif
  return material;
}
#define LOOK_UP(number, maps, map, place) texture(maps, place)
#else
MaterialHere material_at(uint number) {
  return MaterialHere(materials[number].base_color, materials[number].emission, materials[number].specular, materials[number].factors,
                      materials[number].numbers);
}
#ifdef TEXTURE_HANDLES
#define LOOK_UP(number, maps, map, place) texture(sampler2DArray(materials[number].map.handle), map_place(materials[number].map, vec4(point.uv, point.second_uv)))
#else
#define LOOK_UP(number, maps, map, place) texture(maps, map_place(materials[number].map, vec4(point.uv, point.second_uv)))
#endif
#endif

Surface read_surface(MaterialHere material, uint number, SurfacePoint point) {
  Surface surface;
  surface.shading = SHADING_OF(material.numbers.x);
  vec4 base_color = material.base_color * point.color;
#ifdef BASE_COLOR_MAP
  base_color *= LOOK_UP(number, base_color_maps, base_color_map, base_color_place);
#endif
  surface.base_color = base_color.rgb;
  surface.alpha = base_color.a;
  surface.metallic = 0.0;
#ifdef METALS
  surface.metallic = material.factors.x;
#endif
  float roughness = material.factors.y;
#ifdef METALLIC_ROUGHNESS_MAP
  vec4 metallic_roughness = LOOK_UP(number, metallic_roughness_maps, metallic_roughness_map, metallic_roughness_place);
  surface.metallic *= metallic_roughness.b;
  roughness *= metallic_roughness.g;
#endif
#ifdef ROUGHNESS_SCALE_MAP
  roughness *= LOOK_UP(number, roughness_scale_maps, roughness_scale_map, roughness_scale_place).r;
#endif
  surface.roughness = clamp(roughness, 0.0, 1.0);
  surface.specular = material.specular.rgb;
  surface.shininess = material.specular.a;
#ifdef NORMAL_MAP
  vec3 bent = LOOK_UP(number, normal_maps, normal_map, normal_place).xyz * 2.0 - 1.0;
  bent.xy *= material.factors.z;
  surface.normal = normalize(bent.x * point.tangent + bent.y * point.bitangent + bent.z * point.normal);
#else
  surface.normal = point.normal;
#endif
  surface.occlusion = 1.0;
#ifdef OCCLUSION_MAP
  float open = LOOK_UP(number, occlusion_maps, occlusion_map, occlusion_place).r;
  surface.occlusion += material.factors.w * (open - 1.0);
#endif
  surface.emission = vec3(0.0);
#ifdef EMITS
  surface.emission = material.emission.rgb;
#ifdef EMISSION_MAP
  surface.emission *= LOOK_UP(number, emission_maps, emission_map, emission_place).rgb;
#endif
#endif
  return surface;
}
