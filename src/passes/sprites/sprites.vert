// Places sprites in pixels: six vertices for each. Which cell is shown is a matter of the time.
#include "periscena/frame.glsl"

struct Sprite {
  vec4 place;    // pixels from its corner of the picture; width or 0 for the cell's own; angle, counter-clockwise
  vec4 tint;     // linear; alpha not multiplied in
  ivec4 cells;   // the first, how many to run through, bits: 1 right corner, 2 lower corner, 4 flipped across, 8 flipped up
  vec4 rate;     // x: cells a second
};
layout(std430, binding = SPRITE_STORAGE) readonly buffer Sprites { Sprite sprites[]; };

struct Cell {
  vec4 place;    // x, y, width, height: pixels of its layer, from the upper left
  vec4 sheet;    // x: layer
};
layout(std430, binding = CELL_STORAGE) readonly buffer Cells { Cell cells[]; };

layout(location = 0) noperspective out vec2 texel;
layout(location = 1) flat out vec4 edges;  // middles of the cell's outermost texels
layout(location = 2) flat out float layer;
layout(location = 3) flat out vec4 tint;

void main() {
  Sprite sprite = sprites[gl_VertexID / 6];
  int step_number = int(mod(floor(frame.time * sprite.rate.x), float(sprite.cells.y)));
  Cell cell = cells[sprite.cells.x + step_number];
  const vec2 corners[6] = vec2[](vec2(0, 0), vec2(0, 1), vec2(1, 1), vec2(0, 0), vec2(1, 1), vec2(1, 0));
  vec2 corner = corners[gl_VertexID % 6];  // of the sprite, from its upper left
  int bits = sprite.cells.z;
  vec2 size = cell.place.zw;
  if (sprite.place.z > 0.0) size *= sprite.place.z / size.x;
  vec2 middle = sprite.place.xy + 0.5 * size;  // from the picture's corner inward
  if ((bits & 1) != 0) middle.x = frame.size.x - middle.x;
  if ((bits & 2) != 0) middle.y = frame.size.y - middle.y;
  vec2 arm = (corner - 0.5) * size;
  float c = cos(sprite.place.w), s = sin(sprite.place.w);
  // y runs down, so counter-clockwise looks clockwise to the formula.
  vec2 at = middle + vec2(c * arm.x + s * arm.y, c * arm.y - s * arm.x);
  gl_Position = vec4(at / frame.size * vec2(2.0, -2.0) + vec2(-1.0, 1.0), 0.0, 1.0);
  vec2 within = corner;
  if ((bits & 4) != 0) within.x = 1.0 - within.x;
  if ((bits & 8) != 0) within.y = 1.0 - within.y;
  texel = cell.place.xy + within * cell.place.zw;
  edges = vec4(cell.place.xy + 0.5, cell.place.xy + cell.place.zw - 0.5);
  layer = cell.sheet.x;
  tint = sprite.tint;
}
