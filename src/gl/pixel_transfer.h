#pragma once

#include "gl/api.h"

#include <periscena/image/image.h>

#include <algorithm>
#include <array>

namespace periscena::gl {

/// Images have row 0 at the top, OpenGL at the bottom.
inline void flip_rows(Image& image) {
  const std::size_t row = image.row_bytes();
  std::byte* pixels = image.bytes().data();
  for (int top = 0, bottom = image.height() - 1; top < bottom; ++top, --bottom) {
    std::swap_ranges(pixels + static_cast<std::size_t>(top) * row, pixels + static_cast<std::size_t>(top + 1) * row,
                     pixels + static_cast<std::size_t>(bottom) * row);
  }
}

/// Where and how pixels go to and come from memory, set plainly for a transfer and then put back: in an adopted context
/// a pixel buffer may be bound, or rows may be skipped.
class PlainPixelTransfer {
 public:
  explicit PlainPixelTransfer(bool pack)
      : buffer_target_(pack ? GL_PIXEL_PACK_BUFFER : GL_PIXEL_UNPACK_BUFFER), names_(pack ? pack_names : unpack_names) {
    glGetIntegerv(pack ? GL_PIXEL_PACK_BUFFER_BINDING : GL_PIXEL_UNPACK_BUFFER_BINDING, &buffer_);
    if (buffer_) glBindBuffer(buffer_target_, 0);
    for (std::size_t i = 0; i < names_.size(); ++i) {
      glGetIntegerv(names_[i], &values_[i]);
      glPixelStorei(names_[i], i == 0 ? 1 : 0);
    }
  }
  PlainPixelTransfer(const PlainPixelTransfer&) = delete;
  PlainPixelTransfer& operator=(const PlainPixelTransfer&) = delete;
  ~PlainPixelTransfer() {
    for (std::size_t i = 0; i < names_.size(); ++i) glPixelStorei(names_[i], values_[i]);
    if (buffer_) glBindBuffer(buffer_target_, static_cast<GLuint>(buffer_));
  }

 private:
  static constexpr std::array<GLenum, 4> pack_names{GL_PACK_ALIGNMENT, GL_PACK_ROW_LENGTH, GL_PACK_SKIP_ROWS,
                                                    GL_PACK_SKIP_PIXELS};
  static constexpr std::array<GLenum, 4> unpack_names{GL_UNPACK_ALIGNMENT, GL_UNPACK_ROW_LENGTH, GL_UNPACK_SKIP_ROWS,
                                                      GL_UNPACK_SKIP_PIXELS};

  GLenum buffer_target_;
  const std::array<GLenum, 4>& names_;
  GLint buffer_ = 0;
  std::array<GLint, 4> values_{};
};

}  // namespace periscena::gl
