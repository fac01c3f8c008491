// Counts how bright each block of 4 x 4 pixels is.
#include "periscena/bindings.glsl"

layout(local_size_x = 16, local_size_y = 16) in;

layout(std430, binding = HISTOGRAM_STORAGE) buffer Histogram { uint blocks[256]; };

uniform sampler2D light;
uniform vec2 range = vec2(-6.0, 18.0);  // EV100

shared uint counted[256];

void main() {
  counted[gl_LocalInvocationIndex] = 0u;
  barrier();
  ivec2 size = textureSize(light, 0), from = 4 * ivec2(gl_GlobalInvocationID.xy);
  if (all(lessThan(from, size))) {
    float sum = 0.0, count = 0.0;
    for (int i = 0; i < 16; ++i) {
      ivec2 at = from + ivec2(i & 3, i >> 2);
      float luminance = dot(texelFetch(light, min(at, size - 1), 0).rgb, vec3(0.2126, 0.7152, 0.0722));
      // Neither less than nothing nor what is no finite number counts.
      bool counts = all(lessThan(at, size)) && luminance >= 0.0 && luminance < 1e9;
      sum += counts ? luminance : 0.0;
      count += counts ? 1.0 : 0.0;
    }
    float ev100 = log2(max(sum / max(count, 1.0), 1e-30) * 100.0 / 12.5);
    float place = (ev100 - range.x) / (range.y - range.x) * 256.0;
    if (count > 0.0) atomicAdd(counted[int(clamp(place, 0.0, 255.0))], 1u);
  }
  barrier();
  uint own = counted[gl_LocalInvocationIndex];
  if (own != 0u) atomicAdd(blocks[gl_LocalInvocationIndex], own);
}
