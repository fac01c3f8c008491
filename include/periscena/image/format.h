#pragma once

#include <cstddef>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace periscena {

/// Pixel formats of targets, textures and images, by their names in frame files. Colour formats are named as GLSL names
/// image formats: i for signed, ui for unsigned integers, f for floating point.
enum class Format {
  r8,
  rg8,
  rgba8,       ///< linear: data, or colour that is not for looking at
  rgba8_srgb,  ///< colour for looking at; the hardware encodes on write and decodes on read
  r16,
  rg16,
  rgba16,
  rgb10a2,
  r11g11b10f,
  r16f,
  rg16f,
  rgba16f,
  r32f,
  rg32f,
  rgba32f,
  r8i,
  rg8i,
  rgba8i,
  r16i,
  rg16i,
  rgba16i,
  r32i,
  rg32i,
  rgba32i,
  r8ui,
  rg8ui,
  rgba8ui,
  r16ui,
  rg16ui,
  rgba16ui,
  r32ui,
  rg32ui,
  rgba32ui,
  depth16,
  depth24,
  depth32f,
  depth24_stencil8,
  depth32f_stencil8,
  stencil8,
};

/// How a program sees the numbers.
enum class NumberKind { normalized, srgb, floating, signed_integer, unsigned_integer };

struct FormatInfo {
  Format format;
  std::string_view name;
  int channels;  ///< of colour; 1 for depth or stencil, 2 for both
  int bytes;     ///< per pixel and sample, as drivers store it
  NumberKind numbers;
  bool depth = false;
  bool stencil = false;

  bool color() const { return !depth && !stencil; }
  bool integer() const {
    return color() && (numbers == NumberKind::signed_integer || numbers == NumberKind::unsigned_integer);
  }
  int channel_bits() const { return color() ? 8 * bytes / channels : 0; }  ///< of formats with equal channels
};

const FormatInfo& info(Format format);
std::span<const FormatInfo> all_formats();
std::string_view to_string(Format format);

/// @return false when there is no format of that name
bool parse_format(std::string_view name, Format& into);

/// May textures of these formats view one storage (OpenGL 4.5, table 8.21)? Colour formats may when their pixels have
/// as many bits; depth and stencil only when they are the same.
bool share_storage(Format a, Format b);

/// For hints.
std::vector<std::string> format_names();

}  // namespace periscena
