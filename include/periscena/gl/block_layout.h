#pragma once

#include <periscena/math/vector.h>

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace periscena::gl {

/// Types of GLSL values that C++ can hold one to one.
enum class ValueType {
  boolean,
  integer,
  unsigned_integer,
  number,
  vec2,
  vec3,
  vec4,
  ivec2,
  ivec3,
  ivec4,
  uvec2,
  uvec3,
  uvec4,
  mat3,
  mat4,
  mat3x4,
  sampler,
  other
};
std::string_view to_string(ValueType type);  ///< the GLSL keyword

template <class T>
constexpr ValueType value_type();
template <>
constexpr ValueType value_type<bool>() {
  return ValueType::boolean;
}
template <>
constexpr ValueType value_type<int>() {
  return ValueType::integer;
}
template <>
constexpr ValueType value_type<std::uint32_t>() {
  return ValueType::unsigned_integer;
}
template <>
constexpr ValueType value_type<float>() {
  return ValueType::number;
}
template <>
constexpr ValueType value_type<Vec2>() {
  return ValueType::vec2;
}
template <>
constexpr ValueType value_type<Vec3>() {
  return ValueType::vec3;
}
template <>
constexpr ValueType value_type<IntVec4>() {
  return ValueType::ivec4;
}
template <>
constexpr ValueType value_type<Vec4>() {
  return ValueType::vec4;
}
template <>
constexpr ValueType value_type<Mat3>() {
  return ValueType::mat3;
}
template <>
constexpr ValueType value_type<Matrix<float, 4, 3>>() {
  return ValueType::mat3x4;
}
template <>
constexpr ValueType value_type<Mat4>() {
  return ValueType::mat4;
}

/// A GLSL block as a C++ struct sees it.
struct BlockLayout {
  struct Member {
    std::string name;
    ValueType type;
    std::size_t offset;  ///< bytes
  };
  std::string name;   ///< the block's name in GLSL
  std::string array;  ///< for storage blocks that are an unsized array of the struct: the array's name; else empty
  std::size_t bytes = 0;
  std::vector<Member> members;
};

/// Says how a struct lies in memory, from the struct itself:
///
///     static const BlockLayout layout = describe_block<CameraBlock>("Camera").member("view", &CameraBlock::view);
template <class Struct>
class BlockDescription {
 public:
  explicit BlockDescription(std::string name, std::string array = {}) {
    layout_.name = std::move(name);
    layout_.array = std::move(array);
    layout_.bytes = sizeof(Struct);
  }

  template <class Member>
  BlockDescription& member(std::string name, Member Struct::*pointer) {
    static const Struct object{};
    const auto offset =
        reinterpret_cast<const std::byte*>(&(object.*pointer)) - reinterpret_cast<const std::byte*>(&object);
    layout_.members.push_back({std::move(name), value_type<Member>(), static_cast<std::size_t>(offset)});
    return *this;
  }

  operator BlockLayout() const { return layout_; }

 private:
  BlockLayout layout_;
};

template <class Struct>
BlockDescription<Struct> describe_block(std::string name, std::string array = {}) {
  return BlockDescription<Struct>(std::move(name), std::move(array));
}

}  // namespace periscena::gl
