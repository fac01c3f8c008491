#pragma once

#include <periscena/gl/shader_text.h>

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace periscena::gl {

/// A word, a number or a sign of a GLSL text.
struct GlslToken {
  std::string_view text;
  std::uint32_t line = 0;    ///< from 0
  std::uint32_t column = 0;  ///< in bytes, from 1
  bool first_of_line = false;

  bool is(std::string_view word) const { return text == word; }
};

/// Splits a text into tokens, without its comments. Views point into the text.
std::vector<GlslToken> glsl_tokens(std::string_view text);

bool is_word(std::string_view token);

/// Where a function stands that a driver's words name in quotes, as Mesa does: "function `float again(float)' has
/// static recursion"; unknown when they name none.
Place find_quoted_function(std::string_view words, const ExpandedShader& shader);

/// What a line begins with after its `#`, such as "include"; empty when it is no directive.
std::string_view directive_of(std::string_view line);

}  // namespace periscena::gl
