// Which entries are drawn: those that the view may see and, when there is a pyramid, that nothing hides. Or which hide others.
#include "periscena/camera.glsl"
#include "periscena/culling.glsl"
#include "periscena/scan.glsl"

layout(local_size_x = 256) in;

struct Bounds {
  vec4 middle;     // metres, world; w: 1 when they are not finite
  vec4 half_size;  // negative when there is nothing
};
layout(std430, binding = BOUNDS_STORAGE) readonly buffer BoundsOfNodes { Bounds bounds[]; };
// By entry: was it seen in the last frame?
layout(std430, binding = SEEN_STORAGE) buffer Seen { uint seen[]; };

uniform int entry_count = 0;
uniform bool occluders = false;  // choose what hides others, of what was seen last
uniform bool has_pyramid = false;
uniform bool reversed = true;    // near is 1
uniform vec2 size = vec2(1.0);   // pixels of the targets
uniform float least_pixels = 0.0;  // on the picture, that what hides others covers
uniform sampler2D pyramid;       // nearness of what is farthest, see depth_pyramid.comp

// A box on the picture.
struct Outline {
  bool outside;        // surely
  bool crosses;        // the eye, or the near plane: it has no outline
  vec2 low, high;      // -1 to 1
  float nearest;       // nearness: larger is nearer
};

Outline outline_of(vec3 middle, vec3 half_size) {
  Outline found = Outline(false, false, vec2(1e30), vec2(-1e30), -1e30);
  uint all_outside = 63u;
  mat4 m = camera.view_projection;
  for (int i = 0; i < 8; ++i) {
    vec3 side = vec3((i & 1) == 0 ? -1.0 : 1.0, (i & 2) == 0 ? -1.0 : 1.0, (i & 4) == 0 ? -1.0 : 1.0);
    vec4 corner = vec4(middle + side * half_size, 1.0);
    vec4 clip = m * corner;
    // By how much rounding may be off, here and where what hides it was drawn.
    vec4 sizes = abs(corner);
    float off_w = 2e-6 * (abs(m[0][3]) * sizes.x + abs(m[1][3]) * sizes.y + abs(m[2][3]) * sizes.z + abs(m[3][3]));
    float off_z = 2e-6 * (abs(m[0][2]) * sizes.x + abs(m[1][2]) * sizes.y + abs(m[2][2]) * sizes.z + abs(m[3][2]));
    float off_xy = 2e-6 * (abs(m[0][0]) * sizes.x + abs(m[1][0]) * sizes.y + abs(m[2][0]) * sizes.z + abs(m[3][0]) +
                           abs(m[0][1]) * sizes.x + abs(m[1][1]) * sizes.y + abs(m[2][1]) * sizes.z + abs(m[3][1]));
    float w = clip.w + off_w;
    uint outside = (clip.x + off_xy < -w ? 1u : 0u) | (clip.x - off_xy > w ? 2u : 0u) | (clip.y + off_xy < -w ? 4u : 0u) |
                   (clip.y - off_xy > w ? 8u : 0u) | (clip.z + off_z < 0.0 ? 16u : 0u) | (clip.z - off_z > w ? 32u : 0u);
    all_outside &= outside;
    bool before_near = reversed ? clip.z + off_z > clip.w - off_w : clip.z - off_z < 0.0;
    if (before_near || clip.w <= 1000.0 * off_w) {
      found.crosses = true;
      continue;
    }
    vec2 place = clip.xy / clip.w;
    found.low = min(found.low, place);
    found.high = max(found.high, place);
    float depth = reversed ? clip.z : -clip.z;
    found.nearest = max(found.nearest, (depth + off_z) / (depth + off_z > 0.0 ? clip.w - off_w : clip.w + off_w));
  }
  found.outside = all_outside != 0u;
  return found;
}

bool is_hidden(Outline outline) {
  // A pixel more on all sides.
  ivec2 last = ivec2(size) - 1;
  ivec2 low = clamp(ivec2(floor((outline.low * 0.5 + 0.5) * size)) - 1, ivec2(0), last);
  ivec2 high = clamp(ivec2(floor((outline.high * 0.5 + 0.5) * size)) + 1, ivec2(0), last);
  // The level of which two texels each way hold all of it. Texels of level 0 are two pixels wide.
  int level = 0;
  while (any(greaterThan((high >> (level + 1)) - (low >> (level + 1)), ivec2(1)))) ++level;
  ivec2 a = low >> (level + 1), b = high >> (level + 1);
  float farthest = min(min(texelFetch(pyramid, a, level).r, texelFetch(pyramid, ivec2(b.x, a.y), level).r),
                       min(texelFetch(pyramid, ivec2(a.x, b.y), level).r, texelFetch(pyramid, b, level).r));
  return outline.nearest + 1e-6 * abs(outline.nearest) < farthest;
}

bool is_chosen(uint i) {
  Bounds at = bounds[entries[i].node];
  if (at.half_size.x < 0.0) return false;
  bool anywhere = at.middle.w != 0.0;
  if (occluders && (anywhere || entries[i].occludes == 0u || seen[i] == 0u)) return false;
  if (anywhere) return true;
  Outline outline = outline_of(at.middle.xyz, at.half_size.xyz);
  if (outline.outside) return false;
  if (occluders) {
    vec2 covers = 0.5 * (outline.high - outline.low) * size;
    return outline.crosses || covers.x * covers.y >= least_pixels;
  }
  return !has_pyramid || outline.crosses || !is_hidden(outline);
}

void main() {
  uint i = group_number() * 256u + gl_LocalInvocationIndex;
  bool chosen = i < uint(entry_count) && is_chosen(i);
  if (!occluders && i < uint(entry_count)) seen[i] = chosen ? 1u : 0u;
  uint total, before = sum_before(chosen ? 1u : 0u, total);
  if (i <= uint(entry_count)) ranks[i] = before | (chosen ? drawn_bit : 0u);
  if (gl_LocalInvocationIndex == 0u && i <= uint(entry_count)) totals[i / 256u] = total;
}
