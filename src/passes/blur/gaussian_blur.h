#pragma once

#include "draw/screen/screen_program.h"

#include <periscena/passes/blur.h>

namespace periscena::passes {

/// A Gaussian on the device, to and fro between textures of its own.
class GaussianBlur {
 public:
  /// @param count  times, >= 1; together they are as wide as the deviation says
  GaussianBlur(gl::Device& device, const std::string& name, int count, bool paired);

  /// @param format  of what is blurred: on the way, what has more bits than halves keeps them
  /// @param deviation  standard deviation, pixels of width x height
  void resize(int width, int height, Format format, float deviation);

  /// @param last  where it goes in the end: what is bound; else a texture of its own
  enum class Into { own, output };
  void run(const gl::PassContext& context, const gl::Texture& source, Into last);

  const gl::Texture& result() const { return second_.texture(); }  ///< of Into::own

  std::string way() const;  ///< for people

 private:
  std::string name_;
  int count_;
  bool paired_;
  draw::ScreenProgram first_, program_;
  draw::OwnTarget half_, second_;
  gl::Texture taps_;
  int tap_count_ = 0;
  draw::ScreenSamplers samplers_;
};

}  // namespace periscena::passes
