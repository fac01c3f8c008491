// Objects as lit passes draw them: one element for each node of the scene.
#include "periscena/bindings.glsl"

const uint none = 0x7FFFFFFFu;

struct Object {
  mat4 world;
  mat3x4 normals;       // columns of the normal matrix
  uint colors;          // where its mesh's colours begin in mesh_colors, less the first vertex; none: white
  uint second_uv;       // the same for its second texture coordinates; none: 0
};
layout(std430, binding = OBJECT_STORAGE) readonly buffer Objects { Object objects[]; };

// By object: which material, and whether shadows fall on it, see material_number.glsl. Each variant of a scene has its
// own.
layout(std430, binding = MATERIAL_NUMBER_STORAGE) readonly buffer MaterialNumbers { uint material_numbers[]; };

// What only some meshes have, packed.
layout(std430, binding = MESH_COLOR_STORAGE) readonly buffer MeshColors { vec4 mesh_colors[]; };
layout(std430, binding = SECOND_UV_STORAGE) readonly buffer SecondUvs { vec2 second_uvs[]; };
