#include <periscena/scene/shading.h>

#include <algorithm>
#include <cmath>

namespace periscena {

float ggx_distribution(float n_dot_h, float alpha) {
  const float a2 = alpha * alpha;
  const float f = n_dot_h * n_dot_h * (a2 - 1) + 1;
  return a2 / (pi * f * f);
}

float smith_visibility(float n_dot_l, float n_dot_v, float alpha) {
  const float a2 = alpha * alpha;
  const float from_light = n_dot_l * std::sqrt(n_dot_v * n_dot_v * (1 - a2) + a2);
  const float from_eye = n_dot_v * std::sqrt(n_dot_l * n_dot_l * (1 - a2) + a2);
  return 0.5f / (from_light + from_eye);
}

Vec3 schlick(const Vec3& f0, float v_dot_h) {
  return f0 + (Vec3::ones() - f0) * std::pow(std::clamp(1 - v_dot_h, 0.0f, 1.0f), 5.0f);
}

float seen_cosine(const Vec3& normal, const Vec3& to_eye) {
  return std::max(normal.dot(to_eye), least_cosine);
}

Vec3 metallic_roughness_brdf(const Surface& surface, const Vec3& to_light, const Vec3& to_eye) {
  const float n_dot_l = surface.normal.dot(to_light), n_dot_v = seen_cosine(surface.normal, to_eye);
  if (n_dot_l <= 0) return Vec3::zero();
  const Vec3 half = (to_light + to_eye).normalized();
  const float n_dot_h = std::clamp(surface.normal.dot(half), 0.0f, 1.0f);
  const float rough = std::max(surface.roughness, least_roughness), alpha = rough * rough;
  const Vec3 f0 = Vec3::constant(0.04f) + surface.metallic * (surface.base_color - Vec3::constant(0.04f));
  const Vec3 fresnel = schlick(f0, to_eye.dot(half));
  const Vec3 diffuse = (1 - surface.metallic) * surface.base_color / pi;
  const float specular = ggx_distribution(n_dot_h, alpha) * smith_visibility(n_dot_l, n_dot_v, alpha);
  return (Vec3::ones() - fresnel).times(diffuse) + fresnel * specular;
}

Vec3 blinn_phong_brdf(const Surface& surface, const Vec3& to_light, const Vec3& to_eye) {
  if (surface.normal.dot(to_light) <= 0) return Vec3::zero();
  const float n_dot_h = std::clamp(surface.normal.dot((to_light + to_eye).normalized()), 0.0f, 1.0f);
  const float highlight = (surface.shininess + 8) / (8 * pi) * std::pow(n_dot_h, surface.shininess);
  return surface.base_color / pi + surface.specular * highlight;
}

}  // namespace periscena
