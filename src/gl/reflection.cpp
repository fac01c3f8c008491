#include "gl/reflection.h"

#include "gl/api.h"

#include <algorithm>
#include <array>

namespace periscena::gl {
namespace {

ValueType type_of(GLenum code) {
  switch (code) {
    case GL_BOOL: return ValueType::boolean;
    case GL_INT: return ValueType::integer;
    case GL_UNSIGNED_INT: return ValueType::unsigned_integer;
    case GL_FLOAT: return ValueType::number;
    case GL_FLOAT_VEC2: return ValueType::vec2;
    case GL_FLOAT_VEC3: return ValueType::vec3;
    case GL_FLOAT_VEC4: return ValueType::vec4;
    case GL_INT_VEC2: return ValueType::ivec2;
    case GL_INT_VEC3: return ValueType::ivec3;
    case GL_INT_VEC4: return ValueType::ivec4;
    case GL_UNSIGNED_INT_VEC2: return ValueType::uvec2;
    case GL_UNSIGNED_INT_VEC3: return ValueType::uvec3;
    case GL_UNSIGNED_INT_VEC4: return ValueType::uvec4;
    case GL_FLOAT_MAT3: return ValueType::mat3;
    case GL_FLOAT_MAT4: return ValueType::mat4;
    case GL_FLOAT_MAT3x4: return ValueType::mat3x4;
    case GL_SAMPLER_2D:
    case GL_SAMPLER_2D_ARRAY:
    case GL_SAMPLER_3D:
    case GL_SAMPLER_CUBE:
    case GL_SAMPLER_2D_SHADOW:
    case GL_SAMPLER_2D_MULTISAMPLE:
    case GL_SAMPLER_2D_MULTISAMPLE_ARRAY:
    case GL_SAMPLER_CUBE_MAP_ARRAY:
    case GL_SAMPLER_2D_ARRAY_SHADOW:
    case GL_SAMPLER_CUBE_SHADOW:
    case GL_SAMPLER_BUFFER:
    case GL_INT_SAMPLER_BUFFER:
    case GL_UNSIGNED_INT_SAMPLER_BUFFER:
    case GL_INT_SAMPLER_2D:
    case GL_INT_SAMPLER_2D_ARRAY:
    case GL_INT_SAMPLER_3D:
    case GL_INT_SAMPLER_CUBE:
    case GL_INT_SAMPLER_2D_MULTISAMPLE:
    case GL_INT_SAMPLER_2D_MULTISAMPLE_ARRAY:
    case GL_UNSIGNED_INT_SAMPLER_2D:
    case GL_UNSIGNED_INT_SAMPLER_2D_ARRAY:
    case GL_UNSIGNED_INT_SAMPLER_3D:
    case GL_UNSIGNED_INT_SAMPLER_CUBE:
    case GL_UNSIGNED_INT_SAMPLER_2D_MULTISAMPLE:
    case GL_UNSIGNED_INT_SAMPLER_2D_MULTISAMPLE_ARRAY: return ValueType::sampler;
    default: return ValueType::other;
  }
}

int resource_count(GLuint program, GLenum interface) {
  GLint count = 0;
  glGetProgramInterfaceiv(program, interface, GL_ACTIVE_RESOURCES, &count);
  return count;
}

std::string resource_name(GLuint program, GLenum interface, GLuint index) {
  std::array<char, 512> name{};
  GLsizei length = 0;
  glGetProgramResourceName(program, interface, index, static_cast<GLsizei>(name.size()), &length, name.data());
  std::string text(name.data(), static_cast<std::size_t>(length));
  if (text.ends_with("[0]")) text.resize(text.size() - 3);
  return text;
}

template <std::size_t count>
std::array<GLint, count> properties(GLuint program, GLenum interface, GLuint index,
                                    const std::array<GLenum, count>& wanted) {
  std::array<GLint, count> values{};
  glGetProgramResourceiv(program, interface, index, static_cast<GLsizei>(count), wanted.data(),
                         static_cast<GLsizei>(count), nullptr, values.data());
  return values;
}

void reflect_uniforms(GLuint program, ProgramInterface& into) {
  int next_unit = 0;
  for (GLuint i = 0; i < static_cast<GLuint>(resource_count(program, GL_UNIFORM)); ++i) {
    const auto [type, location, array_size, block] =
        properties<4>(program, GL_UNIFORM, i, {GL_TYPE, GL_LOCATION, GL_ARRAY_SIZE, GL_BLOCK_INDEX});
    if (block != -1) continue;
    UniformInfo uniform{resource_name(program, GL_UNIFORM, i), type_of(static_cast<GLenum>(type)), location, array_size,
                        -1};
    if (uniform.type == ValueType::sampler) {
      uniform.sampler_unit = next_unit;
      for (int k = 0; k < array_size; ++k) glProgramUniform1i(program, location + k, next_unit++);
    }
    into.uniforms.push_back(std::move(uniform));
  }
}

BlockMember reflect_member(GLuint program, GLenum interface, GLuint index, const std::string& block) {
  BlockMember member;
  member.name = resource_name(program, interface, index);
  if (interface == GL_UNIFORM) {
    const auto [type, offset, stride] = properties<3>(program, interface, index, {GL_TYPE, GL_OFFSET, GL_ARRAY_STRIDE});
    member.type = type_of(static_cast<GLenum>(type));
    member.offset = offset;
    member.array_stride = stride;
  } else {
    const auto [type, offset, stride, top_stride] =
        properties<4>(program, interface, index, {GL_TYPE, GL_OFFSET, GL_ARRAY_STRIDE, GL_TOP_LEVEL_ARRAY_STRIDE});
    member.type = type_of(static_cast<GLenum>(type));
    member.offset = offset;
    member.array_stride = top_stride ? top_stride : stride;
  }
  // A block with an instance name has it before its members' names.
  if (member.name.starts_with(block + ".")) member.name.erase(0, block.size() + 1);
  return member;
}

void reflect_blocks(GLuint program, BlockInfo::Kind kind, ProgramInterface& into) {
  const bool uniform = kind == BlockInfo::Kind::uniform;
  const GLenum interface = uniform ? GL_UNIFORM_BLOCK : GL_SHADER_STORAGE_BLOCK;
  for (GLuint i = 0; i < static_cast<GLuint>(resource_count(program, interface)); ++i) {
    const auto [binding, bytes, count] =
        properties<3>(program, interface, i, {GL_BUFFER_BINDING, GL_BUFFER_DATA_SIZE, GL_NUM_ACTIVE_VARIABLES});
    BlockInfo block{resource_name(program, interface, i), kind, binding, bytes, {}};
    std::vector<GLint> members(static_cast<std::size_t>(count));
    const GLenum variables = GL_ACTIVE_VARIABLES;
    glGetProgramResourceiv(program, interface, i, 1, &variables, count, nullptr, members.data());
    for (const GLint member : members) {
      block.members.push_back(
          reflect_member(program, uniform ? GL_UNIFORM : GL_BUFFER_VARIABLE, static_cast<GLuint>(member), block.name));
    }
    into.blocks.push_back(std::move(block));
  }
}

}  // namespace

ProgramInterface reflect(std::uint32_t program) {
  ProgramInterface found;
  reflect_uniforms(program, found);
  reflect_blocks(program, BlockInfo::Kind::uniform, found);
  reflect_blocks(program, BlockInfo::Kind::storage, found);
  for (GLuint i = 0; i < static_cast<GLuint>(resource_count(program, GL_PROGRAM_OUTPUT)); ++i) {
    const auto [type, location] = properties<2>(program, GL_PROGRAM_OUTPUT, i, {GL_TYPE, GL_LOCATION});
    if (location >= 0) {
      found.outputs.push_back(
          {resource_name(program, GL_PROGRAM_OUTPUT, i), type_of(static_cast<GLenum>(type)), location});
    }
  }
  return found;
}

const UniformInfo* ProgramInterface::find_uniform(std::string_view name) const {
  const auto found =
      std::find_if(uniforms.begin(), uniforms.end(), [&](const auto& uniform) { return uniform.name == name; });
  return found == uniforms.end() ? nullptr : &*found;
}

const BlockInfo* ProgramInterface::find_block(std::string_view name) const {
  const auto found = std::find_if(blocks.begin(), blocks.end(), [&](const auto& block) { return block.name == name; });
  return found == blocks.end() ? nullptr : &*found;
}

std::vector<std::string> ProgramInterface::uniform_names() const {
  std::vector<std::string> names;
  for (const UniformInfo& uniform : uniforms) {
    if (uniform.type != ValueType::sampler) names.push_back(uniform.name);
  }
  return names;
}

std::vector<std::string> ProgramInterface::sampler_names() const {
  std::vector<std::string> names;
  for (const UniformInfo& uniform : uniforms) {
    if (uniform.type == ValueType::sampler) names.push_back(uniform.name);
  }
  return names;
}

std::vector<std::string> ProgramInterface::output_names() const {
  std::vector<std::string> names;
  for (const OutputInfo& output : outputs) names.push_back(output.name);
  return names;
}

}  // namespace periscena::gl
