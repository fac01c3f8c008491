// What lights give each pixel of a geometry buffer, before what is there colours it.
#include "periscena/geometry_pixel.glsl"
#include "periscena/kept_light.glsl"
#include "periscena/lights.glsl"

layout(location = 0) out vec4 diffuse;
layout(location = 1) out vec4 specular;

void light_pixel() {
  SurfacePoint point;
  Surface surface = surface_at_pixel(vec3(0.0), vec3(0.0), point);
  if (surface.shading == UNLIT) discard;
  KeptLight sum = KeptLight(vec4(0.0), vec4(0.0));
  EACH_LIGHT_NEAR(i, point.position) {
    vec3 to_light;
    vec3 lux = light_at(lights[i], point.position, to_light);
    if (point.shadowed && dot(surface.normal, to_light) > 0.0) lux *= share_past_shadows(i, point.position, receiver_normal(surface, point, to_light), to_light);
    keep_light(sum, surface, to_light, point.to_eye, lux);
  }
  diffuse = min(sum.diffuse, largest_half);
  specular = min(sum.specular, largest_half);
}

void main() {
  if (is_to_light(PIXEL_HERE))
    light_pixel();
  else
    discard;
}
