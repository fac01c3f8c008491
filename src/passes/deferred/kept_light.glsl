// What a light buffer keeps: the sums over lights of brdf.glsl's terms that a surface's colour only scales.
#include "periscena/brdf.glsl"

const float dielectric = 0.04;   // by which highlights are scaled, so that half floats hold them
const float largest_half = 65504.0;
const vec3 luminance = vec3(0.2126, 0.7152, 0.0722);

struct KeptLight {
  vec4 diffuse, specular;
};

// Of one light. Schlick's F = f0 (1 - f) + f, so what f0 scales is kept apart from the rest.
void keep_light(inout KeptLight sum, Surface surface, vec3 to_light, vec3 to_eye, vec3 lux) {
  float n_dot_l = dot(surface.normal, to_light), n_dot_v = seen_cosine(surface.normal, to_eye);
  if (n_dot_l <= 0.0) return;
  vec3 arriving = lux * n_dot_l, halfway = normalize(to_light + to_eye);
  float n_dot_h = clamp(dot(surface.normal, halfway), 0.0, 1.0);
  if (surface.shading == BLINN_PHONG) {
    float highlight = (surface.shininess + 8.0) / (8.0 * pi) * pow(n_dot_h, surface.shininess);
    sum.diffuse.rgb += arriving / pi;
    sum.specular.rgb += dielectric * highlight * arriving;
    return;
  }
  float rough = max(surface.roughness, least_roughness), alpha = rough * rough;
  float grazing = schlick(vec3(0.0), dot(to_eye, halfway)).x;
  float specular = dielectric * ggx_distribution(n_dot_h, alpha) * smith_visibility(n_dot_l, n_dot_v, alpha);
  sum.diffuse.rgb += arriving * (1.0 - grazing) / pi;
  sum.specular += specular * vec4(arriving * (1.0 - grazing), dot(arriving, luminance) * grazing);
}

// What a surface makes of it.
vec3 from_kept_light(KeptLight kept, Surface surface) {
  vec3 highlight = kept.specular.rgb / dielectric;
  if (surface.shading == BLINN_PHONG) return surface.base_color * kept.diffuse.rgb + surface.specular * highlight;
  vec3 f0 = mix(vec3(dielectric), surface.base_color, surface.metallic);
  // The colour of the light at grazing angles is that of the highlight, or of what the surface gets.
  vec3 like = dot(highlight, luminance) > 0.0 ? highlight : kept.diffuse.rgb;
  vec3 tint = like / max(dot(like, luminance), 1e-20);
  return (1.0 - f0) * (1.0 - surface.metallic) * surface.base_color * kept.diffuse.rgb + f0 * highlight +
         kept.specular.a / dielectric * tint;
}
