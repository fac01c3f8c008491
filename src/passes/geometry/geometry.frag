// What is known of a surface before it is lit, for passes that light each pixel once.
#include "periscena/geometry_buffer.glsl"
#include "periscena/surface_point.glsl"

#ifdef WRITES_NORMAL
layout(location = 0) out vec4 normal;
#endif
#ifdef WRITES_BASE_COLOR
layout(location = 1) out vec4 base_color;
#endif
#ifdef WRITES_MATERIAL
layout(location = 2) out vec4 material;
#endif
#ifdef WRITES_EMISSION
layout(location = 3) out vec4 emission;
#endif
#ifdef WRITES_ID
layout(location = 4) out uint id;
layout(location = 6) flat in uint object_number;
uniform int objects_before;  // in other blocks of the scene
#endif
#ifdef WRITES_POSITION
layout(location = 5) out vec4 position;
#endif

void main() {
  MaterialHere from;
  SurfacePoint point;
  Surface found = surface_here(from, point);
  if (is_hole(from, found)) discard;
#ifdef WRITES_NORMAL
  normal = kept_normals(found, point);
#endif
#ifdef WRITES_BASE_COLOR
  base_color = vec4(found.base_color, 1.0);
#endif
#ifdef WRITES_MATERIAL
  material = kept_material(found, point);
#endif
#ifdef WRITES_EMISSION
  emission = vec4(found.emission, 1.0);
#endif
#ifdef WRITES_ID
  id = object_number + uint(objects_before) + 1u;
#endif
#ifdef WRITES_POSITION
  position = vec4(point.position, 1.0);
#endif
}
