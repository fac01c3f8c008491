#pragma once

#include <cstddef>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace periscena {

/// Pixel formats of targets, textures and images, by their names in frame files.
enum class Format {
  r8,
  rg8,
  rgba8,       ///< linear: data, or colour that is not for looking at
  rgba8_srgb,  ///< colour for looking at; the hardware encodes on write and decodes on read
  rgb10a2,
  r11g11b10f,
  r16f,
  rg16f,
  rgba16f,
  r32f,
  rg32f,
  rgba32f,
  depth16,
  depth24,
  depth32f,
};

/// How a program sees the numbers.
enum class NumberKind { normalized, srgb, floating };

struct FormatInfo {
  Format format;
  std::string_view name;
  int channels;
  int bytes;  ///< per pixel and sample, as drivers store it
  NumberKind numbers;
  bool depth;
};

const FormatInfo& info(Format format);
std::span<const FormatInfo> all_formats();
std::string_view to_string(Format format);

/// @return false when there is no format of that name
bool parse_format(std::string_view name, Format& into);

/// For hints.
std::vector<std::string> format_names();

}  // namespace periscena
