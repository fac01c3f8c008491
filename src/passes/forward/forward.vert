// Places a vertex: object to world, then to clip space by one matrix.
#include "periscena/bindings.glsl"
#include "periscena/camera.glsl"

struct Object {
  mat4 world;
  mat3x4 normals;
  vec4 base_color;
  vec4 emission;
};
layout(std430, binding = OBJECT_STORAGE) readonly buffer Objects { Object objects[]; };

layout(location = POSITION_ATTRIBUTE) in vec3 position;
layout(location = NORMAL_ATTRIBUTE) in vec3 normal;
layout(location = UV_ATTRIBUTE) in vec2 uv;
layout(location = OBJECT_INDEX_ATTRIBUTE) in uint object_index;

layout(location = 0) out vec3 world_normal;
layout(location = 1) flat out vec3 base_color;
layout(location = 2) flat out vec3 emission;
layout(location = 3) out vec2 picture_uv;
layout(location = 4) flat out int picture;  // from 1; 0 for none

void main() {
  world_normal = mat3(objects[object_index].normals) * normal;
  base_color = objects[object_index].base_color.rgb;
  float shown = objects[object_index].base_color.w;
  picture = int(abs(shown));
  picture_uv = 0.5 + vec2(shown < 0.0 ? -uv.x : uv.x, uv.y);
  emission = objects[object_index].emission.rgb;
  gl_Position = camera.view_projection * (objects[object_index].world * vec4(position, 1.0));
}
