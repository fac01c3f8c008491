// Puts elements that were sent close together where they belong.
#include "periscena/bindings.glsl"

layout(local_size_x = 64) in;
layout(std430, binding = SCATTERED_STORAGE) writeonly buffer Scattered { uvec4 scattered[]; };
layout(std430, binding = SENT_STORAGE) readonly buffer Sent { uvec4 sent[]; };
layout(std430, binding = SENT_NUMBER_STORAGE) readonly buffer SentNumbers { uint numbers[]; };

uniform int element_count = 0, texels_each = 1;  // 16 bytes a texel

void main() {
  uint i = (gl_WorkGroupID.x + gl_WorkGroupID.y * gl_NumWorkGroups.x) * 64u + gl_LocalInvocationIndex;
  uint element = i / uint(texels_each);
  if (element >= uint(element_count)) return;
  scattered[numbers[element] * uint(texels_each) + i % uint(texels_each)] = sent[i];
}
