// How many are drawn before each group of 256, from how many are drawn in each.
#include "periscena/culling.glsl"
#include "periscena/scan.glsl"

layout(local_size_x = 256) in;
uniform int group_count = 0;

void main() {
  uint sum = 0u;
  for (uint first = 0u; first < uint(group_count); first += 256u) {
    uint i = first + gl_LocalInvocationIndex;
    uint total, before = sum_before(i < uint(group_count) ? totals[i] : 0u, total);
    if (i < uint(group_count)) totals[i] = sum + before;
    sum += total;
  }
}
