#pragma once

#include <periscena/gl/shader_text.h>
#include <periscena/graph/pass.h>

#include <optional>
#include <set>
#include <string_view>
#include <vector>

namespace periscena::gl {

/// Outputs and samplers that a fragment program declares, read from its text, so that they can be checked without a
/// device. Nothing when the text has conditional parts (#if), of which only a compiler knows which count.
/// @throws Mistake as expand
std::optional<ShaderInterface> read_interface(const ShaderText& shader);

/// Where a function, or one that it calls, encodes colours to sRGB: the constants of the curve, or a power of about
/// 1 / 2.2. Exponents that only come at run time are not seen. @throws Mistake as expand
std::optional<Place> find_encoding(const ShaderText& shader, const std::string& function);

/// The words of a shader, for questions about its text that need no device. Comments do not count; parts that #if
/// leaves out do. Takes time in proportion to the text, whatever is in it.
class ShaderWords {
 public:
  enum class Includes { followed, left_out };

  /// @throws Mistake as expand
  explicit ShaderWords(const ShaderText& shader, Includes includes = Includes::followed);

  /// Does the word occur, as a whole?
  bool mentions(std::string_view word) const { return words_.contains(word); }

  /// Is there `type name(`, a function's declaration or definition?
  bool has_function(std::string_view type, std::string_view name) const { return follows(type, name, "("); }

  /// Is there `uniform NAME {` or `buffer NAME {`?
  bool has_block(std::string_view storage, std::string_view name) const { return follows(storage, name, "{"); }

  /// Names that are declared outside of blocks after a storage word, "uniform" or "out", in the order of the text.
  std::vector<std::string> declared(std::string_view storage) const;

 private:
  bool follows(std::string_view first, std::string_view second, std::string_view third) const;

  std::string text_;
  std::vector<std::string_view> tokens_;
  std::set<std::string_view> words_;
};

}  // namespace periscena::gl
