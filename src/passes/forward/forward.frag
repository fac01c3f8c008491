// A surface, lit as it is drawn, through fog.
#include "periscena/camera.glsl"
#include "periscena/fog.glsl"
#include "periscena/lit.glsl"
#include "periscena/surface_point.glsl"

#ifdef SHOWS
// What materials show: targets that the pass reads. A pass that reads none leaves its bits at 0.
uniform sampler2D picture_1, picture_2, picture_3, picture_4;
uniform int pictures = 0;
#endif

layout(location = 0) out vec4 color;

#ifdef SHOWS
vec3 picture_light(int numbered) {
  int picture = abs(numbered);
  if (picture == 0 || (pictures & (1 << (picture - 1))) == 0) return vec3(0.0);
  vec2 place = 0.5 + vec2(numbered < 0 ? -uvs.x : uvs.x, -uvs.y);
  switch (picture) {
    case 1: return textureLod(picture_1, place, 0.0).rgb;
    case 2: return textureLod(picture_2, place, 0.0).rgb;
    case 3: return textureLod(picture_3, place, 0.0).rgb;
    default: return textureLod(picture_4, place, 0.0).rgb;
  }
}
#endif

#ifdef LOOK_AT_SHADOW
uniform int looked_at;  // number of a light

ShadowPartAt looked_at_part(SurfacePoint point, out float lit) {
  vec3 to_light, lux = light_at(lights[looked_at], point.position, to_light);
  int shadow = int(lights[looked_at].direction.w);
  bool reached = max(lux.r, max(lux.g, lux.b)) > 0.0 && dot(point.normal, to_light) > 0.0;
  if (shadow == 0 || !reached || !point.shadowed) return ShadowPartAt(-1, 0.0);
  lit = light_past(shadow, point.position, dot(point.plane, to_light) > 0.0 ? point.plane : point.normal, to_light);
  return part_at(shadow, point.position, to_light);
}

// By part: amber, teal, violet, rose, lime, slate.
const vec3 part_tints[6] = vec3[](vec3(1.0, 0.62, 0.15), vec3(0.1, 0.72, 0.66), vec3(0.5, 0.3, 0.95), vec3(0.95, 0.25, 0.4),
                                  vec3(0.55, 0.8, 0.15), vec3(0.35, 0.45, 0.65));

vec3 tinted_by_part(vec3 light, SurfacePoint point) {
  float lit;
  int part = looked_at_part(point, lit).number;
  return part < 0 ? light : mix(light, 2.0 * dot(light, vec3(0.2126, 0.7152, 0.0722)) * part_tints[part], 0.7);
}
#endif

void main() {
  MaterialHere material;
  SurfacePoint point;
  Surface found = surface_here(material, point);
  if (is_hole(material, found)) discard;
#ifdef SHADOW_FACTS
  float lit;
  ShadowPartAt part = looked_at_part(point, lit);
  color = part.number < 0 ? vec4(0.0) : vec4(lit, part.texel, part.number, 1.0);
  return;
#endif
  vec3 light = shade(found, point);
#ifdef SHOWS
  light += picture_light(material.numbers.y);
#endif
#ifdef LOOK_AT_SHADOW
  light = tinted_by_part(light, point);
#endif
  light = through_fog(light, camera.eye, point.position);
  float alpha = 1.0;
#ifdef BLENDS
  if (material.numbers.z != 0) alpha = found.alpha;
#endif
  color = vec4(light * alpha, alpha);
}
