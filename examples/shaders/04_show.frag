// The four outputs as four quarters of the picture: light, normals, distance, ids.
#include "periscena/fullscreen.glsl"

uniform sampler2D light;
uniform sampler2D normals;
uniform sampler2D distances;
uniform usampler2D ids;

layout(location = 0) out vec4 color;

const vec3 id_colors[5] = vec3[](vec3(0.01), vec3(0.10, 0.12, 0.14), vec3(0.80, 0.18, 0.12), vec3(0.15, 0.42, 0.70), vec3(0.85, 0.60, 0.12));

void main() {
  vec2 place = fract(uv * 2.0);
  vec2 at = vec2(uv.x < 0.5 ? 0.0 : 1.0, uv.y < 0.5 ? 0.0 : 1.0);
  vec3 shown;
  if (at == vec2(0, 1)) shown = texture(light, place).rgb;
  if (at == vec2(1, 1)) shown = pow(0.5 + 0.5 * texture(normals, place).xyz, vec3(2.2));
  if (at == vec2(0, 0)) shown = vec3(exp(-0.16 * texture(distances, place).r) * sign(texture(distances, place).r));
  if (at == vec2(1, 0)) shown = id_colors[texelFetch(ids, ivec2(place * textureSize(ids, 0)), 0).r];
  vec2 edge = abs(uv - 0.5) * frame.resolution;
  color = vec4(min(edge.x, edge.y) < 1.5 ? vec3(0.0) : shown, 1.0);
}
