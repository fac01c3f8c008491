#include <periscena/image/format.h>

#include <array>

namespace periscena {
namespace {

constexpr std::array formats{
    FormatInfo{Format::r8, "r8", 1, 1, NumberKind::normalized},
    FormatInfo{Format::rg8, "rg8", 2, 2, NumberKind::normalized},
    FormatInfo{Format::rgba8, "rgba8", 4, 4, NumberKind::normalized},
    FormatInfo{Format::rgba8_srgb, "rgba8_srgb", 4, 4, NumberKind::srgb},
    FormatInfo{Format::r16, "r16", 1, 2, NumberKind::normalized},
    FormatInfo{Format::rg16, "rg16", 2, 4, NumberKind::normalized},
    FormatInfo{Format::rgba16, "rgba16", 4, 8, NumberKind::normalized},
    FormatInfo{Format::rgb10a2, "rgb10a2", 4, 4, NumberKind::normalized},
    FormatInfo{Format::r11g11b10f, "r11g11b10f", 3, 4, NumberKind::floating},
    FormatInfo{Format::r16f, "r16f", 1, 2, NumberKind::floating},
    FormatInfo{Format::rg16f, "rg16f", 2, 4, NumberKind::floating},
    FormatInfo{Format::rgba16f, "rgba16f", 4, 8, NumberKind::floating},
    FormatInfo{Format::r32f, "r32f", 1, 4, NumberKind::floating},
    FormatInfo{Format::rg32f, "rg32f", 2, 8, NumberKind::floating},
    FormatInfo{Format::rgba32f, "rgba32f", 4, 16, NumberKind::floating},
    FormatInfo{Format::r8i, "r8i", 1, 1, NumberKind::signed_integer},
    FormatInfo{Format::rg8i, "rg8i", 2, 2, NumberKind::signed_integer},
    FormatInfo{Format::rgba8i, "rgba8i", 4, 4, NumberKind::signed_integer},
    FormatInfo{Format::r16i, "r16i", 1, 2, NumberKind::signed_integer},
    FormatInfo{Format::rg16i, "rg16i", 2, 4, NumberKind::signed_integer},
    FormatInfo{Format::rgba16i, "rgba16i", 4, 8, NumberKind::signed_integer},
    FormatInfo{Format::r32i, "r32i", 1, 4, NumberKind::signed_integer},
    FormatInfo{Format::rg32i, "rg32i", 2, 8, NumberKind::signed_integer},
    FormatInfo{Format::rgba32i, "rgba32i", 4, 16, NumberKind::signed_integer},
    FormatInfo{Format::r8ui, "r8ui", 1, 1, NumberKind::unsigned_integer},
    FormatInfo{Format::rg8ui, "rg8ui", 2, 2, NumberKind::unsigned_integer},
    FormatInfo{Format::rgba8ui, "rgba8ui", 4, 4, NumberKind::unsigned_integer},
    FormatInfo{Format::r16ui, "r16ui", 1, 2, NumberKind::unsigned_integer},
    FormatInfo{Format::rg16ui, "rg16ui", 2, 4, NumberKind::unsigned_integer},
    FormatInfo{Format::rgba16ui, "rgba16ui", 4, 8, NumberKind::unsigned_integer},
    FormatInfo{Format::r32ui, "r32ui", 1, 4, NumberKind::unsigned_integer},
    FormatInfo{Format::rg32ui, "rg32ui", 2, 8, NumberKind::unsigned_integer},
    FormatInfo{Format::rgba32ui, "rgba32ui", 4, 16, NumberKind::unsigned_integer},
    FormatInfo{Format::depth16, "depth16", 1, 2, NumberKind::normalized, true, false},
    FormatInfo{Format::depth24, "depth24", 1, 4, NumberKind::normalized, true, false},
    FormatInfo{Format::depth32f, "depth32f", 1, 4, NumberKind::floating, true, false},
    FormatInfo{Format::depth24_stencil8, "depth24_stencil8", 2, 4, NumberKind::normalized, true, true},
    FormatInfo{Format::depth32f_stencil8, "depth32f_stencil8", 2, 8, NumberKind::floating, true, true},
    FormatInfo{Format::stencil8, "stencil8", 1, 1, NumberKind::unsigned_integer, false, true},
};
static_assert(formats.size() == static_cast<std::size_t>(Format::stencil8) + 1);

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

bool share_storage(Format a, Format b) {
  if (a == b) return true;
  return info(a).color() && info(b).color() && info(a).bytes == info(b).bytes;
}

std::vector<std::string> format_names() {
  std::vector<std::string> names;
  for (const FormatInfo& known : formats) names.emplace_back(known.name);
  return names;
}

}  // namespace periscena
