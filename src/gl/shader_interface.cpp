#include <periscena/gl/shader_interface.h>

#include <algorithm>
#include <array>
#include <regex>

namespace periscena::gl {
namespace {

ValueKind kind_of(const std::string& type, char letter_at_front) {
  if (letter_at_front == 'u' || type == "uint") return ValueKind::unsigned_integer;
  if (letter_at_front == 'i' || type == "int") return ValueKind::signed_integer;
  return ValueKind::floating;
}

SamplerShape shape_of(const std::string& rest) {
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

int location_in(const std::string& layout) {
  static const std::regex pattern(R"(\blocation\s*=\s*(\d{1,6}))");
  std::smatch match;
  return std::regex_search(layout, match, pattern) ? std::stoi(match[1]) : -1;
}

}  // namespace

std::string bare_text(const ShaderText& shader) {
  static const std::regex line_comment(R"(//[^\n]*)"), block_comment(R"(/\*[^*]*\*+([^/*][^*]*\*+)*/)");
  return std::regex_replace(std::regex_replace(expand(shader).text, line_comment, ""), block_comment, " ");
}

std::optional<ShaderInterface> read_interface(const ShaderText& shader) {
  const std::string text = bare_text(shader);
  static const std::regex conditional(R"((^|\n)\s*#\s*if)");
  if (std::regex_search(text, conditional)) return std::nullopt;
  ShaderInterface found;
  found.source = shader.source()->name;
  static const std::regex output(
      R"((?:layout\s*\(([^)]*)\)\s*)?\bout\s+(?:(?:lowp|mediump|highp)\s+)*(float|int|uint|([iu]?)vec[234])\s+(\w+)\s*;)");
  for (std::sregex_iterator match(text.begin(), text.end(), output), end; match != end; ++match) {
    const std::string front = (*match)[3];
    found.outputs.push_back(
        {(*match)[4], kind_of((*match)[2], front.empty() ? ' ' : front[0]), location_in((*match)[1])});
  }
  static const std::regex sampler(R"(\buniform\s+(?:(?:lowp|mediump|highp)\s+)*([iu]?)sampler(\w+)\s+(\w+)\s*[;\[])");
  for (std::sregex_iterator match(text.begin(), text.end(), sampler), end; match != end; ++match) {
    const std::string front = (*match)[1];
    found.samplers.push_back({(*match)[3], kind_of("", front.empty() ? ' ' : front[0]), shape_of((*match)[2])});
  }
  return found;
}

}  // namespace periscena::gl
