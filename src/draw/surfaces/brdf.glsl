// What surfaces do with light. The same functions as in <periscena/scene/shading.h>, where their sources are.
#include "periscena/surface.glsl"

const float pi = 3.14159265358979;
const float least_roughness = 0.045;
const float least_cosine = 1e-3;

float ggx_distribution(float n_dot_h, float alpha) {
  float a2 = alpha * alpha;
  float f = n_dot_h * n_dot_h * (a2 - 1.0) + 1.0;
  return a2 / (pi * f * f);
}

float smith_visibility(float n_dot_l, float n_dot_v, float alpha) {
  float a2 = alpha * alpha;
  float from_light = n_dot_l * sqrt(n_dot_v * n_dot_v * (1.0 - a2) + a2);
  float from_eye = n_dot_v * sqrt(n_dot_l * n_dot_l * (1.0 - a2) + a2);
  return 0.5 / (from_light + from_eye);
}

vec3 schlick(vec3 f0, float v_dot_h) {
  float away = 1.0 - v_dot_h, squared = away * away;
  return f0 + (1.0 - f0) * (squared * squared * away);
}

// Normals of maps, and those between a mesh's, lean away from the eye where a surface is seen from its side: that makes no shade.
float seen_cosine(vec3 normal, vec3 to_eye) { return max(dot(normal, to_eye), least_cosine); }

vec3 metallic_roughness_brdf(Surface surface, vec3 to_light, vec3 to_eye) {
  float n_dot_l = max(dot(surface.normal, to_light), 0.0), n_dot_v = seen_cosine(surface.normal, to_eye);
  vec3 halfway = normalize(to_light + to_eye);
  float n_dot_h = clamp(dot(surface.normal, halfway), 0.0, 1.0);
  float rough = max(surface.roughness, least_roughness), alpha = rough * rough;
  vec3 f0 = mix(vec3(0.04), surface.base_color, surface.metallic);
  vec3 fresnel = schlick(f0, dot(to_eye, halfway));
  vec3 diffuse = (1.0 - surface.metallic) * surface.base_color / pi;
  float specular = ggx_distribution(n_dot_h, alpha) * smith_visibility(n_dot_l, n_dot_v, alpha);
  return (1.0 - fresnel) * diffuse + fresnel * specular;
}

// Without an early return: lavapipe of Mesa 22.3 crashes at what becomes of one where one light alone is in no loop.
vec3 blinn_phong_brdf(Surface surface, vec3 to_light, vec3 to_eye) {
  float n_dot_h = clamp(dot(surface.normal, normalize(to_light + to_eye)), 0.0, 1.0);
  float highlight = (surface.shininess + 8.0) / (8.0 * pi) * pow(n_dot_h, surface.shininess);
  return dot(surface.normal, to_light) > 0.0 ? surface.base_color / pi + surface.specular * highlight : vec3(0.0);
}

vec3 brdf(Surface surface, vec3 to_light, vec3 to_eye) {
  return surface.shading == BLINN_PHONG ? blinn_phong_brdf(surface, to_light, to_eye)
                                        : metallic_roughness_brdf(surface, to_light, to_eye);
}
