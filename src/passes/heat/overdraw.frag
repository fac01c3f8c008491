// One for each surface that is drawn over a pixel.
#include "periscena/surface_point.glsl"

layout(location = 0) out float count;

void main() {
  MaterialHere from;
  SurfacePoint point;
  Surface found = surface_here(from, point);
  if (is_hole(from, found)) discard;
  count = 1.0;
}
