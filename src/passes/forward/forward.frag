// A surface, lit as it is drawn, through fog.
#include "periscena/fog.glsl"
#include "periscena/lit.glsl"
#include "periscena/surface_point.glsl"

// What materials show: targets that the pass reads. A pass that reads none leaves its bits at 0.
uniform sampler2D picture_1, picture_2, picture_3, picture_4;
uniform int pictures = 0;

layout(location = 0) out vec4 color;

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

void main() {
  Material material = materials[number_of(material_number)];
  SurfacePoint point;
  Surface found = surface_here(material, point);
  if (found.alpha < material.emission.w) discard;
  vec3 light = shade(found, point) + picture_light(material.numbers.y);
  light = through_fog(light, camera.eye, point.position);
  float alpha = material.numbers.z != 0 ? found.alpha : 1.0;
  color = vec4(light * alpha, alpha);
}
