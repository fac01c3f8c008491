#pragma once

#include <periscena/gl/buffer.h>
#include <periscena/image/format.h>

namespace periscena::gl {

/// A buffer that programs read as a row of texels, by texelFetch of a samplerBuffer: what each invocation reads
/// elsewhere, some devices find sooner that way than in a storage block.
class BufferTexture {
 public:
  BufferTexture() = default;

  /// @param buffer  lives as long as this is used @param format  of 32-bit channels
  /// @throws Mistake "over-device-limit" when it has more texels than the device's MAX_TEXTURE_BUFFER_SIZE
  BufferTexture(const Buffer& buffer, Format format, std::string_view label);

  std::uint32_t name() const { return name_.get(); }

 private:
  ObjectName<ObjectKind::texture> name_;
};

}  // namespace periscena::gl
