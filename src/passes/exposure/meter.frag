// What a meter keeps: nearer to the mean of its histogram, the darkest and the brightest left out.
#include "periscena/frame.glsl"

layout(std430, binding = HISTOGRAM_STORAGE) buffer Histogram { uint blocks[256]; };

uniform sampler2D last;  // EV100 kept, measured, time, 1; 0 in the first frame
uniform vec2 range = vec2(-6.0, 18.0);
uniform vec2 leave_out = vec2(0.4, 0.05);
uniform vec2 speed = vec2(3.0, 1.0);  // to brighter, to darker; per second

layout(location = 0) out vec4 exposure;

void main() {
  float total = 0.0;
  for (int i = 0; i < 256; ++i) total += float(blocks[i]);
  float from = total * leave_out.x, to = total * (1.0 - leave_out.y), before = 0.0, sum = 0.0, count = 0.0;
  for (int i = 0; i < 256; ++i) {
    float after = before + float(blocks[i]);
    float inside = max(min(after, to) - max(before, from), 0.0);
    sum += inside * (float(i) + 0.5);
    count += inside;
    before = after;
    blocks[i] = 0u;
  }
  vec4 was = texelFetch(last, ivec2(0), 0);
  // With nothing to measure, nothing changes.
  float measured = count > 0.0 ? mix(range.x, range.y, sum / count / 256.0) : was.w > 0.0 ? was.x : 0.5 * (range.x + range.y);
  float passed = frame.time - was.z;
  bool begins = was.w == 0.0 || passed < 0.0;
  float share = 1.0 - exp(-passed * (measured > was.x ? speed.x : speed.y));
  exposure = vec4(begins ? measured : mix(was.x, measured, share), measured, frame.time, 1.0);
}
