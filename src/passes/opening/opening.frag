// Where a window is; what is cut out of its surface is not.
#include "periscena/surface_point.glsl"

void main() {
  MaterialHere from;
  SurfacePoint point;
  Surface found = surface_here(from, point);
  if (is_hole(from, found)) discard;
}
