#include "gl/formats.h"

#include <array>

namespace periscena::gl {
namespace {

// In the order of the enumeration Format.
constexpr std::array formats{
    GlFormat{GL_R8, GL_RGBA, GL_UNSIGNED_BYTE, Format::rgba8},
    GlFormat{GL_RG8, GL_RGBA, GL_UNSIGNED_BYTE, Format::rgba8},
    GlFormat{GL_RGBA8, GL_RGBA, GL_UNSIGNED_BYTE, Format::rgba8},
    GlFormat{GL_SRGB8_ALPHA8, GL_RGBA, GL_UNSIGNED_BYTE, Format::rgba8_srgb},
    GlFormat{GL_RGB10_A2, GL_RGBA, GL_FLOAT, Format::rgba32f},
    GlFormat{GL_R11F_G11F_B10F, GL_RGBA, GL_FLOAT, Format::rgba32f},
    GlFormat{GL_R16F, GL_RED, GL_FLOAT, Format::r32f},
    GlFormat{GL_RG16F, GL_RG, GL_FLOAT, Format::rg32f},
    GlFormat{GL_RGBA16F, GL_RGBA, GL_FLOAT, Format::rgba32f},
    GlFormat{GL_R32F, GL_RED, GL_FLOAT, Format::r32f},
    GlFormat{GL_RG32F, GL_RG, GL_FLOAT, Format::rg32f},
    GlFormat{GL_RGBA32F, GL_RGBA, GL_FLOAT, Format::rgba32f},
    GlFormat{GL_DEPTH_COMPONENT16, GL_DEPTH_COMPONENT, GL_FLOAT, Format::r32f},
    GlFormat{GL_DEPTH_COMPONENT24, GL_DEPTH_COMPONENT, GL_FLOAT, Format::r32f},
    GlFormat{GL_DEPTH_COMPONENT32F, GL_DEPTH_COMPONENT, GL_FLOAT, Format::r32f},
};
static_assert(formats.size() == static_cast<std::size_t>(Format::depth32f) + 1);

}  // namespace

const GlFormat& gl_format(Format format) {
  return formats[static_cast<std::size_t>(format)];
}

}  // namespace periscena::gl
