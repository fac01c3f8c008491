// What the programs share that cull on the device. Entries are objects in the order in which they are drawn; a command draws
// some that follow each other; a run is some commands that follow each other, drawn by one call.
#include "periscena/bindings.glsl"

struct Entry {
  uint node, command;
  uint occludes;  // 1: what lies behind it may be left out
};
layout(std430, binding = ENTRY_STORAGE) readonly buffer Entries { Entry entries[]; };

// By entry, and one more: how many of its group are drawn and stand before it. The highest bit: it is drawn itself.
layout(std430, binding = RANK_STORAGE) buffer Ranks { uint ranks[]; };
// By group of 256 entries: how many are drawn; then, how many are drawn before it.
layout(std430, binding = TOTAL_STORAGE) buffer Totals { uint totals[]; };

const uint drawn_bit = 0x80000000u;

uint drawn_before(uint entry) { return totals[entry / 256u] + (ranks[entry] & ~drawn_bit); }

// What a command is when all is drawn.
struct PlannedCommand {
  uint index_count, first_index;
  int base_vertex;
  uint first, count;  // of its entries
};
layout(std430, binding = PLAN_STORAGE) readonly buffer PlannedCommands { PlannedCommand plan[]; };

uint group_number() { return gl_WorkGroupID.x + gl_WorkGroupID.y * gl_NumWorkGroups.x; }
