#pragma once

#include <periscena/gl/buffer.h>

namespace periscena::gl {

/// A part of a buffer that takes what a vertex program makes, one vertex after the other, in place of a picture
/// (transform feedback, OpenGL 4.5, 13.2). The program says what it captures: `layout(xfb_buffer = 0, xfb_stride = …,
/// xfb_offset = …) out`; bytes between are left as they are. Unlike what programs store, what is captured is in order
/// with the draws before and after it, without a barrier.
class VertexCapture {
 public:
  /// @param into  lives longer than this @param offset, bytes  multiples of 4 within it
  /// @throws Mistake "outside-buffer"
  VertexCapture(const Buffer& into, std::size_t offset, std::size_t bytes, std::string_view label);

  std::uint32_t name() const { return name_.get(); }

 private:
  ObjectName<ObjectKind::transform_feedback> name_;
};

}  // namespace periscena::gl
