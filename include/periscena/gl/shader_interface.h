#pragma once

#include <periscena/gl/shader_text.h>
#include <periscena/graph/pass.h>

#include <optional>

namespace periscena::gl {

/// Outputs and samplers that a fragment program declares, read from its text, so that they can be checked without a
/// device. Nothing when the text has conditional parts (#if), of which only a compiler knows which count.
/// @throws Mistake as expand
std::optional<ShaderInterface> read_interface(const ShaderText& shader);

/// The text with all includes in and all comments out.
std::string bare_text(const ShaderText& shader);

}  // namespace periscena::gl
