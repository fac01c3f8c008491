#include <periscena/gl/program.h>

#include "gl/api.h"
#include "gl/linked_program.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/gl/device.h>

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cstring>
#include <utility>

namespace periscena::gl {
namespace {

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

/// Numbers for programs; 0 is none.
std::uint64_t next_number() {
  static std::atomic<std::uint64_t> last = 0;
  return ++last;
}

void send(GLuint program, const UniformInfo& uniform, const UniformBytes& value) {
  const auto* floats = reinterpret_cast<const GLfloat*>(value.data());
  const auto* integers = reinterpret_cast<const GLint*>(value.data());
  switch (uniform.type) {
    case ValueType::boolean:
    case ValueType::integer: glProgramUniform1i(program, uniform.location, *integers); break;
    case ValueType::number: glProgramUniform1f(program, uniform.location, *floats); break;
    case ValueType::vec2: glProgramUniform2fv(program, uniform.location, 1, floats); break;
    case ValueType::vec3: glProgramUniform3fv(program, uniform.location, 1, floats); break;
    case ValueType::vec4: glProgramUniform4fv(program, uniform.location, 1, floats); break;
    case ValueType::ivec4: glProgramUniform4iv(program, uniform.location, 1, integers); break;
    case ValueType::mat3: glProgramUniformMatrix3fv(program, uniform.location, 1, GL_FALSE, floats); break;
    case ValueType::mat4: glProgramUniformMatrix4fv(program, uniform.location, 1, GL_FALSE, floats); break;
    default: break;  // no setter takes it
  }
}

}  // namespace

Program::Program(Device& device, const ProgramDescription& description, Place place)
    : label_(description.name),
      number_(next_number()),
      linked_(device.programs().get(description, std::move(place))),
      values_(linked_->interface.uniforms.size()) {}

const ProgramInterface& Program::interface() const {
  return linked_->interface;
}

std::uint32_t Program::name() const {
  return linked_->name.get();
}

void Program::use(State& state) const {
  claim();
  state.use_program(name());
}

/// Sends what is not in the GL program since another of its users had it. What this one never set is as after linking:
/// what the GLSL says, else 0 (OpenGL 4.5, 7.6).
void Program::claim() const {
  if (linked_->user == number_) return;
  linked_->user = number_;
  for (std::size_t i = 0; i < values_.size(); ++i) {
    UniformBytes& sent = linked_->sent[i];
    if (values_[i] == sent) continue;
    if (values_[i].empty() && !linked_->initial[i].empty()) {
      sent = linked_->initial[i];
    } else if (values_[i].empty()) {
      std::fill(sent.begin(), sent.end(), std::byte{0});
    } else {
      sent = values_[i];
    }
    gl::send(name(), interface().uniforms[i], sent);
  }
}

int Program::find_uniform(std::string_view name, ValueType type, const Place& place) const {
  const UniformInfo* found = linked_->interface.find_uniform(name);
  if (!found || found->type == ValueType::sampler) {
    const std::vector<std::string> names = linked_->interface.uniform_names();
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
  return static_cast<int>(found - linked_->interface.uniforms.data());
}

void Program::set_bytes(int index, const void* value, std::size_t bytes) {
  UniformBytes& known = values_[static_cast<std::size_t>(index)];
  if (known.size() == bytes && std::memcmp(known.data(), value, bytes) == 0) return;
  const auto* first = static_cast<const std::byte*>(value);
  known.assign(first, first + bytes);
  if (linked_->user == 0) linked_->user = number_;
  if (linked_->user != number_) return;  // use() sends it
  linked_->sent[static_cast<std::size_t>(index)] = known;
  gl::send(name(), interface().uniforms[static_cast<std::size_t>(index)], known);
}

void Program::set(Uniform<bool> uniform, bool value) {
  set(Uniform<int>{uniform.index}, value ? 1 : 0);
}

void Program::set(Uniform<int> uniform, int value) {
  set_bytes(uniform.index, &value, sizeof value);
}

void Program::set(Uniform<float> uniform, float value) {
  set_bytes(uniform.index, &value, sizeof value);
}

void Program::set(Uniform<Vec2> uniform, const Vec2& value) {
  set_bytes(uniform.index, value.data(), sizeof(float) * 2);
}

void Program::set(Uniform<Vec3> uniform, const Vec3& value) {
  set_bytes(uniform.index, value.data(), sizeof(float) * 3);
}

void Program::set(Uniform<Vec4> uniform, const Vec4& value) {
  set_bytes(uniform.index, value.data(), sizeof(float) * 4);
}

void Program::set(Uniform<IntVec4> uniform, const IntVec4& value) {
  set_bytes(uniform.index, value.data(), sizeof(int) * 4);
}

void Program::set(Uniform<Mat3> uniform, const Mat3& value) {
  set_bytes(uniform.index, value.data(), sizeof(float) * 9);
}

void Program::set(Uniform<Mat4> uniform, const Mat4& value) {
  set_bytes(uniform.index, value.data(), sizeof(float) * 16);
}

int Program::sampler_unit(std::string_view name, Place place) const {
  const UniformInfo* found = linked_->interface.find_uniform(name);
  if (found && found->type == ValueType::sampler) return found->sampler_unit;
  const std::vector<std::string> names = linked_->interface.sampler_names();
  throw Mistake("unknown-sampler", std::move(place), fmt::format("program \"{}\" uses no sampler \"{}\"", label_, name),
                names.empty() ? "it uses none; declare it: uniform sampler2D " + std::string(name) + ";, and sample it"
                              : name_hint(name, names));
}

void Program::expect_block(const BlockLayout& layout, Place place) const {
  const BlockInfo* block = linked_->interface.find_block(layout.name);
  if (!block) {
    std::vector<std::string> names;
    for (const BlockInfo& known : linked_->interface.blocks) names.push_back(known.name);
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
  for (std::size_t i = 0; i < linked_->interface.uniforms.size(); ++i) {
    if (linked_->interface.uniforms[i].type == ValueType::sampler) continue;
    if (values_[i].empty() && !linked_->has_initial_value[i]) unset.push_back(linked_->interface.uniforms[i].name);
  }
  if (unset.empty()) return;
  throw Mistake("unset-uniform", std::move(place),
                fmt::format("program \"{}\" uses uniform{} {}, but nothing set {}", label_, unset.size() > 1 ? "s" : "",
                            quoted_list(unset), unset.size() > 1 ? "them" : "it"),
                "set each, or give it a value in the GLSL");
}

}  // namespace periscena::gl
