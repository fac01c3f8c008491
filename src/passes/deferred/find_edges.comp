// Finds the pixels whose samples are of different surfaces, and the tiles that have some. A group for each tile.
#include "periscena/bindings.glsl"
#include "periscena/camera.glsl"
#include "periscena/geometry_buffer.glsl"

layout(local_size_x = 16, local_size_y = 16) in;

uniform sampler2DMS depth, normal, base_color, material;
#ifdef READS_EMISSION
uniform sampler2DMS emission;
#endif
uniform float background = 0.0;
uniform vec4 picture = vec4(1.0);  // pixels: width, height
layout(r8ui, binding = 0) writeonly uniform uimage2D edges;
layout(r8ui, binding = 1) writeonly uniform uimage2D edge_tiles;

shared uint found;

bool differ(vec4 a, vec4 b, float by) { return any(greaterThan(abs(a - b), vec4(by))); }

// Surfaces that meet: another direction, colour or kind; or one before the other, farther apart than the slope makes them.
bool is_edge(ivec2 at) {
  float first = texelFetch(depth, at, 0).r;
  vec4 normals = texelFetch(normal, at, 0), stuff = texelFetch(material, at, 0), colors = texelFetch(base_color, at, 0);
  float nearest = distance_at(first), farthest = nearest;
  for (int i = 1; i < SAMPLES; ++i) {
    float seen = texelFetch(depth, at, i).r;
    if ((seen == background) != (first == background)) return true;
    if (first == background) continue;
    float away = distance_at(seen);
    nearest = min(nearest, away);
    farthest = max(farthest, away);
    if (differ(normals, texelFetch(normal, at, i), 0.02) || differ(stuff, texelFetch(material, at, i), 0.01) ||
        differ(colors, texelFetch(base_color, at, i), 0.03))
      return true;
#ifdef READS_EMISSION
    vec4 own = texelFetch(emission, at, 0), other = texelFetch(emission, at, i);
    if (differ(own, other, 0.02 * (own.r + own.g + own.b) + 1e-4)) return true;
#endif
  }
  if (first == background) return false;
  vec2 uv = (vec2(at) + 0.5) / picture.xy;
  float facing = max(abs(dot(from_octahedral(normals.zw), camera_ray(uv))), 0.02);
  bool perspective = camera.projection[2][3] != 0.0;
  float pixel = 2.0 * (perspective ? nearest : 1.0) / (camera.projection[1][1] * picture.y);
  return farthest - nearest > 3.0 * pixel / facing;
}

void main() {
  if (gl_LocalInvocationIndex == 0u) found = 0u;
  barrier();
  ivec2 at = ivec2(gl_GlobalInvocationID.xy);
  bool inside = all(lessThan(at, ivec2(picture.xy)));
  bool edge = inside && is_edge(at);
  if (inside) imageStore(edges, at, uvec4(edge ? 1u : 0u));
  if (edge) atomicOr(found, 1u);
  barrier();
  if (gl_LocalInvocationIndex == 0u) imageStore(edge_tiles, ivec2(gl_WorkGroupID.xy), uvec4(found));
}
