#pragma once

#include <periscena/base/keys.h>

#include <Eigen/Core>
#include <Eigen/Geometry>

#include <numbers>

namespace periscena {

using Vec2 = Eigen::Vector2f;
using Vec3 = Eigen::Vector3f;
using Vec4 = Eigen::Vector4f;
using PackedVec4 = Eigen::Matrix<float, 4, 1, Eigen::DontAlign>;  ///< for structs whose layout is laid down elsewhere
using Mat3 = Eigen::Matrix3f;
using Mat4 = Eigen::Matrix4f;  ///< column-major: data() is what GLSL's mat4 wants
using Quat = Eigen::Quaternionf;

inline constexpr float pi = std::numbers::pi_v<float>;

constexpr float radians(float degrees) {
  return degrees * (pi / 180.0f);
}
constexpr float degrees(float radians) {
  return radians * (180.0f / pi);
}

/// Vectors as keys of descriptions: lists of that many numbers.
template <int count>
struct KeyType<Eigen::Matrix<float, count, 1>> {
  using Type = NumbersKeyType<float, static_cast<std::size_t>(count)>;
  using Vector = Eigen::Matrix<float, count, 1>;
  static std::string name() { return Type::name(); }
  static std::string show(const Vector& value) { return Type::show(value.data()); }
  static void read(const Value& value, const KeyInfo& info, Vector& into, Diagnostics& diagnostics) {
    Type::read(value, info, into.data(), diagnostics);
  }
};

}  // namespace periscena
