// One for each surface that is drawn over a pixel.
#include "periscena/surface_point.glsl"

layout(location = 0) out float count;

void main() {
  Material from = materials[number_of(material_number)];
  SurfacePoint point;
  Surface found = surface_here(from, point);
  if (found.alpha < from.emission.w) discard;
  count = 1.0;
}
