// Where a vertex is, and where it was.
#include "periscena/camera.glsl"
#include "periscena/objects.glsl"

layout(std430, binding = OBJECTS_BEFORE_STORAGE) readonly buffer ObjectsBefore {
  Object objects_before[];
};

uniform mat4 clip_before = mat4(1.0);  // world to clip

layout(location = POSITION_ATTRIBUTE) in vec3 position;
layout(location = OBJECT_INDEX_ATTRIBUTE) in uint object_index;

layout(location = 0) out vec4 now;
layout(location = 1) out vec4 before;

// It must lie where it was drawn.
invariant gl_Position;

void main() {
  vec4 world = vec4(to_world(object_index, position), 1.0);
  Object was = objects_before[object_index];
  before = clip_before * vec4(mat3(was.x, was.y, was.z) * position + was.origin, 1.0);
  now = gl_Position = camera.view_projection * world;
  gl_PointSize = 1.0;
}
