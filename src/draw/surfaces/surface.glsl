// A surface at a point, and the materials that it comes from. The same as Surface in <periscena/scene/shading.h>.
#include "periscena/bindings.glsl"

const int METALLIC_ROUGHNESS = 0, BLINN_PHONG = 1, UNLIT = 2;

// Where a point is, and how the mesh lies there.
struct SurfacePoint {
  vec3 position;   // metres, world
  vec3 normal;     // length 1, of the mesh, on the viewer's side
  vec3 plane;      // length 1, of the triangle itself, on the viewer's side
  vec3 tangent;    // length 1, to the right in the texture's image
  vec3 bitangent;  // length 1, up in the image
  vec2 uv;
  vec2 second_uv;
  vec4 color;      // of the mesh
  vec3 to_eye;     // length 1
  float time;      // seconds
  bool shadowed;   // do shadows fall on it?
};

struct Surface {
  int shading;
  vec3 base_color;
  float alpha;
  float metallic;
  float roughness;
  vec3 specular;    // of blinn_phong, with its exponent
  float shininess;
  vec3 normal;      // length 1, world
  vec3 emission;    // nits
  float occlusion;  // 0..1, of ambient light
};

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

// A material without a map has one pixel here that changes nothing.
#ifndef TEXTURE_HANDLES
uniform sampler2DArray base_color_maps, metallic_roughness_maps, roughness_scale_maps, normal_maps, occlusion_maps,
    emission_maps;
#endif

vec3 map_place(Map map, SurfacePoint point) {
  vec3 uv = vec3(map.v.w > 0.5 ? point.second_uv : point.uv, 1.0);
  return vec3(dot(map.u.xyz, uv), dot(map.v.xyz, uv), map.u.w);
}

#ifdef TEXTURE_HANDLES
#define LOOK_UP(maps, map, point) texture(sampler2DArray(map.handle), map_place(map, point))
#else
#define LOOK_UP(maps, map, point) texture(maps, map_place(map, point))
#endif

Surface read_surface(Material material, SurfacePoint point) {
  Surface surface;
  surface.shading = material.numbers.x;
  vec4 base_color = material.base_color * point.color * LOOK_UP(base_color_maps, material.base_color_map, point);
  surface.base_color = base_color.rgb;
  surface.alpha = base_color.a;
  vec4 metallic_roughness = LOOK_UP(metallic_roughness_maps, material.metallic_roughness_map, point);
  float roughness_scale = LOOK_UP(roughness_scale_maps, material.roughness_scale_map, point).r;
  surface.metallic = material.factors.x * metallic_roughness.b;
  surface.roughness = clamp(material.factors.y * metallic_roughness.g * roughness_scale, 0.0, 1.0);
  surface.specular = material.specular.rgb;
  surface.shininess = material.specular.a;
  vec3 bent = LOOK_UP(normal_maps, material.normal_map, point).xyz * 2.0 - 1.0;
  bent.xy *= material.factors.z;
  surface.normal = normalize(bent.x * point.tangent + bent.y * point.bitangent + bent.z * point.normal);
  float open = LOOK_UP(occlusion_maps, material.occlusion_map, point).r;
  surface.occlusion = 1.0 + material.factors.w * (open - 1.0);
  surface.emission = material.emission.rgb * LOOK_UP(emission_maps, material.emission_map, point).rgb;
  return surface;
}

// Which way the plane lies that shadows fall on. Triangles that light does not reach, though their smooth surface says so, get
// no hard edge of their own.
vec3 receiver_normal(Surface surface, SurfacePoint point, vec3 to_light) {
  return dot(point.plane, to_light) > 0.0 ? point.plane : surface.normal;
}
