#pragma once

#include <periscena/math/vector.h>

#include <Eigen/Core>

namespace periscena {

/// The same numbers, for what Eigen solves.
template <class T, int rows, int columns>
Eigen::Matrix<T, rows, columns> to_eigen(const Matrix<T, rows, columns>& matrix) {
  return Eigen::Map<const Eigen::Matrix<T, rows, columns>>(matrix.data());
}

}  // namespace periscena
