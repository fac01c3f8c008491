#include <periscena/gl/shader_interface.h>

#include "gl/color_coding.h"
#include "gl/glsl_tokens.h"

#include <algorithm>
#include <array>
#include <charconv>

namespace periscena::gl {
namespace {

ValueKind kind_of(char letter_at_front) {
  return letter_at_front == 'u'   ? ValueKind::unsigned_integer
         : letter_at_front == 'i' ? ValueKind::signed_integer
                                  : ValueKind::floating;
}

SamplerShape shape_of(std::string_view rest) {
  constexpr std::array<std::pair<const char*, SamplerShape>, 7> shapes{{
      {"2D", SamplerShape::flat},
      {"2DArray", SamplerShape::array},
      {"Cube", SamplerShape::cube},
      {"CubeArray", SamplerShape::cube_array},
      {"2DMS", SamplerShape::flat_samples},
      {"2DMSArray", SamplerShape::array_samples},
      {"3D", SamplerShape::volume},
  }};
  const auto found = std::find_if(shapes.begin(), shapes.end(), [&](const auto& known) { return rest == known.first; });
  return found == shapes.end() ? SamplerShape::other : found->second;
}

/// Reads declarations one after another.
class InterfaceReader {
 public:
  explicit InterfaceReader(std::span<const GlslToken> tokens) : tokens_(tokens) {}

  ShaderInterface read() {
    int depth = 0;
    for (std::size_t i = 0; i < tokens_.size(); ++i) {
      if (is(i, "{") || is(i, "(")) ++depth;
      if (is(i, "}") || is(i, ")")) --depth;
      if (depth != 0) continue;
      if (is(i, ";")) location_ = -1;
      if (is(i, "layout")) read_layout(i);
      if (is(i, "out")) read_output(i + 1);
      if (is(i, "uniform")) read_samplers(i + 1);
    }
    return std::move(found_);
  }

 private:
  bool is(std::size_t i, std::string_view text) const { return i < tokens_.size() && tokens_[i].is(text); }
  std::string_view text(std::size_t i) const { return i < tokens_.size() ? tokens_[i].text : std::string_view(); }

  std::size_t skip_precision(std::size_t i) const {
    while (is(i, "lowp") || is(i, "mediump") || is(i, "highp")) ++i;
    return i;
  }

  void read_layout(std::size_t i) {
    for (; i < tokens_.size() && !is(i, ")"); ++i) {
      if (!is(i, "location") || !is(i + 1, "=")) continue;
      const std::string_view number = text(i + 2);
      std::from_chars(number.data(), number.data() + number.size(), location_);
    }
  }

  void read_output(std::size_t i) {
    i = skip_precision(i);
    const std::string_view type = text(i);
    const std::size_t vector = type.find("vec");
    const bool is_vector = vector <= 1 && type.size() == vector + 4;
    const char front = type == "int" ? 'i' : type == "uint" ? 'u' : is_vector && vector == 1 ? type[0] : ' ';
    const bool scalar = type == "float" || type == "int" || type == "uint";
    if ((!is_vector && !scalar) || !is_word(text(i + 1)) || !is(i + 2, ";")) return;
    if (found_.outputs.size() >= most_declarations) return;
    found_.outputs.push_back({std::string(text(i + 1)), kind_of(front), location_});
  }

  void read_samplers(std::size_t i) {
    i = skip_precision(i);
    const std::string_view type = text(i);
    const std::size_t word = type.find("sampler");
    if (word > 1) return;
    const ValueKind kind = kind_of(word == 1 ? type[0] : ' ');
    for (++i; is_word(text(i)) && found_.samplers.size() < most_declarations; ++i) {
      found_.samplers.push_back({std::string(text(i)), kind, shape_of(type.substr(word + 7))});
      for (++i; i < tokens_.size() && !is(i, ",") && !is(i, ";");) ++i;
      if (!is(i, ",")) return;
    }
  }

  static constexpr std::size_t most_declarations = 256;  // far more than any device has; checks go by pairs

  std::span<const GlslToken> tokens_;
  int location_ = -1;
  ShaderInterface found_;
};

bool is_conditional(std::span<const GlslToken> tokens) {
  for (std::size_t i = 0; i + 1 < tokens.size(); ++i) {
    if (tokens[i].first_of_line && tokens[i].is("#") && tokens[i + 1].text.starts_with("if")) return true;
  }
  return false;
}

/// Where a token of the expanded text was written.
Place place_of(const GlslToken& token, const ExpandedShader& shader) {
  const ExpandedShader::Origin& origin = shader.origins.at(token.line);
  return {origin.source, nullptr, origin.line, static_cast<std::int32_t>(token.column),
          static_cast<std::int32_t>(token.text.size())};
}

}  // namespace

ShaderWords::ShaderWords(const ShaderText& shader, Includes includes)
    : text_(includes == Includes::followed ? expand(shader).text : shader.source()->text) {
  for (const GlslToken& token : glsl_tokens(text_)) {
    tokens_.push_back(token.text);
    if (is_word(token.text)) words_.insert(token.text);
  }
}

bool ShaderWords::follows(std::string_view first, std::string_view second, std::string_view third) const {
  if (!mentions(second)) return false;
  for (std::size_t i = 0; i + 2 < tokens_.size(); ++i) {
    if (tokens_[i] == first && tokens_[i + 1] == second && tokens_[i + 2] == third) return true;
  }
  return false;
}

std::vector<std::string> ShaderWords::declared(std::string_view storage) const {
  constexpr std::array qualifiers{"lowp", "mediump", "highp", "flat", "readonly", "writeonly", "coherent"};
  const auto is_qualifier = [&](std::string_view word) {
    return std::find(qualifiers.begin(), qualifiers.end(), word) != qualifiers.end();
  };
  std::vector<std::string> names;
  const auto at = [&](std::size_t i) { return i < tokens_.size() ? tokens_[i] : std::string_view(); };
  for (std::size_t i = 0; i < tokens_.size(); ++i) {
    if (tokens_[i] != storage) continue;
    do ++i;
    while (is_qualifier(at(i)));
    const std::string_view after = at(i + 2);
    if (is_word(at(i)) && is_word(at(i + 1)) && (after == ";" || after == "=" || after == "[" || after == ","))
      names.emplace_back(at(i + 1));
  }
  return names;
}

std::optional<ShaderInterface> read_interface(const ShaderText& shader) {
  const ExpandedShader expanded = expand(shader);
  const std::vector<GlslToken> tokens = glsl_tokens(expanded.text);
  if (is_conditional(tokens)) return std::nullopt;
  ShaderInterface found = InterfaceReader(tokens).read();
  found.source = shader.source()->name;
  const ColorCodingSteps steps = find_color_coding(tokens, "main");
  if (steps.encodes) found.encodes = place_of(tokens[*steps.encodes], expanded);
  if (steps.decodes) found.decodes = place_of(tokens[*steps.decodes], expanded);
  return found;
}

std::optional<Place> find_encoding(const ShaderText& shader, const std::string& function) {
  const ExpandedShader expanded = expand(shader);
  const std::vector<GlslToken> tokens = glsl_tokens(expanded.text);
  const auto step = find_color_coding(tokens, function).encodes;
  return step ? std::optional(place_of(tokens[*step], expanded)) : std::nullopt;
}

}  // namespace periscena::gl
