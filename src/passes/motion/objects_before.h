#pragma once

#include "draw/scene/scene_buffers.h"

namespace periscena::passes {

/// Where a scene's objects were at an earlier time, on the device: the storage block ObjectsBefore, laid out as Objects
/// is. A frame is a function of time, so nothing is remembered: they are placed by the time, as those of the frame are.
class ObjectsBefore {
 public:
  /// @param scene  must outlive this
  ObjectsBefore(gl::Device& device, const draw::SceneBuffers& scene);

  /// Once a frame, before anything is asked. @param seconds  absolute
  void update(const gl::PassContext& context, double seconds);

  void bind(gl::State& state, std::uint32_t block) const;

  std::span<const Transform> worlds() const { return worlds_; }  ///< by node; those that the device moves as of time 0

  static gl::BlockLayout layout();

 private:
  void place(std::uint32_t node, double seconds);

  const draw::SceneBuffers& scene_;
  draw::Motions motions_;
  std::vector<Transform> worlds_;
  std::vector<draw::ObjectBlock> blocks_;
  std::vector<draw::NodeRange> moving_;
  gl::Buffer objects_;
  double seconds_ = 0;
  bool placed_ = false;
};

}  // namespace periscena::passes
