#include <periscena/periscena.h>

int main() {
  periscena::FrameGraph frame;
  frame.add({.name = "clear", .writes = {{"color", frame.output()}}, .work = periscena::gl::raw_work([](auto&) {})});
  auto device = periscena::gl::Device::headless();
  periscena::gl::FrameRunner runner(device, frame.plan(4, 4, device.limits()).value());
  runner.run(0);
  return runner.read("output").at(0, 0)[3] == 255 ? 0 : 1;
}
