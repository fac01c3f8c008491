#pragma once

#include "gl/device.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/forward.h>

/// What a forward pass makes of a scene, seen through its view "front": linear light in floats.
inline periscena::Image render_front(periscena::gl::Device& device,
                                     const std::shared_ptr<const periscena::Scene>& scene, int size,
                                     periscena::passes::Forward options = {}, double seconds = 0) {
  using namespace periscena;
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
  frame.keep(color);
  options.scene = scene;
  options.view = "front";
  options.color = color;
  options.depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::forward(options));
  gl::FrameRunner runner(device, frame.plan(size, size, device.limits()).value());
  runner.run(seconds);
  return runner.read("color");
}

inline periscena::Vec3 rgb(const periscena::Image& image, int x, int y) {
  const auto p = image.at(x, y);
  return periscena::DoubleVec3(p[0], p[1], p[2]).cast<float>();
}
