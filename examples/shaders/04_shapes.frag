// Three balls and a floor, found along each ray by their formulas. One pass, four outputs.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"

layout(location = 0) out vec4 light;     // nits
layout(location = 1) out vec4 normal;    // world, length 1
layout(location = 2) out float distance_metres;
layout(location = 3) out uint id;        // 0 nothing, 1 the floor, from 2 the balls

const vec4 balls[3] = vec4[](vec4(-1.3, 0.6, 0.0, 0.6), vec4(0.1, 0.85, -0.6, 0.85), vec4(1.45, 0.45, 0.4, 0.45));
const vec3 colors[5] = vec3[](vec3(0.0), vec3(0.30, 0.28, 0.25), vec3(0.62, 0.14, 0.08), vec3(0.14, 0.34, 0.44), vec3(0.66, 0.45, 0.10));

void main() {
  vec3 ray = camera_ray(uv);
  float nearest = 1e9;
  id = 0u;
  normal = vec4(0.0);
  if (ray.y < 0.0) {
    nearest = -camera.eye.y / ray.y;
    id = 1u;
    normal = vec4(0.0, 1.0, 0.0, 0.0);
  }
  for (int i = 0; i < 3; ++i) {
    vec3 from = camera.eye - balls[i].xyz;
    float b = dot(from, ray), c = dot(from, from) - balls[i].w * balls[i].w, root = b * b - c;
    float t = -b - sqrt(max(root, 0.0));
    if (root > 0.0 && t > 0.0 && t < nearest) {
      nearest = t;
      id = uint(i) + 2u;
      normal = vec4((from + t * ray) / balls[i].w, 0.0);
    }
  }
  float facing = max(dot(normal.xyz, normalize(vec3(0.5, 0.8, 0.6))), 0.0);
  vec3 sky = mix(vec3(0.55, 0.62, 0.75), vec3(0.16, 0.30, 0.58), smoothstep(0.0, 0.5, ray.y));
  light = vec4(id == 0u ? sky : colors[id] * (0.18 + 0.95 * facing), 1.0);
  if (id == 1u) light.rgb = mix(light.rgb, vec3(0.55, 0.62, 0.75), smoothstep(4.0, 40.0, nearest));
  distance_metres = id == 0u ? 0.0 : nearest;
}
