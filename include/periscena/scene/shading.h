#pragma once

#include <periscena/scene/light.h>
#include <periscena/scene/material.h>

namespace periscena {

/// A surface at a point, with its maps looked up: what the GLSL of lit passes calls Surface. The functions here and in
/// src/draw/ have the same names and are tested against each other.
struct Surface {
  Vec3 base_color = Vec3::constant(0.8f);
  float alpha = 1;
  float metallic = 0;
  float roughness = 1;
  Vec3 specular = Vec3::constant(0.04f);
  float shininess = 32;
  Vec3 normal = Vec3::unit_z();  ///< length 1, on the viewer's side
  Vec3 emission = Vec3::zero();
  float occlusion = 1;
};

/// Roughness is taken to be at least this: a smaller lobe falls between the pixels.
inline constexpr float least_roughness = 0.045f;

/// Between a normal and the direction to the eye, taken to be at least this.
inline constexpr float least_cosine = 1e-3f;

/// The cosine. Normals of maps, and those between a mesh's, lean away from the eye where a surface is seen from its
/// side; what is seen faces the eye all the same, and is not dark for that.
float seen_cosine(const Vec3& normal, const Vec3& to_eye);

/// Trowbridge and Reitz' distribution of microfacets (GGX). @param alpha  roughness squared
float ggx_distribution(float n_dot_h, float alpha);

/// Smith's height-correlated visibility for it: masking and shadowing over 4 n·l n·v.
/// @see glTF 2.0, appendix B.3.2
float smith_visibility(float n_dot_l, float n_dot_v, float alpha);

/// Schlick's approximation of Fresnel's reflectance.
Vec3 schlick(const Vec3& f0, float v_dot_h);

/// Share of light per steradian that a surface sends from `to_light` to `to_eye`, without the cosine.
/// @param to_light, to_eye  length 1; @return 0 when the light is behind the surface
/// @see glTF 2.0, appendix B.2 and B.3
Vec3 metallic_roughness_brdf(const Surface& surface, const Vec3& to_light, const Vec3& to_eye);

/// Lambert's law and Blinn's highlight, (s + 8) / 8π · (n·h)^s.
/// @see Akenine-Möller, Haines, Hoffman, "Real-Time Rendering", 3rd edition, 7.6 (normalisation)
Vec3 blinn_phong_brdf(const Surface& surface, const Vec3& to_light, const Vec3& to_eye);

}  // namespace periscena
