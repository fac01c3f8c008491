#include <periscena/gl/frame_runner.h>

using namespace periscena;

int main() {
  auto device = gl::Device::headless();
  FrameGraph frame;
  frame.add({.name = "clear", .writes = {{"color", frame.output()}}, .work = gl::raw_work([](auto&) {})});
  gl::FrameRunner runner(device, frame.plan(4, 4, device.limits()).value());
  runner.run(0);
  return runner.read("output").at(0, 0)[3] == 255 ? 0 : 1;
}
