#pragma once

#include <periscena/gl/buffer.h>
#include <periscena/gl/object_name.h>
#include <periscena/graph/target.h>
#include <periscena/image/image.h>

#include <array>
#include <optional>
#include <span>

namespace periscena::gl {

struct TextureDescription {
  int width = 1, height = 1;
  Format format = Format::rgba8;
  TargetShape shape = TargetShape::flat;
  int layers = 1;   ///< of an array; a cube has 6
  int levels = 1;   ///< mip levels
  int samples = 1;  ///< over 1: multisampled; then one level, and no cube
};

/// Which part of a texture a view shows, and as what format; see share_storage.
struct TextureViewPart {
  Format format = Format::rgba8;
  int level = all_levels, layer = all_layers;
  bool as_array = false;  ///< a flat picture as an array of one layer, a cube as one of six
};

/// Where an image goes.
struct UploadPart {
  int level = 0, layer = 0;  ///< a cube's layers are its faces

  /// The image's upper row becomes the one where t = 0, as texture coordinates of meshes and cubes have it; else the
  /// last one, as targets have it.
  bool top_first = false;

  /// The image replaces a part of the level, and this is where its first pixel goes: columns from the left, rows in the
  /// order that `top_first` says. Not set: the image is the whole level.
  std::optional<std::array<int, 2>> at = {};
};

/// What of a depth-stencil texture is read.
enum class Aspect { main, stencil };

/// An image on the device, of a size and format that never change.
class Texture {
 public:
  Texture() = default;

  /// Contents are undefined until something draws into it or upload() is called.
  /// @throws Error "out-of-memory"; Mistake "bad-size"
  Texture(const TextureDescription& description, std::string_view label);
  Texture(int width, int height, Format format, std::string_view label)
      : Texture({.width = width, .height = height, .format = format}, label) {}

  /// Another name for the contents of a part of a texture (OpenGL 4.5, 8.18). One layer of an array or cube is flat.
  static Texture view(const Texture& of, const TextureViewPart& part, std::string_view label);

  /// A texture that somebody else made and will delete. Its sizes, format, levels and samples are asked of the driver.
  /// @throws Mistake "not-a-texture", "unknown-format"
  static Texture adopt(std::uint32_t name, Place place = Place::here());

  /// One level of one layer, as an image with row 0 at the top: see Image for the formats that come of it.
  /// @throws Mistake "multisampled" when it is
  Image read(int level = 0, int layer = 0, Aspect aspect = Aspect::main) const;

  /// @param image  of the level's size unless `part` says otherwise, and of the format that read() gives
  /// @throws Mistake "size-mismatch", "image-format"
  void upload(const Image& image, UploadPart part = {}) const;

  /// Uploads the levels below `part`, one after the other. @throws as upload
  void upload_levels(std::span<const Image> levels, UploadPart part = {}) const;

  /// Has the device write one pixel of level 0 into a buffer, when it comes to it.
  /// @param x, y  from the upper left; @return the format that it is written in; @throws Mistake "multisampled"
  Format read_pixel_into(const Buffer& buffer, std::size_t offset, int x, int y) const;

  /// The same of a whole level of a layer, the lower row first.
  Format read_level_into(const Buffer& buffer, int level, int layer) const;
  std::size_t level_bytes(int level) const;  ///< that read_level_into() writes

  /// Fills all levels from level 0, in linear light (OpenGL 4.5, 8.14.4).
  void make_levels() const;

  /// Says that the contents will not be read again.
  void invalidate() const;

  std::uint32_t name() const { return name_.get(); }
  int width() const { return description_.width; }
  int height() const { return description_.height; }
  Format format() const { return description_.format; }
  const TextureDescription& description() const { return description_; }

 private:
  struct Region;
  Format read_into(const Buffer& buffer, std::size_t offset, const Region& region) const;

  ObjectName<ObjectKind::texture> name_;
  TextureDescription description_;
};

/// An image on the device that can be drawn into and copied, not sampled.
class Renderbuffer {
 public:
  Renderbuffer() = default;

  /// @throws Error "out-of-memory"; Mistake "bad-size"
  Renderbuffer(int width, int height, Format format, int samples, std::string_view label);

  std::uint32_t name() const { return name_.get(); }
  int width() const { return width_; }
  int height() const { return height_; }
  Format format() const { return format_; }
  int samples() const { return samples_; }

 private:
  ObjectName<ObjectKind::renderbuffer> name_;
  int width_ = 0, height_ = 0;
  Format format_ = Format::rgba8;
  int samples_ = 1;
};

}  // namespace periscena::gl
