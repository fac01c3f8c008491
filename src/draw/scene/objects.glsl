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
layout(std430, binding = OBJECT_STORAGE) readonly buffer Objects {
  Object objects[];
};

mat3 linear_part(uint object) {
  return mat3(objects[object].x, objects[object].y, objects[object].z);
}

vec3 to_world(uint object, vec3 position) {
  return linear_part(object) * position + objects[object].origin;
}

// Cofactors, as Transform::normal_matrix: right for any scale, and mirrored. Not of length 1.
vec3 normal_to_world(mat3 linear, vec3 normal) {
  vec3 turned = cross(linear[1], linear[2]) * normal.x + cross(linear[2], linear[0]) * normal.y + cross(linear[0], linear[1]) * normal.z;
  return determinant(linear) < 0.0 ? -turned : turned;
}

// By object: which material, and whether shadows fall on it, see material_number.glsl. Each variant of a scene has its
// own.
layout(std430, binding = MATERIAL_NUMBER_STORAGE) readonly buffer MaterialNumbers { uint material_numbers[]; };

// What only some meshes have, packed.
layout(std430, binding = MESH_COLOR_STORAGE) readonly buffer MeshColors { vec4 mesh_colors[]; };
layout(std430, binding = SECOND_UV_STORAGE) readonly buffer SecondUvs { vec2 second_uvs[]; };
