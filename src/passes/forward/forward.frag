// Lambert's law for one directional light, ambient light from above and below, and emission.
#include "periscena/bindings.glsl"

layout(std140, binding = LIGHT_BLOCK) uniform Light {
  vec3 to_light;       // world, length 1
  vec3 illuminance;    // lux on a surface that faces the light
  vec3 sky, ground;    // nits of ambient light from above and below
} light;

layout(location = 0) in vec3 world_normal;
layout(location = 1) flat in vec3 base_color;
layout(location = 2) flat in vec3 emission;

layout(location = 0) out vec4 color;

const float pi = 3.14159265358979;

void main() {
  vec3 n = normalize(world_normal);
  vec3 direct = light.illuminance * (max(dot(n, light.to_light), 0.0) / pi);
  vec3 ambient = mix(light.ground, light.sky, 0.5 + 0.5 * n.y);
  color = vec4(base_color * (direct + ambient) + emission, 1.0);
}
