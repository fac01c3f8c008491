// The lights of a pass and what gets past its shadows, for every program alike.
#include "periscena/lighting.glsl"
#ifdef SHADOWS
#include "periscena/shadow_lookup.glsl"
#endif
#ifdef ONE_LIGHT
layout(location = 1) flat in int light_number;
#endif

// What shadows leave of a light, 0..1. normal: of the surface at `position`, length 1, or 0 for a point in the air;
// to_light: length 1.
float share_past_shadows(int number, vec3 position, vec3 normal, vec3 to_light) {
#ifdef SHADOWS
  int shadow = int(lights[number].direction.w);
  if (shadow != 0) return light_past(shadow, position, normal, to_light);
#endif
  return 1.0;
}

// lux that get from a light, 0 to lighting.light_count - 1, to what faces it at `position`.
vec3 light_reaching(int number, vec3 position, vec3 normal, out vec3 to_light) {
  vec3 lux = light_at(lights[number], position, to_light);
  return lux == vec3(0.0) ? lux : lux * share_past_shadows(number, position, normal, to_light);
}

// The lights that may reach what is at `position` and seen at this pixel, one after the other; the rest of them do not:
//   EACH_LIGHT_NEAR(i, position) sum += light_reaching(i, position, normal, to_light);
// A single loop, with `break` and `continue`; not one within another.
#ifdef LIGHT_LISTS
#define EACH_LIGHT_NEAR(i, position) for (int i = first_light_near(position); i >= 0; i = next_light_near())
uniform usampler2D light_lists;       // of each cell: a bit for each word of the next that is not 0, then a bit for each light
uniform ivec4 light_grid = ivec4(1);  // cells across, cells of a slice, words of a cell, and of those the ones before the lights' bits
#ifdef LIGHT_SLICES
uniform vec2 light_slices = vec2(1.0);  // where the first one ends, metres; slices for each doubling of distance
uniform int light_tile_bits = 4;  // cells are 2 to that many pixels wide
#else
const int light_tile_bits = LIGHT_TILE_BITS;
#endif

// Where the loop is.
int light_cell, light_group, light_word_at;
uint light_words, light_bits;  // that are still to come

uint light_word(int at) { return texelFetch(light_lists, ivec2(at & (LIST_WIDTH - 1), at / LIST_WIDTH), 0).r; }

#ifndef PIXEL_HERE
#define PIXEL_HERE ivec2(gl_FragCoord.xy)
#endif

// The next one, or -1.
int next_light_near() {
  while (light_bits == 0u) {
    while (light_words == 0u) {
      if (++light_group >= light_grid.w) return -1;
      light_words = light_word(light_cell + light_group);
    }
    light_word_at = light_group * 32 + findLSB(light_words);
    light_words &= light_words - 1u;
    light_bits = light_word(light_cell + light_grid.w + light_word_at);
  }
  int number = light_word_at * 32 + findLSB(light_bits);
  light_bits &= light_bits - 1u;
  return number;
}

int first_light_near(vec3 position) {
  ivec2 tile = PIXEL_HERE >> light_tile_bits;
  int cell = tile.y * light_grid.x + tile.x;
#ifdef LIGHT_SLICES
  float away = -(camera.view * vec4(position, 1.0)).z;
  if (away > light_slices.x)
    cell += clamp(1 + int(log2(away / light_slices.x) * light_slices.y), 1, LIGHT_SLICES - 1) * light_grid.y;
#endif
  light_cell = cell * light_grid.z;
  light_group = -1;
  light_words = light_bits = 0u;
  return next_light_near();
}
#else
// A plain loop, which compilers write out when there are few.
#define EACH_LIGHT_NEAR(i, position) for (int i = FIRST_LIGHT; i < LIGHTS_END; ++i)
#ifdef ONE_LIGHT
#define FIRST_LIGHT light_number
#define LIGHTS_END (light_number + 1)
#else
#define FIRST_LIGHT 0
#ifdef ENDLESS_LIGHTS
#define LIGHTS_END ENDLESS_LIGHTS
#elif defined(LIGHT_COUNT)
#define LIGHTS_END LIGHT_COUNT
#else
#define LIGHTS_END lighting.light_count
#endif
#endif
#endif
