#pragma once

#include "gl/glsl_tokens.h"

#include <optional>
#include <span>

namespace periscena::gl {

/// Where a program brings colours to sRGB and back: indices of tokens.
struct ColorCodingSteps {
  std::optional<std::size_t> encodes, decodes;
};

/// Looks for the constants of the sRGB curve (IEC 61966-2-1), and for powers of about 1 / 2.2 and 2.2, in a function
/// and what it calls. Exponents may be named constants; those that only come at run time (uniforms) are not seen.
ColorCodingSteps find_color_coding(std::span<const GlslToken> tokens, std::string_view function);

}  // namespace periscena::gl
