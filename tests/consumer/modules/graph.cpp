#include <periscena/graph/frame_graph.h>

using namespace periscena;

int main() {
  FrameGraph frame;
  frame.add({.name = "copy", .writes = {{"color", "otput"}}});
  return frame.plan(4, 4).ok() ? 1 : 0;  // the name is misspelt
}
