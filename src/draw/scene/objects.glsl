// Objects as lit passes draw them: one element for each node of the scene.
#include "periscena/bindings.glsl"

const uint none = 0x7FFFFFFFu;

// To the world: columns of the linear part, and where the object's origin is.
struct Object {
  vec3 x;
  uint colors;     // where its mesh's colours begin in mesh_colors, less the first vertex; none: white
  vec3 y;
  uint second_uv;  // the same for its second texture coordinates; none: 0
  vec3 z;
  vec3 origin;
};
// Where each vertex reads another one, some devices find them sooner as texels, four to an object.
#ifdef SCENE_TEXELS
uniform usamplerBuffer object_texels;

uvec4 object_texel(uint object, int part) { return texelFetch(object_texels, 4 * int(object) + part); }
vec3 object_column(uint object, int part) { return uintBitsToFloat(object_texel(object, part).xyz); }
mat3 linear_part(uint object) { return mat3(object_column(object, 0), object_column(object, 1), object_column(object, 2)); }
vec3 origin_of(uint object) { return object_column(object, 3); }
uint first_color_of(uint object) { return object_texel(object, 0).w; }
uint first_second_uv_of(uint object) { return object_texel(object, 1).w; }
#else
layout(std430, binding = OBJECT_STORAGE) readonly buffer Objects {
  Object objects[];
};

mat3 linear_part(uint object) { return mat3(objects[object].x, objects[object].y, objects[object].z); }
vec3 origin_of(uint object) { return objects[object].origin; }
uint first_color_of(uint object) { return objects[object].colors; }
uint first_second_uv_of(uint object) { return objects[object].second_uv; }
#endif

vec3 to_world(uint object, vec3 position) {
  return linear_part(object) * position + origin_of(object);
}

// Cofactors, as Transform::normal_matrix: right for any scale, and mirrored. Not of length 1.
vec3 normal_to_world(mat3 linear, vec3 normal) {
  vec3 turned = cross(linear[1], linear[2]) * normal.x + cross(linear[2], linear[0]) * normal.y + cross(linear[0], linear[1]) * normal.z;
  return determinant(linear) < 0.0 ? -turned : turned;
}

// By object: which material, and whether shadows fall on it, see material_number.glsl. Each variant of a scene has its
// own.
#ifdef SCENE_TEXELS
uniform usamplerBuffer material_number_texels;
uint material_number_of(uint object) { return texelFetch(material_number_texels, int(object)).r; }
#else
layout(std430, binding = MATERIAL_NUMBER_STORAGE) readonly buffer MaterialNumbers { uint material_numbers[]; };
uint material_number_of(uint object) { return material_numbers[object]; }
#endif

// What only some meshes have, packed.
layout(std430, binding = MESH_COLOR_STORAGE) readonly buffer MeshColors { vec4 mesh_colors[]; };
layout(std430, binding = SECOND_UV_STORAGE) readonly buffer SecondUvs { vec2 second_uvs[]; };
