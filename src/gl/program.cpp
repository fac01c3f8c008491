#include <periscena/gl/program.h>

#include "gl/api.h"
#include "gl/glsl_tokens.h"
#include "gl/reflection.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cstring>
#include <set>
#include <utility>

namespace periscena::gl {
namespace {

std::string shader_log(GLuint shader) {
  GLint length = 0;
  glGetShaderiv(shader, GL_INFO_LOG_LENGTH, &length);
  std::string log(static_cast<std::size_t>(std::max(0, length)), '\0');
  if (length > 0) glGetShaderInfoLog(shader, length, nullptr, log.data());
  return log.substr(0, log.find('\0'));
}

std::string program_log(GLuint program) {
  GLint length = 0;
  glGetProgramiv(program, GL_INFO_LOG_LENGTH, &length);
  std::string log(static_cast<std::size_t>(std::max(0, length)), '\0');
  if (length > 0) glGetProgramInfoLog(program, length, nullptr, log.data());
  return log.substr(0, log.find('\0'));
}

struct CompiledShader {
  ObjectName<ObjectKind::shader> name;
  std::string text;
};

CompiledShader compile(GLenum stage, const ShaderText& source, const std::string& what) {
  const ExpandedShader expanded = expand(source);
  CompiledShader shader{ObjectName<ObjectKind::shader>(glCreateShader(stage)), expanded.text};
  const char* text = expanded.text.c_str();
  const auto length = static_cast<GLint>(expanded.text.size());
  glShaderSource(shader.name.get(), 1, &text, &length);
  glCompileShader(shader.name.get());
  shader.name.set_label(source.source()->name);
  GLint compiled = GL_FALSE;
  glGetShaderiv(shader.name.get(), GL_COMPILE_STATUS, &compiled);
  if (compiled) return shader;
  Diagnostics diagnostics = read_compile_log(shader_log(shader.name.get()), expanded, what);
  if (!diagnostics.has_errors()) {
    diagnostics.error("shader", {source.source(), nullptr, 0, 0, 1},
                      fmt::format("{} does not compile, and the driver gives no reason", what));
  }
  throw Mistake(std::move(diagnostics));
}

/// Uniforms that the GLSL itself gives a value: `uniform … name = …` and `uniform … name[…] = …`.
void add_initialised(std::string_view text, std::set<std::string>& names) {
  const std::vector<GlslToken> tokens = glsl_tokens(text);
  for (std::size_t i = 0; i < tokens.size(); ++i) {
    if (!tokens[i].is("uniform")) continue;
    std::string_view name;
    int brackets = 0;
    for (++i; i < tokens.size() && !tokens[i].is(";") && !tokens[i].is("{"); ++i) {
      if (tokens[i].is("[") || tokens[i].is("(")) ++brackets;
      if (tokens[i].is("]") || tokens[i].is(")")) --brackets;
      if (brackets > 0) continue;
      if (tokens[i].is("=")) names.emplace(name);
      if (is_word(tokens[i].text)) name = tokens[i].text;
    }
  }
}

/// The line that a link error speaks of: a function that it names in quotes, or a shader without main.
Place place_of_link_error(std::string_view log, const std::vector<ShaderText>& shaders) {
  for (const ShaderText& shader : shaders) {
    if (Place found = find_quoted_function(log, expand(shader)); found.known()) return found;
  }
  const bool no_main = log.find("`main'") != log.npos && !shaders.empty();
  return no_main ? Place{shaders.back().source(), nullptr, 0, 0, 1} : Place{};
}

[[noreturn]] void refuse_to_link(const std::string& label, std::string log, const std::vector<ShaderText>& shaders,
                                 Place place) {
  log = log.substr(0, log.find_last_not_of(" \n") + 1);
  const Place found = place_of_link_error(log, shaders);
  const bool recursion = log.find("recursion") != log.npos, no_main = log.find("`main'") != log.npos;
  for (std::size_t at = log.find('\n'); at != log.npos; at = log.find('\n')) log.replace(at, 1, "; ");
  throw Mistake("program-link", found.known() ? found : place,
                fmt::format("program \"{}\" does not link: {}", label, log),
                recursion ? "GLSL has no recursion: write a loop"
                : no_main ? "add void main() { … }"
                          : "outputs of the vertex program and inputs of the fragment program must agree in name, type "
                            "and location");
}

std::string differences(const BlockLayout& layout, const BlockInfo& block) {
  std::string found;
  const std::string prefix = layout.array.empty() ? "" : layout.array + "[0].";
  std::vector<std::string> layout_names;
  for (const auto& member : layout.members) layout_names.push_back(prefix + member.name);
  for (const BlockMember& in_glsl : block.members) {
    const auto at = std::find(layout_names.begin(), layout_names.end(), in_glsl.name) - layout_names.begin();
    if (static_cast<std::size_t>(at) == layout_names.size()) {
      const std::string_view nearest = nearest_name(in_glsl.name, layout_names);
      found += fmt::format("; \"{}\" is missing in C++{}", in_glsl.name,
                           nearest.empty() ? "" : fmt::format(" (is it \"{}\"?)", nearest));
      continue;
    }
    const BlockLayout::Member& in_cpp = layout.members[static_cast<std::size_t>(at)];
    if (static_cast<int>(in_cpp.offset) != in_glsl.offset) {
      found += fmt::format("; \"{}\" is at byte {} in C++ and {} in GLSL", in_glsl.name, in_cpp.offset, in_glsl.offset);
    }
    if (in_cpp.type != in_glsl.type) {
      found += fmt::format("; \"{}\" is {} in C++ and {} in GLSL", in_glsl.name, to_string(in_cpp.type),
                           to_string(in_glsl.type));
    }
    if (!layout.array.empty() && in_glsl.array_stride != static_cast<int>(layout.bytes)) {
      return fmt::format("; the struct takes {} bytes in C++ and {} in GLSL", layout.bytes, in_glsl.array_stride);
    }
  }
  if (block.members.size() < layout.members.size()) {
    for (std::size_t i = 0; i < layout_names.size(); ++i) {
      const bool present = std::any_of(block.members.begin(), block.members.end(),
                                       [&](const BlockMember& member) { return member.name == layout_names[i]; });
      if (!present) found += fmt::format("; \"{}\" is missing in GLSL", layout_names[i]);
    }
  }
  if (layout.array.empty() && static_cast<int>(layout.bytes) < block.bytes) {
    found += fmt::format("; C++ has {} bytes, GLSL wants {}", layout.bytes, block.bytes);
  }
  return found;
}

}  // namespace

Program::Program(const ProgramDescription& description, Place place) : label_(description.name) {
  const bool computes = !description.compute.empty();
  const CompiledShader first =
      computes ? compile(GL_COMPUTE_SHADER, description.compute, fmt::format("the compute program of \"{}\"", label_))
               : compile(GL_VERTEX_SHADER, description.vertex, fmt::format("the vertex program of \"{}\"", label_));
  CompiledShader fragment;
  if (!computes && !description.fragment.empty()) {
    fragment = compile(GL_FRAGMENT_SHADER, description.fragment, fmt::format("the fragment program of \"{}\"", label_));
  }
  name_ = ObjectName<ObjectKind::program>(glCreateProgram());
  glAttachShader(name(), first.name.get());
  if (fragment.name) glAttachShader(name(), fragment.name.get());
  glLinkProgram(name());
  glDetachShader(name(), first.name.get());
  if (fragment.name) glDetachShader(name(), fragment.name.get());
  GLint linked = GL_FALSE;
  glGetProgramiv(name(), GL_LINK_STATUS, &linked);
  if (!linked) {
    std::vector<ShaderText> shaders;
    for (const ShaderText& one : {description.compute, description.vertex, description.fragment}) {
      if (!one.empty()) shaders.push_back(one);
    }
    refuse_to_link(label_, program_log(name()), shaders, std::move(place));
  }
  name_.set_label(label_);
  interface_ = reflect(name());
  known_values_.resize(interface_.uniforms.size());
  std::set<std::string> initialised;
  add_initialised(first.text, initialised);
  add_initialised(fragment.text, initialised);
  for (const UniformInfo& uniform : interface_.uniforms)
    has_initial_value_.push_back(initialised.contains(uniform.name));
}

int Program::find_uniform(std::string_view name, ValueType type, const Place& place) const {
  const UniformInfo* found = interface_.find_uniform(name);
  if (!found || found->type == ValueType::sampler) {
    const std::vector<std::string> names = interface_.uniform_names();
    throw Mistake(
        "unknown-uniform", place, fmt::format("program \"{}\" uses no uniform \"{}\"", label_, name),
        names.empty() ? "it uses none; one that is declared but not used does not count" : name_hint(name, names));
  }
  if (found->type != type || found->array_size != 1) {
    throw Mistake("wrong-uniform-type", place,
                  fmt::format("uniform \"{}\" of program \"{}\" is {}{}, not {}", name, label_, to_string(found->type),
                              found->array_size > 1 ? fmt::format("[{}]", found->array_size) : "", to_string(type)),
                  "set it as the type that the GLSL declares");
  }
  return static_cast<int>(found - interface_.uniforms.data());
}

bool Program::changes(int index, const void* value, std::size_t bytes) {
  auto& known = known_values_[static_cast<std::size_t>(index)];
  if (known.size() == bytes && std::memcmp(known.data(), value, bytes) == 0) return false;
  known.assign(static_cast<const std::byte*>(value), static_cast<const std::byte*>(value) + bytes);
  return true;
}

void Program::set(Uniform<bool> uniform, bool value) {
  set(Uniform<int>{uniform.index}, value ? 1 : 0);
}

void Program::set(Uniform<int> uniform, int value) {
  if (changes(uniform.index, &value, sizeof value)) {
    glProgramUniform1i(name(), interface_.uniforms[static_cast<std::size_t>(uniform.index)].location, value);
  }
}

void Program::set(Uniform<float> uniform, float value) {
  if (changes(uniform.index, &value, sizeof value)) {
    glProgramUniform1f(name(), interface_.uniforms[static_cast<std::size_t>(uniform.index)].location, value);
  }
}

void Program::set(Uniform<Vec2> uniform, const Vec2& value) {
  if (changes(uniform.index, value.data(), sizeof(float) * 2)) {
    glProgramUniform2fv(name(), interface_.uniforms[static_cast<std::size_t>(uniform.index)].location, 1, value.data());
  }
}

void Program::set(Uniform<Vec3> uniform, const Vec3& value) {
  if (changes(uniform.index, value.data(), sizeof(float) * 3)) {
    glProgramUniform3fv(name(), interface_.uniforms[static_cast<std::size_t>(uniform.index)].location, 1, value.data());
  }
}

void Program::set(Uniform<Vec4> uniform, const Vec4& value) {
  if (changes(uniform.index, value.data(), sizeof(float) * 4)) {
    glProgramUniform4fv(name(), interface_.uniforms[static_cast<std::size_t>(uniform.index)].location, 1, value.data());
  }
}

void Program::set(Uniform<IntVec4> uniform, const IntVec4& value) {
  if (changes(uniform.index, value.data(), sizeof(int) * 4)) {
    glProgramUniform4iv(name(), interface_.uniforms[static_cast<std::size_t>(uniform.index)].location, 1, value.data());
  }
}

void Program::set(Uniform<Mat3> uniform, const Mat3& value) {
  if (changes(uniform.index, value.data(), sizeof(float) * 9)) {
    glProgramUniformMatrix3fv(name(), interface_.uniforms[static_cast<std::size_t>(uniform.index)].location, 1,
                              GL_FALSE, value.data());
  }
}

void Program::set(Uniform<Mat4> uniform, const Mat4& value) {
  if (changes(uniform.index, value.data(), sizeof(float) * 16)) {
    glProgramUniformMatrix4fv(name(), interface_.uniforms[static_cast<std::size_t>(uniform.index)].location, 1,
                              GL_FALSE, value.data());
  }
}

int Program::sampler_unit(std::string_view name, Place place) const {
  const UniformInfo* found = interface_.find_uniform(name);
  if (found && found->type == ValueType::sampler) return found->sampler_unit;
  const std::vector<std::string> names = interface_.sampler_names();
  throw Mistake("unknown-sampler", std::move(place), fmt::format("program \"{}\" uses no sampler \"{}\"", label_, name),
                names.empty() ? "it uses none; declare it: uniform sampler2D " + std::string(name) + ";, and sample it"
                              : name_hint(name, names));
}

void Program::expect_block(const BlockLayout& layout, Place place) const {
  const BlockInfo* block = interface_.find_block(layout.name);
  if (!block) {
    std::vector<std::string> names;
    for (const BlockInfo& known : interface_.blocks) names.push_back(known.name);
    throw Mistake("unknown-block", std::move(place),
                  fmt::format("program \"{}\" uses no block \"{}\"", label_, layout.name),
                  name_hint(layout.name, names));
  }
  const std::string found = differences(layout, *block);
  if (found.empty()) return;
  throw Mistake("block-mismatch", std::move(place),
                fmt::format("block \"{}\" of program \"{}\" differs from its C++ struct: {}", layout.name, label_,
                            found.substr(2)),
                "make both alike; in std140 a vec3 is aligned to 16 bytes, and an array's elements are, too");
}

void Program::expect_all_set(Place place) const {
  std::vector<std::string> unset;
  for (std::size_t i = 0; i < interface_.uniforms.size(); ++i) {
    if (interface_.uniforms[i].type == ValueType::sampler) continue;
    if (known_values_[i].empty() && !has_initial_value_[i]) unset.push_back(interface_.uniforms[i].name);
  }
  if (unset.empty()) return;
  throw Mistake("unset-uniform", std::move(place),
                fmt::format("program \"{}\" uses uniform{} {}, but nothing set {}", label_, unset.size() > 1 ? "s" : "",
                            quoted_list(unset), unset.size() > 1 ? "them" : "it"),
                "set each, or give it a value in the GLSL");
}

}  // namespace periscena::gl
