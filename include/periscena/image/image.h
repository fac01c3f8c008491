#pragma once

#include <periscena/image/format.h>

#include <array>
#include <cstdint>
#include <filesystem>
#include <vector>

namespace periscena {

/// Pixels in memory. Row 0 is the top row, as in files; rows are packed without gaps. Colour targets hold bytes or
/// 32-bit floats: half floats are widened when they are read back.
class Image {
 public:
  Image() = default;

  /// All zero. @param format  rgba8, rgba8_srgb, r32f, rg32f or rgba32f
  /// @throws Mistake "bad-size" unless both are in 1..65536, "image-format" for other formats
  Image(int width, int height, Format format);

  int width() const { return width_; }
  int height() const { return height_; }
  Format format() const { return format_; }
  int channels() const { return info(format_).channels; }
  bool is_float() const { return info(format_).numbers == NumberKind::floating; }

  std::vector<std::byte>& bytes() { return bytes_; }
  const std::vector<std::byte>& bytes() const { return bytes_; }
  std::size_t row_bytes() const {
    return static_cast<std::size_t>(width_) * static_cast<std::size_t>(info(format_).bytes);
  }

  /// One pixel as it is stored: bytes as 0..255, floats as they are; absent channels are 0.
  /// @param x, y  from the upper left; @throws Mistake "pixel-outside"
  std::array<float, 4> at(int x, int y) const;

  bool operator==(const Image&) const = default;

 private:
  int width_ = 0;
  int height_ = 0;
  Format format_ = Format::rgba8;
  std::vector<std::byte> bytes_;
};

/// Writes an 8-bit RGBA image as PNG, beside its target and then renamed.
/// @throws Error "unwritable-file"; Mistake "image-format" when it is not 8 bit
void write_png(const Image& image, const std::filesystem::path& path);

/// Reads a PNG as rgba8_srgb. @throws Error "unreadable-file" or "broken-image"
Image read_png(const std::filesystem::path& path);

}  // namespace periscena
