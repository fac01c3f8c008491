// One level of a pyramid of depths: each texel is the farthest of the four below it. Level 0 is made of the pixels, all samples of
// each. Kept as nearness, which grows towards the eye: depth when near is 1, else depth with its sign changed.
layout(local_size_x = 8, local_size_y = 8) in;
layout(r32f, binding = 0) uniform writeonly image2D into;

uniform int from_width = 0, from_height = 0;  // of the level below, or in pixels; what is outside hides all
uniform int level_below = -1;        // -1: the pixels
uniform bool reversed = true;
#ifdef SAMPLES
uniform sampler2DMS depth;
#else
uniform sampler2D depth;
#endif
uniform sampler2D pyramid;

float nearness_at(ivec2 texel) {
  if (any(greaterThanEqual(texel, ivec2(from_width, from_height)))) return 1e30;
  if (level_below >= 0) return texelFetch(pyramid, texel, level_below).r;
#ifdef SAMPLES
  float farthest = 1e30;
  for (int i = 0; i < SAMPLES; ++i) {
    float found = texelFetch(depth, texel, i).r;
    farthest = min(farthest, reversed ? found : -found);
  }
  return farthest;
#else
  float found = texelFetch(depth, texel, 0).r;
  return reversed ? found : -found;
#endif
}

void main() {
  ivec2 texel = ivec2(gl_GlobalInvocationID.xy);
  if (any(greaterThanEqual(texel, imageSize(into)))) return;
  ivec2 at = 2 * texel;
  float farthest = min(min(nearness_at(at), nearness_at(at + ivec2(1, 0))),
                       min(nearness_at(at + ivec2(0, 1)), nearness_at(at + ivec2(1, 1))));
  imageStore(into, texel, vec4(farthest));
}
