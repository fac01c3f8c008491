// Lambert's law for one directional light, ambient light from above and below, emission, and pictures on surfaces.
#include "periscena/bindings.glsl"

layout(std140, binding = LIGHT_BLOCK) uniform Light {
  vec3 to_light;       // world, length 1
  vec3 illuminance;    // lux on a surface that faces the light
  vec3 sky, ground;    // nits of ambient light from above and below
} light;

layout(location = 0) in vec3 world_normal;
layout(location = 1) flat in vec3 base_color;
layout(location = 2) flat in vec3 emission;
layout(location = 3) in vec2 picture_uv;
layout(location = 4) flat in int picture;

// What materials show: targets that the pass reads. A pass that reads none leaves its bits at 0.
uniform sampler2D picture_1, picture_2, picture_3, picture_4;
uniform int pictures = 0;

layout(location = 0) out vec4 color;

const float pi = 3.14159265358979;

vec3 picture_light() {
  if (picture == 0 || (pictures & (1 << (picture - 1))) == 0) return vec3(0.0);
  switch (picture) {
    case 1: return textureLod(picture_1, picture_uv, 0.0).rgb;
    case 2: return textureLod(picture_2, picture_uv, 0.0).rgb;
    case 3: return textureLod(picture_3, picture_uv, 0.0).rgb;
    default: return textureLod(picture_4, picture_uv, 0.0).rgb;
  }
}

void main() {
  vec3 n = normalize(world_normal);
  vec3 direct = light.illuminance * (max(dot(n, light.to_light), 0.0) / pi);
  vec3 ambient = mix(light.ground, light.sky, 0.5 + 0.5 * n.y);
  color = vec4(base_color * (direct + ambient) + emission + picture_light(), 1.0);
}
