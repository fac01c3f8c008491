// Puts the nodes that are drawn close together, command by command, in the order of the entries.
#include "periscena/culling.glsl"

layout(local_size_x = 256) in;
layout(std430, binding = NODE_LIST_STORAGE) writeonly buffer NodeList { uint node_list[]; };

uniform int entry_count = 0;

void main() {
  uint i = group_number() * 256u + gl_LocalInvocationIndex;
  if (i >= uint(entry_count) || (ranks[i] & drawn_bit) == 0u) return;
  uint first = plan[entries[i].command].first;
  node_list[first + drawn_before(i) - drawn_before(first)] = entries[i].node;
}
