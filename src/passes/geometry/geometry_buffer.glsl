// What a geometry buffer keeps of a surface, and how: written by geometry.frag, read by everybody else.
#include "periscena/brdf.glsl"

// A direction as a place on the unit square, and back: the octahedron |x| + |y| + |z| = 1 unfolded.
// Meyer, Süßmuth, Sußner, Stamminger, Greiner, "On Floating-Point Normal Vectors", EGSR 2010.
vec2 octahedral(vec3 n) {
  vec2 p = n.xy / (abs(n.x) + abs(n.y) + abs(n.z));
  vec2 folded = (1.0 - abs(p.yx)) * mix(vec2(-1.0), vec2(1.0), greaterThanEqual(p, vec2(0.0)));
  return 0.5 + 0.5 * (n.z < 0.0 ? folded : p);
}

vec3 from_octahedral(vec2 at) {
  vec2 p = 2.0 * at - 1.0;
  vec3 n = vec3(p, 1.0 - abs(p.x) - abs(p.y));
  if (n.z < 0.0) n.xy = (1.0 - abs(n.yx)) * mix(vec2(-1.0), vec2(1.0), greaterThanEqual(n.xy, vec2(0.0)));
  return normalize(n);
}

// Of normals the surface's, then the triangle's, which keeps planes from shadowing themselves.
vec4 kept_normals(Surface surface, SurfacePoint point) {
  return surface.shading == UNLIT ? vec4(0.5) : vec4(octahedral(surface.normal), octahedral(point.plane));
}

// Roughness or the exponent's logarithm; metalness or how grey the highlight is; occlusion; and in eighths of a byte's range
// the kind of shading and whether shadows fall there.
vec4 kept_material(Surface surface, SurfacePoint point) {
  bool glossy = surface.shading == BLINN_PHONG;
  float roughness = glossy ? log2(1.0 + surface.shininess) / 16.0 : surface.roughness;
  float metallic = glossy ? dot(surface.specular, vec3(0.2126, 0.7152, 0.0722)) : surface.metallic;
  return vec4(roughness, metallic, surface.occlusion, float(surface.shading + (point.shadowed ? 4 : 0)) / 255.0);
}

Surface kept_surface(vec4 normals, vec4 material, vec3 base_color, vec3 emission, out bool shadowed) {
  int kind = int(material.w * 255.0 + 0.5);
  shadowed = (kind & 4) != 0;
  Surface surface;
  surface.shading = SHADING_OF(kind & 3);
  surface.base_color = base_color;
  surface.alpha = 1.0;
  surface.metallic = material.y;
  surface.roughness = material.x;
  surface.specular = vec3(material.y);
  surface.shininess = exp2(16.0 * material.x) - 1.0;
  surface.normal = from_octahedral(normals.xy);
  surface.emission = emission;
  surface.occlusion = material.z;
  return surface;
}
