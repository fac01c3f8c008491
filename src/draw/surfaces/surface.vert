// Places a vertex: object to world, then to clip space by one matrix.
#include "periscena/camera.glsl"
#include "periscena/objects.glsl"
#ifdef LIGHT_PARTS
#include "periscena/shadow_parts.glsl"
#endif

layout(location = POSITION_ATTRIBUTE) in vec3 position;
layout(location = NORMAL_ATTRIBUTE) in vec3 normal;
layout(location = TANGENT_ATTRIBUTE) in vec4 tangent;
layout(location = UV_ATTRIBUTE) in vec2 uv;
layout(location = OBJECT_INDEX_ATTRIBUTE) in uint object_index;

layout(location = 0) out vec3 world_position_out;
layout(location = 1) out vec3 world_normal;
layout(location = 2) out vec4 world_tangent;
layout(location = 3) out vec4 uvs;
layout(location = 4) out vec4 mesh_color;
layout(location = 5) flat out uint material_number;
#ifdef OBJECT_NUMBERS
layout(location = 6) flat out uint object_number;
#endif

// What was drawn by another program to hide it must lie where it lies.
invariant gl_Position;

void main() {
  vec4 world = vec4(to_world(object_index, position), 1.0);
  world_position_out = world.xyz;
  mat3 linear = linear_part(object_index);
  world_normal = normal_to_world(linear, normal);
  // A mirrored object mirrors its textures, too.
  world_tangent = vec4(linear * tangent.xyz, determinant(linear) < 0.0 ? -tangent.w : tangent.w);
  uint second = objects[object_index].second_uv, first_color = objects[object_index].colors;
  uvs = vec4(uv, second == none ? vec2(0.0) : second_uvs[second + uint(gl_VertexID)]);
  mesh_color = first_color == none ? vec4(1.0) : mesh_colors[first_color + uint(gl_VertexID)];
  material_number = material_numbers[object_index];
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
