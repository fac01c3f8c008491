#pragma once

#include <periscena/base/place.h>
#include <periscena/gl/block_layout.h>
#include <periscena/gl/shader_text.h>
#include <periscena/gl/state.h>
#include <periscena/math/vector.h>

#include <memory>
#include <string>
#include <vector>

namespace periscena::gl {

/// A uniform outside of blocks.
struct UniformInfo {
  std::string name;
  ValueType type = ValueType::other;
  int location = -1;
  int array_size = 1;
  int sampler_unit = -1;  ///< for samplers
};

struct BlockMember {
  std::string name;  ///< without the block's name
  ValueType type = ValueType::other;
  int offset = 0;        ///< bytes
  int array_stride = 0;  ///< bytes; for members of an unsized array of structs, the struct's size
};

struct BlockInfo {
  enum class Kind { uniform, storage };
  std::string name;
  Kind kind = Kind::uniform;
  int binding = 0;
  int bytes = 0;
  std::vector<BlockMember> members;
};

struct OutputInfo {
  std::string name;
  ValueType type = ValueType::other;
  int location = 0;
};

/// What a program wants and gives, as the driver tells it after linking. Only what is used is there.
struct ProgramInterface {
  std::vector<UniformInfo> uniforms;
  std::vector<BlockInfo> blocks;
  std::vector<OutputInfo> outputs;

  const UniformInfo* find_uniform(std::string_view name) const;
  const BlockInfo* find_block(std::string_view name) const;
  std::vector<std::string> uniform_names() const;  ///< without samplers
  std::vector<std::string> sampler_names() const;
  std::vector<std::string> output_names() const;
};

/// A uniform whose name and type were checked once: setting it costs no look-up.
template <class T>
struct Uniform {
  int index = -1;
};

struct ProgramDescription {
  std::string name;
  ShaderText vertex = {};
  ShaderText fragment = {};  ///< empty for passes that only write depth
  ShaderText compute = {};   ///< instead of both
};

class Device;
struct LinkedProgram;

/// A vertex and a fragment program, or a compute program, linked and reflected. Programs of one text share one GL
/// program (see ProgramCache), each with uniform values of its own.
class Program {
 public:
  /// @throws Mistake with slug "shader" for each message of the compiler, in its file, line and text; "program-link"
  Program(Device& device, const ProgramDescription& description, Place place = Place::here());

  /// What follows draws or computes with it and with its values.
  void use(State& state) const;

  const ProgramInterface& interface() const;
  const std::string& label() const { return label_; }

  /// @throws Mistake "unknown-uniform" with the nearest name, "wrong-uniform-type"
  template <class T>
  Uniform<T> uniform(std::string_view name, Place place = Place::here()) const {
    return {find_uniform(name, value_type<T>(), place)};
  }

  /// Sends the value if it is not there already. Elements of arrays can't be set.
  void set(Uniform<bool> uniform, bool value);
  void set(Uniform<int> uniform, int value);
  void set(Uniform<float> uniform, float value);
  void set(Uniform<Vec2> uniform, const Vec2& value);
  void set(Uniform<Vec3> uniform, const Vec3& value);
  void set(Uniform<Vec4> uniform, const Vec4& value);
  void set(Uniform<IntVec4> uniform, const IntVec4& value);
  void set(Uniform<Mat3> uniform, const Mat3& value);
  void set(Uniform<Mat4> uniform, const Mat4& value);

  /// The texture unit of a sampler; units were given out when the program was made.
  /// @throws Mistake "unknown-sampler" with the nearest name
  int sampler_unit(std::string_view name, Place place = Place::here()) const;

  /// Compares a C++ struct with the block of its name.
  /// @throws Mistake "block-mismatch": a member at another offset, of another type, or on one side only;
  /// "unknown-block"
  void expect_block(const BlockLayout& layout, Place place = Place::here()) const;

  /// @throws Mistake "unset-uniform", naming all that were neither set nor given a value in the GLSL
  void expect_all_set(Place place = Place::here()) const;

  /// The GL program's. For calls of your own, after use(): it may be shared.
  std::uint32_t name() const;

 private:
  int find_uniform(std::string_view name, ValueType type, const Place& place) const;
  void set_bytes(int index, const void* value, std::size_t bytes);
  void claim() const;

  std::string label_;
  std::uint64_t number_ = 0;  ///< no other program's
  std::shared_ptr<LinkedProgram> linked_;
  std::vector<std::vector<std::byte>> values_;  ///< by uniform; empty: never set
};

}  // namespace periscena::gl
