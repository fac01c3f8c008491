// Half of the way of something while the shutter is open.

uniform float half_shutter = 0.25;  // share of the velocity's time
uniform float largest = 1.0;        // pixels

// Pixels. @param velocity  shares of the picture
vec2 half_way(vec2 velocity, vec2 size) {
  vec2 way = velocity * size * half_shutter;
  way = mix(way, vec2(0.0), isnan(way));
  return way * min(1.0, largest / max(length(way), 1e-6));
}
