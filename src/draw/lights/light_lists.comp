// Which lights can reach what is in each cell of the picture: sixteen invocations for each light, which go through the cells that
// it may reach. All bits are 0 before.
#include "periscena/light_cells.glsl"

layout(local_size_x = 64) in;

struct LightReach {
  vec4 ball;       // camera space; w: radius, below 0 without end
  vec4 rect;       // pixels: left, bottom, right, top
  vec4 distances;  // nearest, farthest along the view axis
};
layout(std430, binding = REACH_STORAGE) readonly buffer LightReaches { LightReach reaches[]; };

const float rounding = 1e-4;
const int invocations = 16;

#ifdef LIGHT_SLICES
uniform vec2 light_slices = vec2(1.0);  // where the first one ends, metres; slices for each doubling of distance

int slice_at(float away) {
  return away > light_slices.x ? clamp(1 + int(log2(away / light_slices.x) * light_slices.y), 1, LIGHT_SLICES - 1) : 0;
}

vec2 distances_of(ivec3 cell) {
  vec2 distances = light_slices.x * exp2((vec2(cell.z, cell.z + 1) - 1.0) / light_slices.y);
  if (cell.z == 0) distances.x = camera.projection[2][3] == 0.0 ? -endless : 0.0;
  if (cell.z == LIGHT_SLICES - 1) distances.y = endless;
  return distances;
}
#else
vec2 distances_of(ivec3 cell) {
  int at = light_picture.w + 2 * (cell.y * light_grid.x + cell.x);
  return uintBitsToFloat(uvec2(imageLoad(lists, place_of(at)).r, imageLoad(lists, place_of(at + 1)).r));
}
#endif

// From where to where what lies between two distances is, in camera space, along an axis; ends: of the cell, in clip space
// by distance.
vec2 extent(vec2 ends, vec2 distances, int axis) {
  if (camera.projection[2][3] == 0.0) return (ends - camera.projection[3][axis]) / camera.projection[axis][axis];
  vec2 slopes = (ends + camera.projection[2][axis]) / camera.projection[axis][axis];
  return vec2(min(slopes.x * distances.x, slopes.x * distances.y), max(slopes.y * distances.x, slopes.y * distances.y));
}

bool reaches_cell(LightReach light, ivec3 cell) {
  vec2 distances = distances_of(cell);
  if (distances.x > distances.y) return false;
  distances += rounding * vec2(-1.0, 1.0) * abs(distances);
  if (light.distances.x > distances.y || light.distances.y < distances.x) return false;
  if (light.ball.w < 0.0) return true;
  ivec2 first = cell.xy << light_tile_bits;
  vec4 clip = 2.0 * vec4(first, min(first + (1 << light_tile_bits), light_picture.xy)) / vec4(light_picture.xyxy) - 1.0;
  vec2 x = extent(clip.xz, distances, 0), y = extent(clip.yw, distances, 1);
  vec3 apart = light.ball.xyz - clamp(light.ball.xyz, vec3(x.x, y.x, -distances.y), vec3(x.y, y.y, -distances.x));
  float radius = light.ball.w * (1.0 + rounding) + rounding * abs(light.ball.z);
  return dot(apart, apart) <= radius * radius;
}

void put_into(int number, ivec3 cell) {
  int first = (cell.z * light_grid.y + cell.y * light_grid.x + cell.x) * light_grid.z, word = number >> 5;
  uint before = imageAtomicOr(lists, place_of(first + light_grid.w + word), 1u << (number & 31));
  // Whoever comes to a word first says that it is not 0.
  if (before == 0u) imageAtomicOr(lists, place_of(first + (word >> 5)), 1u << (word & 31));
}

void main() {
  int index = int(gl_LocalInvocationIndex), group = int(gl_WorkGroupID.y * gl_NumWorkGroups.x + gl_WorkGroupID.x);
  int number = group * (64 / invocations) + index / invocations;
  if (number >= light_picture.z) return;
  LightReach light = reaches[number];
  // Pixels are whole numbers; what can't be seen lies at -1 and before.
  if (light.rect.z < 0.0) return;
  ivec3 low = ivec3(max(ivec2(light.rect.xy), 0) >> light_tile_bits, 0);
  ivec3 high = ivec3(min(ivec2(light.rect.zw), light_picture.xy - 1) >> light_tile_bits, 0);
#ifdef LIGHT_SLICES
  // One more on both sides, as logarithms are rounded.
  low.z = max(slice_at(light.distances.x) - 1, 0);
  high.z = min(slice_at(light.distances.y) + 1, LIGHT_SLICES - 1);
#endif
  ivec3 size = high - low + 1;
  if (any(lessThan(size, ivec3(1)))) return;
  for (int i = index % invocations; i < size.x * size.y * size.z; i += invocations) {
    ivec3 cell = low + ivec3(i % size.x, i / size.x % size.y, i / (size.x * size.y));
    if (reaches_cell(light, cell)) put_into(number, cell);
  }
}
