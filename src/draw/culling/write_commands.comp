// Writes each run's commands that draw anything, one after the other, and how many they are; a group for each run.
#include "periscena/culling.glsl"
#include "periscena/scan.glsl"

layout(local_size_x = 256) in;

struct Run {
  uint first, count;  // of its commands
};
layout(std430, binding = RUN_STORAGE) readonly buffer Runs { Run runs[]; };

struct Command {
  uint index_count, instances, first_index;
  int base_vertex;
  uint base_instance;
};
layout(std430, binding = COMMAND_STORAGE) writeonly buffer Commands { Command commands[]; };

struct Drawn {
  uint commands, instances, thirds;  // thirds: of indices, times instances
};
layout(std430, binding = DRAWN_STORAGE) writeonly buffer DrawnByRun { Drawn drawn[]; };

uniform int run_count = 0;

void main() {
  uint number = group_number();
  if (number >= uint(run_count)) return;
  Run run = runs[number];
  Drawn sum = Drawn(0u, 0u, 0u);
  for (uint at = 0u; at < run.count; at += 256u) {
    uint k = at + gl_LocalInvocationIndex;
    PlannedCommand planned = PlannedCommand(0u, 0u, 0, 0u, 0u);
    uint instances = 0u;
    if (k < run.count) {
      planned = plan[run.first + k];
      instances = drawn_before(planned.first + planned.count) - drawn_before(planned.first);
    }
    uint total, place = sum_before(instances > 0u ? 1u : 0u, total);
    if (instances > 0u)
      commands[run.first + sum.commands + place] =
          Command(planned.index_count, instances, planned.first_index, planned.base_vertex, planned.first);
    sum.commands += total;
    sum_before(instances, total);
    sum.instances += total;
    sum_before(instances * (planned.index_count / 3u), total);
    sum.thirds += total;
  }
  // The rest draws nothing, for devices that can't read how many there are.
  for (uint k = sum.commands + gl_LocalInvocationIndex; k < run.count; k += 256u)
    commands[run.first + k] = Command(0u, 0u, 0u, 0, 0u);
  if (gl_LocalInvocationIndex == 0u) drawn[number] = sum;
}
