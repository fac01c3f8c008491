// Casts what is left of a masked surface: its holes let light through.
#include "periscena/surface_point.glsl"

void main() {
  MaterialHere material;
  SurfacePoint point;
  Surface found = surface_here(material, point);
  if (is_hole(material, found)) discard;
}
