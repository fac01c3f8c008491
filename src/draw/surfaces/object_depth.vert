// Where a vertex of something opaque is in a light's view, or in one of several.
#include "periscena/camera.glsl"
#include "periscena/objects.glsl"
#ifdef LIGHT_PARTS
#include "periscena/shadow_parts.glsl"
#endif

layout(location = POSITION_ATTRIBUTE) in vec3 position;
layout(location = OBJECT_INDEX_ATTRIBUTE) in uint object_index;

// What was drawn by another program to hide it must lie where it lies.
invariant gl_Position;

void main() {
  vec4 world = vec4(to_world(object_index, position), 1.0);
#ifdef LIGHT_PARTS
  gl_Position = clip_in_its_part(world);
#else
  gl_Position = camera.view_projection * world;
#endif
  gl_PointSize = 1.0;
}
