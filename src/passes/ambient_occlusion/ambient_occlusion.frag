// Takes 4 x 4 ways of looking together, without crossing edges: of what lies on the plane of the pixel.
#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
#include "periscena/geometry_buffer.glsl"

uniform sampler2D depth, normal, raw;
uniform float background;
uniform float strength;

layout(location = 0) out float occlusion;

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy), last = textureSize(depth, 0) - 1;
  float seen = texelFetch(depth, at, 0).r;
  occlusion = 1.0;
  if (seen == background) return;
  vec3 place = world_position(uv, seen), n = from_octahedral(texelFetch(normal, at, 0).zw);
  float away = max(distance_at(seen), 1e-3), sum = 0.0, whole = 0.0;
  for (int y = -2; y <= 2; ++y) {
    for (int x = -2; x <= 2; ++x) {
      ivec2 there = clamp(at + ivec2(x, y), ivec2(0), last);
      float other = texelFetch(depth, there, 0).r;
      if (other == background) continue;
      vec3 way = world_position((vec2(there) + 0.5) / frame.resolution, other) - place;
      // Off the plane by less than a hundredth of the distance, and facing the same way.
      float weight = clamp(2.0 - abs(dot(way, n)) / (0.005 * away), 0.0, 1.0);
      weight *= smoothstep(0.7, 0.95, dot(n, from_octahedral(texelFetch(normal, there, 0).zw)));
      weight *= (abs(x) == 2 ? 0.5 : 1.0) * (abs(y) == 2 ? 0.5 : 1.0);
      sum += weight * texelFetch(raw, there, 0).r;
      whole += weight;
    }
  }
  occlusion = pow(whole > 0.0 ? sum / whole : texelFetch(raw, at, 0).r, strength);
}
