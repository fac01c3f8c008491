// Where a window is; what is cut out of its surface is not.
#include "periscena/surface_point.glsl"

void main() {
  Material from = materials[number_of(material_number)];
  SurfacePoint point;
  Surface found = surface_here(from, point);
  if (found.alpha < from.emission.w) discard;
}
