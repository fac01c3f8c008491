#pragma once

#include <periscena/math/angle.h>

#include <Eigen/Core>
#include <Eigen/Geometry>

namespace periscena {

using Vec2 = Eigen::Vector2f;
using Vec3 = Eigen::Vector3f;
using Vec4 = Eigen::Vector4f;
using PackedVec4 = Eigen::Matrix<float, 4, 1, Eigen::DontAlign>;  ///< for structs whose layout is laid down elsewhere
using Mat3 = Eigen::Matrix3f;
using Mat4 = Eigen::Matrix4f;  ///< column-major: data() is what GLSL's mat4 wants
using Quat = Eigen::Quaternionf;

}  // namespace periscena
