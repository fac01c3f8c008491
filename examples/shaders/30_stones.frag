#define OWN_MATTER
#include "periscena/distance_field.glsl"

// Eight flat stones in the grass beside the towpath, worn, that melt into one another where they meet.
float distance_to(vec3 place) {
  float all = 1e3;
  for (int i = 0; i < 8; ++i) {
    float n = float(i);
    vec3 at = place - vec3(3.5 + 0.1 * n + 0.1 * sin(n * 2.1), 0.9, 15.8 - 0.66 * n);
    all = melted(all, grown(cylinder_distance(at, 0.2 + 0.05 * sin(n * 3.7), 0.03), 0.06), 0.22);
  }
  return roughened(all, place, 0.006, 0.09);
}

// Stone, with moss where the noise says so.
void matter_at(vec3 place, inout Surface surface) {
  float moss = smoothstep(0.0, 0.8, smooth_noise(place * 4.0) + 0.5 * smooth_noise(place * 11.0));
  surface.base_color = mix(vec3(0.34, 0.31, 0.27) * (1.0 + 0.15 * smooth_noise(place * 30.0)), vec3(0.10, 0.14, 0.05), moss);
  surface.roughness = 0.8;
}
