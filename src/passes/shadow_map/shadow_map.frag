// Casts what is left of a masked surface: its holes let light through.
#include "periscena/surface_point.glsl"

void main() {
  Material material = materials[number_of(material_number)];
  SurfacePoint point;
  if (surface_here(material, point).alpha < material.emission.w) discard;
}
