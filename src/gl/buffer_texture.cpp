#include "gl/buffer_texture.h"

#include "gl/api.h"
#include "gl/formats.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

namespace periscena::gl {

BufferTexture::BufferTexture(const Buffer& buffer, Format format, std::string_view label) {
  GLint most = 0;
  glGetIntegerv(GL_MAX_TEXTURE_BUFFER_SIZE, &most);
  const std::size_t texels = buffer.size() / static_cast<std::size_t>(info(format).bytes);
  if (texels > static_cast<std::size_t>(most)) {
    throw Mistake("over-device-limit", {},
                  fmt::format("buffer \"{}\" has {} texels, over the {} of this device", label, texels, most),
                  "read it as a storage block");
  }
  GLuint name = 0;
  glCreateTextures(GL_TEXTURE_BUFFER, 1, &name);
  name_ = ObjectName<ObjectKind::texture>(name);
  glTextureBuffer(name, gl_format(format).internal, buffer.name());
  name_.set_label(label);
}

}  // namespace periscena::gl
