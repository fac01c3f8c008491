// The cells of a picture that lists of lights are of, and where each of them begins.
#include "periscena/bindings.glsl"
#include "periscena/camera.glsl"

layout(r32ui, binding = 0) uniform uimage2D lists;  // a cell's words after another's; behind all, how far each tile goes

uniform ivec4 light_grid = ivec4(1);  // cells across, cells of a slice, words of a cell, and of those the ones before the lights' bits
uniform ivec4 light_picture = ivec4(1);  // pixels: width, height; lights; the first word behind all cells

#ifdef LIGHT_SLICES
uniform int light_tile_bits = 4;  // cells are 2 to that many pixels wide
#else
const int light_tile_bits = LIGHT_TILE_BITS;
#endif

const float endless = 1e30;

ivec2 place_of(int word) { return ivec2(word & (LIST_WIDTH - 1), word / LIST_WIDTH); }
