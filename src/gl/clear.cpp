#include "gl/clear.h"

#include <array>

namespace periscena::gl {
namespace {

template <class Number>
std::array<Number, 4> color_as(const TargetDescription& target) {
  std::array<Number, 4> color{};
  for (std::size_t i = 0; i < 4; ++i) color[i] = static_cast<Number>(target.clear_color[i]);
  return color;
}

}  // namespace

void clear_attachment(std::uint32_t framebuffer, const TargetDescription& target, int draw_buffer) {
  const FormatInfo& format = info(target.format);
  if (format.depth && format.stencil) {
    glClearNamedFramebufferfi(framebuffer, GL_DEPTH_STENCIL, 0, target.clear_depth, target.clear_stencil);
  } else if (format.depth) {
    glClearNamedFramebufferfv(framebuffer, GL_DEPTH, 0, &target.clear_depth);
  } else if (format.stencil) {
    glClearNamedFramebufferiv(framebuffer, GL_STENCIL, 0, &target.clear_stencil);
  } else if (format.numbers == NumberKind::signed_integer) {
    glClearNamedFramebufferiv(framebuffer, GL_COLOR, draw_buffer, color_as<GLint>(target).data());
  } else if (format.numbers == NumberKind::unsigned_integer) {
    glClearNamedFramebufferuiv(framebuffer, GL_COLOR, draw_buffer, color_as<GLuint>(target).data());
  } else {
    glClearNamedFramebufferfv(framebuffer, GL_COLOR, draw_buffer, target.clear_color.data());
  }
}

}  // namespace periscena::gl
