#pragma once

#include <periscena/gl/framebuffer.h>
#include <periscena/gl/pass_work.h>
#include <periscena/gl/sampler.h>

namespace periscena::draw {

/// Depth of what hides others, and the farthest of it over squares of two, four, eight … pixels.
class DepthPyramid {
 public:
  /// @param samples  of the targets that it stands for: all of a pixel's count
  DepthPyramid(gl::Device& device, int width, int height, int samples, DepthOrder order);

  /// Draw what hides others from now on, until build().
  void begin(const gl::PassContext& context) const;

  /// Goes back to the pass' own targets.
  void build(const gl::PassContext& context);

  bool reversed() const { return reversed_; }
  std::uint32_t texture() const { return levels_.name(); }
  std::uint32_t sampler() const { return nearest_.name(); }
  Vec2 size() const { return {static_cast<float>(depth_.width()), static_cast<float>(depth_.height())}; }

 private:
  gl::Texture depth_, levels_;
  gl::Framebuffer framebuffer_;
  gl::Sampler nearest_;
  gl::Program program_;
  gl::Uniform<int> from_width_, from_height_, level_below_;
  bool reversed_;
};

}  // namespace periscena::draw
