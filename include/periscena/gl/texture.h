#pragma once

#include <periscena/gl/object_name.h>
#include <periscena/image/image.h>

namespace periscena::gl {

/// A two-dimensional image on the device, of a size and format that never change.
class Texture {
 public:
  Texture() = default;

  /// Contents are undefined until something draws into it or upload() is called.
  /// @throws Error "out-of-memory"; Mistake "bad-size"
  Texture(int width, int height, Format format, std::string_view label);

  /// The whole of it, as an image with row 0 at the top. Half floats, packed formats and depth come as 32-bit floats.
  Image read() const;

  /// @param image  of the texture's size, and of its format (8 bit), or 32-bit floats of as many channels for float
  /// formats
  /// @throws Mistake "size-mismatch", "image-format"
  void upload(const Image& image) const;

  std::uint32_t name() const { return name_.get(); }
  int width() const { return width_; }
  int height() const { return height_; }
  Format format() const { return format_; }

 private:
  ObjectName<ObjectKind::texture> name_;
  int width_ = 0, height_ = 0;
  Format format_ = Format::rgba8;
};

}  // namespace periscena::gl
