// A letter on a surface: paint, or light of its own.
#include "periscena/camera.glsl"
#include "periscena/fog.glsl"
#include "periscena/frame.glsl"
#include "periscena/glyph_coverage.glsl"
#include "periscena/lit.glsl"

layout(location = 3) in vec3 position;
layout(location = 4) flat in vec3 normal;

uniform bool lit = true;

layout(location = 0) out vec4 color;

vec3 paint(vec3 base_color) {
  SurfacePoint point;
  point.position = position;
  point.to_eye = normalize(way_to_eye(position));
  point.normal = point.plane = dot(normal, point.to_eye) < 0.0 ? -normal : normal;
  point.tangent = point.bitangent = vec3(0.0);
  point.uv = point.second_uv = vec2(0.0);
  point.color = vec4(1.0);
  point.time = frame.time;
  point.shadowed = true;
  Surface surface;
  surface.shading = METALLIC_ROUGHNESS;
  surface.base_color = base_color;
  surface.alpha = 1.0;
  surface.metallic = 0.0;
  surface.roughness = 0.8;
  surface.specular = vec3(0.0);
  surface.shininess = 0.0;
  surface.normal = point.normal;
  surface.emission = vec3(0.0);
  surface.occlusion = 1.0;
  return shade(surface, point);
}

void main() {
  float alpha = ink.a * glyph_coverage();
  if (alpha <= 0.0) discard;
  vec3 light = lit ? paint(ink.rgb) : ink.rgb;
  color = vec4(through_fog(light, camera.eye, position) * alpha, alpha);
}
