#include "gl/formats.h"

#include <array>

namespace periscena::gl {
namespace {

constexpr GlFormat bytes(GLenum internal, Format into = Format::rgba8) {
  return {internal, GL_RGBA, GL_UNSIGNED_BYTE, into};
}

constexpr GlFormat floats(GLenum internal, int channels) {
  return {internal,
          static_cast<GLenum>(channels == 1   ? GL_RED
                              : channels == 2 ? GL_RG
                                              : GL_RGBA),
          GL_FLOAT,
          channels == 1   ? Format::r32f
          : channels == 2 ? Format::rg32f
                          : Format::rgba32f};
}

constexpr GlFormat integers(GLenum internal, int channels, bool is_signed) {
  const Format one = is_signed ? Format::r32i : Format::r32ui;
  return {internal,
          static_cast<GLenum>(channels == 1   ? GL_RED_INTEGER
                              : channels == 2 ? GL_RG_INTEGER
                                              : GL_RGBA_INTEGER),
          static_cast<GLenum>(is_signed ? GL_INT : GL_UNSIGNED_INT),
          static_cast<Format>(static_cast<int>(one) + (channels == 4 ? 2 : channels - 1))};
}

constexpr GlFormat depth(GLenum internal) {
  return {internal, GL_DEPTH_COMPONENT, GL_FLOAT, Format::r32f};
}

// In the order of the enumeration Format.
constexpr std::array formats{
    bytes(GL_R8),
    bytes(GL_RG8),
    bytes(GL_RGBA8),
    bytes(GL_SRGB8_ALPHA8, Format::rgba8_srgb),
    floats(GL_R16, 1),
    floats(GL_RG16, 2),
    floats(GL_RGBA16, 4),
    floats(GL_RGB10_A2, 4),
    floats(GL_R11F_G11F_B10F, 4),
    floats(GL_R16F, 1),
    floats(GL_RG16F, 2),
    floats(GL_RGBA16F, 4),
    floats(GL_R32F, 1),
    floats(GL_RG32F, 2),
    floats(GL_RGBA32F, 4),
    integers(GL_R8I, 1, true),
    integers(GL_RG8I, 2, true),
    integers(GL_RGBA8I, 4, true),
    integers(GL_R16I, 1, true),
    integers(GL_RG16I, 2, true),
    integers(GL_RGBA16I, 4, true),
    integers(GL_R32I, 1, true),
    integers(GL_RG32I, 2, true),
    integers(GL_RGBA32I, 4, true),
    integers(GL_R8UI, 1, false),
    integers(GL_RG8UI, 2, false),
    integers(GL_RGBA8UI, 4, false),
    integers(GL_R16UI, 1, false),
    integers(GL_RG16UI, 2, false),
    integers(GL_RGBA16UI, 4, false),
    integers(GL_R32UI, 1, false),
    integers(GL_RG32UI, 2, false),
    integers(GL_RGBA32UI, 4, false),
    depth(GL_DEPTH_COMPONENT16),
    depth(GL_DEPTH_COMPONENT24),
    depth(GL_DEPTH_COMPONENT32F),
    depth(GL_DEPTH24_STENCIL8),
    depth(GL_DEPTH32F_STENCIL8),
    GlFormat{GL_STENCIL_INDEX8, GL_STENCIL_INDEX, GL_UNSIGNED_BYTE, Format::r8ui},
};
static_assert(formats.size() == static_cast<std::size_t>(Format::stencil8) + 1);

}  // namespace

const GlFormat& gl_format(Format format) {
  return formats[static_cast<std::size_t>(format)];
}

std::optional<Format> format_of(GLenum internal) {
  for (const FormatInfo& known : all_formats()) {
    if (gl_format(known.format).internal == internal) return known.format;
  }
  return std::nullopt;
}

}  // namespace periscena::gl
