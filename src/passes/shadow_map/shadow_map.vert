// Where a vertex of something opaque is in a light's view.
#include "periscena/camera.glsl"
#include "periscena/objects.glsl"

layout(location = POSITION_ATTRIBUTE) in vec3 position;
layout(location = OBJECT_INDEX_ATTRIBUTE) in uint object_index;

// What was drawn by another program to hide it must lie where it lies.
invariant gl_Position;

void main() {
  gl_Position = camera.view_projection * (objects[object_index].world * vec4(position, 1.0));
  gl_PointSize = 1.0;
}
