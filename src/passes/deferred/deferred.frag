// Lights each pixel of a geometry buffer once, through fog. Where nothing was drawn, what is there stays.
#include "periscena/geometry_pixel.glsl"
#include "periscena/fog.glsl"
#include "periscena/lit.glsl"

uniform KEPT base_color;
#ifdef READS_EMISSION
uniform KEPT emission;
#endif
#ifdef READS_OCCLUSION
uniform sampler2D occlusion;
#endif

layout(location = 0) out vec4 color;
#ifdef COUNTS_LIGHTS
layout(location = 1) out float light_count;
#endif

void light_pixel(ivec2 at) {
  vec3 light_of_its_own = vec3(0.0);
#ifdef READS_EMISSION
  light_of_its_own = texelFetch(emission, at, sample_here).rgb;
#endif
  SurfacePoint point;
  Surface surface = surface_at_pixel(texelFetch(base_color, at, sample_here).rgb, light_of_its_own, point);
#ifdef READS_OCCLUSION
  surface.occlusion *= texelFetch(occlusion, at, 0).r;
#endif
#ifdef ONE_LIGHT
  // Added to what the others gave.
  if (surface.shading == UNLIT) discard;
  color = vec4(fog_transmittance(camera.eye, point.position) * light_from_lights(surface, point), 0.0);
#else
  color = vec4(through_fog(shade(surface, point), camera.eye, point.position), 1.0);
#endif
#ifdef FIRST_SURFACE
  gl_SampleMask[0] = samples_like_first(at);
#endif
#ifdef COUNTS_LIGHTS
  light_count = lights_asked;
#endif
}

#ifdef FILTERS_AFTER
// Filters go on with what it gives, also where nothing was drawn.
vec4 lit_pixel() {
  ivec2 at = PIXEL_HERE;
  color = vec4(0.0);
  if (is_to_light(at)) light_pixel(at);
  return color;
}
#else
void main() {
  ivec2 at = PIXEL_HERE;
  if (is_to_light(at))
    light_pixel(at);
  else
    discard;
}
#endif
