#include <periscena/image/format.h>

#include <array>

namespace periscena {
namespace {

constexpr std::array formats{
    FormatInfo{Format::r8, "r8", 1, 1, NumberKind::normalized, false},
    FormatInfo{Format::rg8, "rg8", 2, 2, NumberKind::normalized, false},
    FormatInfo{Format::rgba8, "rgba8", 4, 4, NumberKind::normalized, false},
    FormatInfo{Format::rgba8_srgb, "rgba8_srgb", 4, 4, NumberKind::srgb, false},
    FormatInfo{Format::rgb10a2, "rgb10a2", 4, 4, NumberKind::normalized, false},
    FormatInfo{Format::r11g11b10f, "r11g11b10f", 3, 4, NumberKind::floating, false},
    FormatInfo{Format::r16f, "r16f", 1, 2, NumberKind::floating, false},
    FormatInfo{Format::rg16f, "rg16f", 2, 4, NumberKind::floating, false},
    FormatInfo{Format::rgba16f, "rgba16f", 4, 8, NumberKind::floating, false},
    FormatInfo{Format::r32f, "r32f", 1, 4, NumberKind::floating, false},
    FormatInfo{Format::rg32f, "rg32f", 2, 8, NumberKind::floating, false},
    FormatInfo{Format::rgba32f, "rgba32f", 4, 16, NumberKind::floating, false},
    FormatInfo{Format::depth16, "depth16", 1, 2, NumberKind::normalized, true},
    FormatInfo{Format::depth24, "depth24", 1, 4, NumberKind::normalized, true},
    FormatInfo{Format::depth32f, "depth32f", 1, 4, NumberKind::floating, true},
};

}  // namespace

std::span<const FormatInfo> all_formats() {
  return formats;
}

const FormatInfo& info(Format format) {
  return formats[static_cast<std::size_t>(format)];
}

std::string_view to_string(Format format) {
  return info(format).name;
}

bool parse_format(std::string_view name, Format& into) {
  for (const FormatInfo& known : formats) {
    if (known.name == name) {
      into = known.format;
      return true;
    }
  }
  return false;
}

std::vector<std::string> format_names() {
  std::vector<std::string> names;
  for (const FormatInfo& known : formats) names.emplace_back(known.name);
  return names;
}

}  // namespace periscena
