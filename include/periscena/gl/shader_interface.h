#pragma once

#include <periscena/gl/shader_text.h>
#include <periscena/graph/pass.h>

#include <optional>

namespace periscena::gl {

/// Outputs and samplers that a fragment program declares, read from its text, so that they can be checked without a
/// device. Nothing when the text has conditional parts (#if), of which only a compiler knows which count.
/// @throws Mistake as expand
std::optional<ShaderInterface> read_interface(const ShaderText& shader);

/// Where a function, or one that it calls, encodes colours to sRGB: the constants of the curve, or a power of about
/// 1 / 2.2. Exponents that only come at run time are not seen. @throws Mistake as expand
std::optional<Place> find_encoding(const ShaderText& shader, const std::string& function);

/// The text with all includes in, all comments out, and one space between its words and signs.
std::string bare_text(const ShaderText& shader);

}  // namespace periscena::gl
