#pragma once

#include "draw/scene/scene_buffers.h"

namespace periscena::passes {

/// Where a scene's objects were at an earlier time, on the device: the storage block ObjectsBefore, laid out as Objects
/// is. What moves by time is placed by the time, so nothing is remembered of it. What the program moves, and what hangs
/// on that, was where the frame before had it.
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
  void place_timed(const gl::PassContext& context, double seconds);
  void place_kept(const gl::PassContext& context);

  const draw::SceneBuffers& scene_;
  draw::Motions motions_;
  std::vector<Transform> worlds_;
  std::vector<draw::ObjectBlock> blocks_;
  std::vector<draw::NodeRange> moving_;
  std::vector<std::uint32_t> dynamic_;  ///< nodes that the program moves, and those that hang on them
  std::vector<Transform> kept_;         ///< of these, in the frame before
  gl::Buffer objects_;
  double seconds_ = 0;
  bool placed_ = false;
};

}  // namespace periscena::passes
