#pragma once

#include <periscena/image/format.h>

#include <array>
#include <cstdint>
#include <vector>

namespace periscena {

/// Pixels in memory. Row 0 is the top row, as in files; rows are packed without gaps. What is read back from a target
/// is widened without loss: half floats, packed formats and depth to 32-bit floats, integers to 32 bits, stencil to
/// r8ui.
class Image {
 public:
  Image() = default;

  /// All zero. @param format  rgba8, rgba8_srgb, r8ui, or 1, 2 or 4 channels of 32 bits (floats or integers)
  /// @throws Mistake "bad-size" unless both are in 1..65536, "image-format" for other formats
  Image(int width, int height, Format format);

  /// Only the size and the format of a picture: what checks need to know of a file before it is decoded. It has no
  /// pixels; at and set refuse. @throws as the constructor
  static Image outline(int width, int height, Format format);
  bool is_outline() const { return width_ > 0 && bytes_.empty(); }

  int width() const { return width_; }
  int height() const { return height_; }
  Format format() const { return format_; }
  int channels() const { return info(format_).channels; }
  bool is_float() const { return info(format_).numbers == NumberKind::floating; }
  bool is_eight_bit() const { return info(format_).bytes == channels(); }
  bool is_integer() const { return info(format_).integer(); }

  std::vector<std::byte>& bytes() { return bytes_; }
  const std::vector<std::byte>& bytes() const { return bytes_; }
  std::size_t row_bytes() const {
    return static_cast<std::size_t>(width_) * static_cast<std::size_t>(info(format_).bytes);
  }

  /// One pixel as it is stored, exactly: bytes as 0..255, the others as they are; absent channels are 0.
  /// @param x, y  from the upper left; @throws Mistake "pixel-outside", "no-pixels" for an outline
  std::array<double, 4> at(int x, int y) const;

  /// Sets one pixel, each channel rounded and clamped to what the format holds. @throws as at
  void set(int x, int y, const std::array<double, 4>& values);

  bool operator==(const Image&) const = default;

 private:
  void expect_sound() const;
  std::size_t offset_of(int x, int y) const;

  int width_ = 0;
  int height_ = 0;
  Format format_ = Format::rgba8;
  std::vector<std::byte> bytes_;
};

}  // namespace periscena
