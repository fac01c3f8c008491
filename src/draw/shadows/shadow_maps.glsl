// The maps of a pass' shadows, by their numbers, and what they answer. After SHADOW_FILTERS.

// As many as the pass reads: every device has 16 samplers, and not all have more.
#ifndef SHADOWS
#define SHADOWS 4
#endif
uniform sampler2DArrayShadow shadow_map_1;
#if SHADOWS > 1
uniform sampler2DArrayShadow shadow_map_2;
#endif
#if SHADOWS > 2
uniform sampler2DArrayShadow shadow_map_3;
#endif
#if SHADOWS > 3
uniform sampler2DArrayShadow shadow_map_4;
#endif

// place: texture coordinates, layer, depth. Between four texels it is their comparisons that are blended. Maps have one level,
// and neighbouring pixels may not be looked up at all, so gradients are told.
float compare_with_map(int number, vec4 place) {
  switch (number) {
#if SHADOWS > 1
    case 2: return textureGrad(shadow_map_2, place, vec2(0.0), vec2(0.0));
#endif
#if SHADOWS > 2
    case 3: return textureGrad(shadow_map_3, place, vec2(0.0), vec2(0.0));
#endif
#if SHADOWS > 3
    case 4: return textureGrad(shadow_map_4, place, vec2(0.0), vec2(0.0));
#endif
    default: return textureGrad(shadow_map_1, place, vec2(0.0), vec2(0.0));
  }
}

// The four comparisons that one of the above blends, around a place in their middle: upper left, upper right, lower right, lower
// left.
vec4 compare_four(int number, vec3 place, float depth) {
  switch (number) {
#if SHADOWS > 1
    case 2: return textureGather(shadow_map_2, place, depth);
#endif
#if SHADOWS > 2
    case 3: return textureGather(shadow_map_3, place, depth);
#endif
#if SHADOWS > 3
    case 4: return textureGather(shadow_map_4, place, depth);
#endif
    default: return textureGather(shadow_map_1, place, depth);
  }
}

vec2 map_size(int number) {
  switch (number) {
#if SHADOWS > 1
    case 2: return vec2(textureSize(shadow_map_2, 0).xy);
#endif
#if SHADOWS > 2
    case 3: return vec2(textureSize(shadow_map_3, 0).xy);
#endif
#if SHADOWS > 3
    case 4: return vec2(textureSize(shadow_map_4, 0).xy);
#endif
    default: return vec2(textureSize(shadow_map_1, 0).xy);
  }
}

#if SHADOW_FILTERS & CONTACT_BIT
uniform sampler2DArray shadow_depths_1;
#if SHADOWS > 1
uniform sampler2DArray shadow_depths_2;
#endif
#if SHADOWS > 2
uniform sampler2DArray shadow_depths_3;
#endif
#if SHADOWS > 3
uniform sampler2DArray shadow_depths_4;
#endif

// What the map itself says; 0 where it is empty.
float map_depth(int number, vec3 place) {
  switch (number) {
#if SHADOWS > 1
    case 2: return textureLod(shadow_depths_2, place, 0.0).r;
#endif
#if SHADOWS > 2
    case 3: return textureLod(shadow_depths_3, place, 0.0).r;
#endif
#if SHADOWS > 3
    case 4: return textureLod(shadow_depths_4, place, 0.0).r;
#endif
    default: return textureLod(shadow_depths_1, place, 0.0).r;
  }
}
#endif
