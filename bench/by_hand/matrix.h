#pragma once

#include <array>
#include <cmath>

/// 4 x 4 by columns, as OpenGL has them.
using Matrix4 = std::array<float, 16>;

inline Matrix4 operator*(const Matrix4& a, const Matrix4& b) {
  Matrix4 product{};
  for (std::size_t column = 0; column < 4; ++column) {
    for (std::size_t row = 0; row < 4; ++row) {
      for (std::size_t k = 0; k < 4; ++k) product[4 * column + row] += a[4 * k + row] * b[4 * column + k];
    }
  }
  return product;
}

inline Matrix4 translation(float x, float y, float z) {
  return {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1};
}

inline Matrix4 about_x(float angle) {
  const float c = std::cos(angle), s = std::sin(angle);
  return {1, 0, 0, 0, 0, c, s, 0, 0, -s, c, 0, 0, 0, 0, 1};
}

inline Matrix4 about_y(float angle) {
  const float c = std::cos(angle), s = std::sin(angle);
  return {c, 0, -s, 0, 0, 1, 0, 0, s, 0, c, 0, 0, 0, 0, 1};
}

inline Matrix4 about_z(float angle) {
  const float c = std::cos(angle), s = std::sin(angle);
  return {c, s, 0, 0, -s, c, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1};
}

/// Depth from −1 to 1.
inline Matrix4 perspective(float fov_y, float aspect, float near, float far) {
  const float f = 1 / std::tan(fov_y / 2);
  return {f / aspect, 0, 0, 0, 0, f, 0, 0, 0, 0, (far + near) / (near - far), -1, 0, 0, 2 * far * near / (near - far),
          0};
}

inline Matrix4 parallel(float half_width, float half_height, float near, float far) {
  return {1 / half_width,
          0,
          0,
          0,
          0,
          1 / half_height,
          0,
          0,
          0,
          0,
          2 / (near - far),
          0,
          0,
          0,
          (far + near) / (near - far),
          1};
}

inline Matrix4 look_at(const float (&eye)[3], const float (&target)[3]) {
  float z[3], length = 0;
  for (int i = 0; i < 3; ++i) z[i] = eye[i] - target[i], length += z[i] * z[i];
  for (float& one : z) one /= std::sqrt(length);
  const float flat = std::sqrt(z[0] * z[0] + z[2] * z[2]);  // no eye here looks straight down
  const float x[3] = {z[2] / flat, 0, -z[0] / flat};
  const float y[3] = {z[1] * x[2] - z[2] * x[1], z[2] * x[0] - z[0] * x[2], z[0] * x[1] - z[1] * x[0]};
  const auto away = [&](const float(&axis)[3]) { return -(axis[0] * eye[0] + axis[1] * eye[1] + axis[2] * eye[2]); };
  return {x[0], y[0], z[0], 0, x[1], y[1], z[1], 0, x[2], y[2], z[2], 0, away(x), away(y), away(z), 1};
}
