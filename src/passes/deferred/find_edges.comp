// Finds the pixels whose samples are of different surfaces, and lists them tile by tile, so that they can be lit side by side:
// each surface of a pixel once, at the first sample that shows it. A group for each tile.
#include "periscena/bindings.glsl"
#include "periscena/camera.glsl"
#include "periscena/edge_place.glsl"
#include "periscena/geometry_buffer.glsl"

layout(local_size_x = 16, local_size_y = 16) in;

uniform sampler2DMS depth, normal, base_color, material;
#ifdef READS_EMISSION
uniform sampler2DMS emission;
#endif
uniform float background = 0.0;
uniform vec4 picture = vec4(1.0);  // pixels: width, height

// Each has a layer for each sample.
layout(EDGE_FORMAT, binding = 0) writeonly uniform uimage2DArray edges;  // see edge_place.glsl; 0 in the first: no edge
layout(r16ui, binding = 1) writeonly uniform uimage2DArray edge_tiles;   // how many of its pixels a tile has to light there
layout(r16ui, binding = 2) writeonly uniform uimage2DArray edge_list;    // at place_of_edge in the tile: 1 + x + 16 y of the pixel; 0: none; not for the first

shared uint found[SAMPLES];
shared uint pixels[SAMPLES * 256];

struct Kept {
  float seen;  // depth
  float away;
  vec4 normals, stuff, colors;
#ifdef READS_EMISSION
  vec4 own;
#endif
};

Kept kept_at(ivec2 at, int i) {
  Kept kept;
  kept.seen = texelFetch(depth, at, i).r;
  kept.away = distance_at(kept.seen);
  kept.normals = texelFetch(normal, at, i);
  kept.stuff = texelFetch(material, at, i);
  kept.colors = texelFetch(base_color, at, i);
#ifdef READS_EMISSION
  kept.own = texelFetch(emission, at, i);
#endif
  return kept;
}

bool differ(vec4 a, vec4 b, float by) { return any(greaterThan(abs(a - b), vec4(by))); }
bool differ(vec2 a, vec2 b, float by) { return any(greaterThan(abs(a - b), vec2(by))); }

// Surfaces are others of another direction, colour or kind, triangles of one smooth surface aside; or when one lies before the
// other, farther than the slope makes it.
// slope: metres of distance that a pixel takes in, a metre away.
bool same_surface(Kept a, Kept b, float slope) {
  if (a.seen == background || b.seen == background) return a.seen == b.seen;
#ifdef READS_EMISSION
  if (differ(a.own, b.own, 0.02 * (a.own.r + a.own.g + a.own.b) + 1e-4)) return false;
#endif
  bool perspective = camera.projection[2][3] != 0.0;
  float allowed = 3.0 * slope * (perspective ? min(a.away, b.away) : 1.0);
  return !differ(a.normals.xy, b.normals.xy, 0.02) && !differ(a.stuff, b.stuff, 0.01) && !differ(a.colors, b.colors, 0.03) &&
         abs(a.away - b.away) <= allowed;
}

void main() {
  int invocation = int(gl_LocalInvocationIndex);
  if (invocation < SAMPLES) found[invocation] = 0u;
  barrier();
  ivec2 at = ivec2(gl_GlobalInvocationID.xy);
  bool inside = all(lessThan(at, ivec2(picture.xy)));
  Kept kept[SAMPLES];
  for (int i = 0; i < SAMPLES; ++i) kept[i] = kept_at(at, i);
  float facing = max(abs(dot(from_octahedral(kept[0].normals.zw), camera_ray((vec2(at) + 0.5) / picture.xy))), 0.02);
  float slope = 2.0 / (camera.projection[1][1] * picture.y * facing);
  // By sample: those that show the same surface, when it is the first of them.
  uint shows[SAMPLES];
  for (int i = 0; i < SAMPLES; ++i) {
    shows[i] = 1u << i;
    bool alone = true;
    for (int k = 0; k < i; ++k) {
      bool same = alone && shows[k] != 0u && same_surface(kept[k], kept[i], slope);
      if (same) shows[k] |= 1u << i;
      alone = alone && !same;
    }
    if (!alone) shows[i] = 0u;
  }
  bool edge = inside && shows[0] != (1u << SAMPLES) - 1u;
  if (inside && !edge) imageStore(edges, ivec3(at, 0), uvec4(0u));
  if (edge) {
    for (int i = 0; i < SAMPLES; ++i) {
      uint entry = 0u;
      if (shows[i] != 0u) {
        uint number = atomicAdd(found[i], 1u);
        pixels[i * 256 + int(number)] = gl_LocalInvocationIndex;
        entry = edge_entry(number, shows[i]);
      }
      imageStore(edges, ivec3(at, i), uvec4(entry));
    }
  }
  barrier();
  // Each invocation fills one place, with an edge, or with none where a block is not full.
  ivec2 tile = ivec2(gl_WorkGroupID.xy);
  for (int i = 0; i < SAMPLES; ++i) {
    int count = int(found[i]);
    if (i > 0 && invocation < (count + 7) / 8 * 8) {
      uint pixel = invocation < count ? pixels[i * 256 + invocation] + 1u : 0u;
      imageStore(edge_list, ivec3(16 * tile + place_of_edge(invocation), i), uvec4(pixel));
    }
    if (invocation == 0) imageStore(edge_tiles, ivec3(tile, i), uvec4(found[i]));
  }
}
