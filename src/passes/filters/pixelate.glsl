uniform int $cell;

vec4 $step(sampler2D from) {
  ivec2 size = textureSize(from, 0), at = min(ivec2(uv * vec2(size)), size - 1);
  // From the upper left corner, so that the cells at the top and the left are whole.
  ivec2 top_left = ivec2(at.x, size.y - 1 - at.y) / $cell * $cell, count = min(ivec2($cell), size - top_left);
  vec4 sum = vec4(0.0);
  for (int y = 0; y < count.y; ++y) {
    for (int x = 0; x < count.x; ++x) sum += texelFetch(from, ivec2(top_left.x + x, size.y - 1 - top_left.y - y), 0);
  }
  return sum / float(count.x * count.y);
}
