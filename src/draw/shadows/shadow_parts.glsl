// The views that shadow maps are drawn from: each a part of a map, in a square of one of its layers.
#include "periscena/bindings.glsl"

struct ShadowPart {
  mat4 to_map;  // world to the map: texture coordinates and depth, times w
  vec4 tile;    // texture coordinates of the part's corner, and its width and height
  float texel;  // metres that a texel is wide where w is 1
  float layer;
  float near, far;  // metres from the light
  vec4 over_squares;  // xyz, of a far light: 1 over the squared length of each of to_map's rows
};
// A few lie in a block of uniforms, which costs less to read.
#ifdef FEW_SHADOW_PARTS
layout(std140, binding = FEW_SHADOW_PARTS_BLOCK) uniform FewShadowParts { ShadowPart shadow_parts[FEW_SHADOW_PARTS]; };
#else
layout(std430, binding = SHADOW_PART_STORAGE) readonly buffer ShadowParts { ShadowPart shadow_parts[]; };
#endif

// Where something in the world is on the picture of a part, as a vertex program says it.
vec4 clip_in_part(int number, vec4 world) {
  ShadowPart part = shadow_parts[number];
  vec4 place = part.to_map * world;
#ifdef LIGHT_TILES
  return vec4(2.0 * (place.xy - part.tile.xy * place.w) / part.tile.zw - place.w, place.zw);
#else
  return vec4(2.0 * place.xy - place.w, place.zw);  // all of a layer
#endif
}

#ifdef LIGHT_PARTS
uniform int light_part;  // that is drawn

vec4 clip_in_its_part(vec4 world) {
  gl_Layer = int(shadow_parts[light_part].layer);
#ifdef LIGHT_TILES
  gl_ViewportIndex = light_part;
#endif
  return clip_in_part(light_part, world);
}
#endif
