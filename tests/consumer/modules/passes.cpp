#include <periscena/graph/frame_graph.h>
#include <periscena/passes/tone_map.h>

using namespace periscena;

int main() {
  FrameGraph frame;
  frame.add(passes::tone_map({.light = "light", .color = frame.output()}));
  return frame.plan(4, 4).ok() ? 1 : 0;  // nothing writes what it reads
}
