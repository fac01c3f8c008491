#pragma once

#include <periscena/math/angle.h>
#include <periscena/math/real.h>

#include <cstddef>

namespace periscena {

/// Is a type of another library a matrix or vector of this shape, known when compiled? Such a value can be passed
/// wherever one of ours is asked for.
template <class Other, int rows, int columns>
concept MatrixOfShape = requires(const Other& other) {
  requires static_cast<int>(Other::RowsAtCompileTime) == rows;
  requires static_cast<int>(Other::ColsAtCompileTime) == columns;
  other.eval()(0, 0);
};

/// A matrix of a few numbers, stored by columns, without gaps; with one column, a vector. All zero unless set.
///
/// Operators are those of mathematics: `a * b` is the matrix product, products by element are `times`. Sums are taken
/// in one order on every compiler, so that pictures are the same everywhere.
template <class T, int rows, int columns = 1>
class Matrix {
 public:
  static constexpr int count = rows * columns;
  static constexpr bool is_vector = columns == 1;
  static constexpr bool is_square = rows == columns;
  /// Has it a determinant and an inverse here? The library holds those of 2 to 4 rows, of float and double.
  static constexpr bool is_solvable = is_square && rows >= 2 && rows <= 4 && detail::is_real<T>;

  constexpr Matrix() = default;
  constexpr Matrix(T x, T y) requires(is_vector&& rows == 2) : numbers_{x, y} {}
  constexpr Matrix(T x, T y, T z) requires(is_vector&& rows == 3) : numbers_{x, y, z} {}
  constexpr Matrix(T x, T y, T z, T w) requires(is_vector&& rows == 4) : numbers_{x, y, z, w} {}
  template <MatrixOfShape<rows, columns> Other>
  constexpr Matrix(const Other& other) {
    const auto& values = other.eval();
    for (int i = 0; i < count; ++i) numbers_[i] = values(i % rows, i / rows);
  }

  static constexpr Matrix zero() { return {}; }
  static constexpr Matrix ones() { return constant(1); }
  static constexpr Matrix constant(T value) {
    Matrix all;
    for (T& number : all.numbers_) number = value;
    return all;
  }
  static constexpr Matrix identity() requires is_square { return diagonal(Matrix<T, rows>::ones()); }
  /// Zero but for its diagonal.
  static constexpr Matrix diagonal(const Matrix<T, rows>& values) requires is_square {
    Matrix all;
    for (int i = 0; i < rows; ++i) all(i, i) = values[i];
    return all;
  }
  /// @param numbers  as many as there are, by columns
  static constexpr Matrix of_numbers(const T* numbers) {
    Matrix all;
    for (int i = 0; i < count; ++i) all.numbers_[i] = numbers[i];
    return all;
  }
  static constexpr Matrix of_rows(const Matrix<T, columns> (&values)[rows]) {
    Matrix all;
    for (int i = 0; i < rows; ++i) all.set_row(i, values[i]);
    return all;
  }
  /// A vector along an axis, of length 1.
  static constexpr Matrix unit(int axis) requires is_vector {
    Matrix all;
    all[axis] = 1;
    return all;
  }
  static constexpr Matrix unit_x() requires is_vector { return unit(0); }
  static constexpr Matrix unit_y() requires is_vector { return unit(1); }
  static constexpr Matrix unit_z() requires(is_vector&& rows > 2) { return unit(2); }

  constexpr T* data() { return numbers_; }
  constexpr const T* data() const { return numbers_; }
  static constexpr std::size_t size() { return count; }
  constexpr T* begin() { return numbers_; }
  constexpr T* end() { return numbers_ + count; }
  constexpr const T* begin() const { return numbers_; }
  constexpr const T* end() const { return numbers_ + count; }

  constexpr T& operator()(int row, int column) { return numbers_[column * rows + row]; }
  constexpr const T& operator()(int row, int column) const { return numbers_[column * rows + row]; }
  constexpr T& operator[](std::size_t i) requires is_vector { return numbers_[i]; }
  constexpr const T& operator[](std::size_t i) const requires is_vector { return numbers_[i]; }
  constexpr T& x() requires is_vector { return numbers_[0]; }
  constexpr T& y() requires is_vector { return numbers_[1]; }
  constexpr T& z() requires(is_vector&& rows > 2) { return numbers_[2]; }
  constexpr T& w() requires(is_vector&& rows > 3) { return numbers_[3]; }
  constexpr const T& x() const requires is_vector { return numbers_[0]; }
  constexpr const T& y() const requires is_vector { return numbers_[1]; }
  constexpr const T& z() const requires(is_vector&& rows > 2) { return numbers_[2]; }
  constexpr const T& w() const requires(is_vector&& rows > 3) { return numbers_[3]; }

  /// The first numbers of a vector.
  template <int n>
  constexpr Matrix<T, n> head() const requires(is_vector&& n <= rows) {
    return Matrix<T, n>::of_numbers(numbers_);
  }
  template <int n>
  constexpr void set_head(const Matrix<T, n>& values) requires(is_vector&& n <= rows) {
    for (int i = 0; i < n; ++i) numbers_[i] = values[i];
  }
  /// With one more number at the end.
  constexpr Matrix<T, rows + 1> with(T last) const requires is_vector {
    Matrix<T, rows + 1> longer;
    longer.set_head(*this);
    longer[rows] = last;
    return longer;
  }

  constexpr Matrix<T, columns> row(int row) const {
    Matrix<T, columns> values;
    for (int i = 0; i < columns; ++i) values[i] = (*this)(row, i);
    return values;
  }
  constexpr void set_row(int row, const Matrix<T, columns>& values) {
    for (int i = 0; i < columns; ++i) (*this)(row, i) = values[i];
  }
  constexpr Matrix<T, rows> column(int column) const { return Matrix<T, rows>::of_numbers(numbers_ + column * rows); }
  template <int n>
  constexpr void set_column(int column, const Matrix<T, n>& values) requires(n <= rows) {
    for (int i = 0; i < n; ++i) (*this)(i, column) = values[i];
  }
  /// The first n rows and columns: of an affine 4x4 matrix, its linear part is `corner<3>()`.
  template <int n>
  constexpr Matrix<T, n, n> corner() const requires(n <= rows && n <= columns) {
    Matrix<T, n, n> part;
    for (int i = 0; i < n; ++i) part.set_column(i, Matrix<T, n>::of_numbers(numbers_ + i * rows));
    return part;
  }
  template <int n>
  constexpr void set_corner(const Matrix<T, n, n>& part) requires(n <= rows && n <= columns) {
    for (int i = 0; i < n; ++i) set_column(i, part.column(i));
  }
  constexpr Matrix<T, rows> diagonal() const requires is_square {
    Matrix<T, rows> values;
    for (int i = 0; i < rows; ++i) values[i] = (*this)(i, i);
    return values;
  }

  constexpr Matrix& operator+=(const Matrix& other) {
    return *this = combined(other, [](T a, T b) { return a + b; });
  }
  constexpr Matrix& operator-=(const Matrix& other) {
    return *this = combined(other, [](T a, T b) { return a - b; });
  }
  constexpr Matrix& operator*=(T factor) {
    return *this = mapped([factor](T a) { return a * factor; });
  }
  constexpr Matrix& operator/=(T divisor) {
    return *this = mapped([divisor](T a) { return a / divisor; });
  }
  friend constexpr Matrix operator+(Matrix a, const Matrix& b) { return a += b; }
  friend constexpr Matrix operator-(Matrix a, const Matrix& b) { return a -= b; }
  friend constexpr Matrix operator*(Matrix a, T factor) { return a *= factor; }
  friend constexpr Matrix operator*(T factor, Matrix a) { return a *= factor; }
  friend constexpr Matrix operator/(Matrix a, T divisor) { return a /= divisor; }
  constexpr Matrix operator-() const {
    return mapped([](T a) { return -a; });
  }
  friend constexpr bool operator==(const Matrix& a, const Matrix& b) {
    for (int i = 0; i < count; ++i) {
      if (!(a.numbers_[i] == b.numbers_[i])) return false;
    }
    return true;
  }

  /// Each element by a function of it; with another matrix: by a function of both.
  template <class Function>
  constexpr Matrix mapped(Function function) const {
    Matrix result;
    for (int i = 0; i < count; ++i) result.numbers_[i] = function(numbers_[i]);
    return result;
  }
  template <class Function>
  constexpr Matrix combined(const Matrix& other, Function function) const {
    Matrix result;
    for (int i = 0; i < count; ++i) result.numbers_[i] = function(numbers_[i], other.numbers_[i]);
    return result;
  }
  /// By element.
  constexpr Matrix times(const Matrix& other) const {
    return combined(other, [](T a, T b) { return a * b; });
  }
  constexpr Matrix over(const Matrix& other) const {
    return combined(other, [](T a, T b) { return a / b; });
  }
  /// By element, or all by one number; where one is NaN, the first.
  constexpr Matrix min(const Matrix& other) const {
    return combined(other, [](T a, T b) { return b < a ? b : a; });
  }
  constexpr Matrix max(const Matrix& other) const {
    return combined(other, [](T a, T b) { return a < b ? b : a; });
  }
  constexpr Matrix min(T most) const { return min(constant(most)); }
  constexpr Matrix max(T least) const { return max(constant(least)); }
  constexpr Matrix abs() const {
    return mapped([](T a) { return detail::magnitude(a); });
  }

  constexpr T sum() const {
    if constexpr (count == 2) return numbers_[0] + numbers_[1];
    if constexpr (count == 3) return numbers_[0] + (numbers_[1] + numbers_[2]);
    auto lanes = Matrix<T, 4>::of_numbers(numbers_);  // as machines with four at a time do it
    int i = 4;
    for (; i + 4 <= count; i += 4) lanes += Matrix<T, 4>::of_numbers(numbers_ + i);
    T sum = (lanes[0] + lanes[2]) + (lanes[1] + lanes[3]);
    for (; i < count; ++i) sum += numbers_[i];
    return sum;
  }
  constexpr T product() const {
    T product = numbers_[0];
    for (int i = 1; i < count; ++i) product *= numbers_[i];
    return product;
  }
  constexpr T smallest() const {
    T least = numbers_[0];
    for (const T number : numbers_) least = number < least ? number : least;
    return least;
  }
  constexpr T largest() const {
    T most = numbers_[0];
    for (const T number : numbers_) most = most < number ? number : most;
    return most;
  }

  /// Which number is the largest? The first of several.
  constexpr int largest_axis() const requires is_vector {
    int axis = 0;
    for (int i = 1; i < count; ++i) axis = numbers_[i] > numbers_[axis] ? i : axis;
    return axis;
  }

  constexpr T dot(const Matrix& other) const { return times(other).sum(); }
  constexpr Matrix cross(const Matrix& other) const requires(is_vector&& rows == 3) {
    return {y() * other.z() - z() * other.y(), z() * other.x() - x() * other.z(), x() * other.y() - y() * other.x()};
  }
  constexpr T squared_norm() const { return dot(*this); }
  T norm() const { return detail::square_root(squared_norm()); }
  /// The norm where squares would overflow or vanish.
  T stable_norm() const {
    const T most = abs().largest();
    if (!(most > 0 && detail::is_finite(most))) return most;
    T sum = 0;
    for (const T number : numbers_) sum += (number * (1 / most)) * (number * (1 / most));
    return most * detail::square_root(sum);
  }
  /// Of length 1; zero stays zero.
  Matrix normalized() const {
    const T squared = squared_norm();
    return squared > 0 ? *this / detail::square_root(squared) : *this;
  }
  Matrix stable_normalized() const {
    const T most = abs().largest();
    const T squared = (*this / most).squared_norm();
    return squared > 0 ? *this / (detail::square_root(squared) * most) : *this;
  }

  /// Is the distance to `other` at most `share` of the shorter of both?
  bool is_near(const Matrix& other, T share = default_share()) const {
    return (*this - other).squared_norm() <= share * share * shorter(squared_norm(), other.squared_norm());
  }
  /// Are all numbers at most `most` from zero?
  bool is_zero(T most = default_share()) const {
    for (const T number : numbers_) {
      if (!(detail::magnitude(number) <= most)) return false;
    }
    return true;
  }
  bool is_finite() const {
    for (const T number : numbers_) {
      if (!detail::is_finite(number)) return false;
    }
    return true;
  }

  constexpr bool has_nan() const { return !(*this == *this); }

  constexpr Matrix<T, columns, rows> transpose() const {
    Matrix<T, columns, rows> turned;
    for (int i = 0; i < columns; ++i) turned.set_row(i, column(i));
    return turned;
  }
  T determinant() const requires is_solvable;
  /// @return with numbers that are not finite where the determinant is 0
  Matrix inverse() const requires is_solvable;

  template <class Other>
  constexpr Matrix<Other, rows, columns> cast() const {
    Matrix<Other, rows, columns> result;
    for (int i = 0; i < count; ++i) result.data()[i] = static_cast<Other>(numbers_[i]);
    return result;
  }

 private:
  static constexpr T shorter(T a, T b) { return b < a ? b : a; }
  static constexpr T default_share() { return sizeof(T) > 4 ? T(1e-12) : T(1e-5f); }

  T numbers_[count] = {};
};

template <class T, int rows, int inner, int columns>
constexpr Matrix<T, rows, columns> operator*(const Matrix<T, rows, inner>& a, const Matrix<T, inner, columns>& b) {
  Matrix<T, rows, columns> product;
  for (int column = 0; column < columns; ++column) {
    for (int row = 0; row < rows; ++row) {
      if constexpr (inner == 3) {
        product(row, column) = a(row, 0) * b(0, column) + (a(row, 1) * b(1, column) + a(row, 2) * b(2, column));
      } else {
        T sum = a(row, 0) * b(0, column);
        for (int i = 1; i < inner; ++i) sum += a(row, i) * b(i, column);
        product(row, column) = sum;
      }
    }
  }
  return product;
}

/// Is each number at most the other vector's? Not where one is NaN.
template <class T, int rows>
constexpr bool all_at_most(const Matrix<T, rows>& a, const Matrix<T, rows>& b) {
  for (int i = 0; i < rows; ++i) {
    if (!(a[i] <= b[i])) return false;
  }
  return true;
}

/// Is any number less than the other vector's? NaN is not.
template <class T, int rows>
constexpr bool any_less(const Matrix<T, rows>& a, const Matrix<T, rows>& b) {
  for (int i = 0; i < rows; ++i) {
    if (a[i] < b[i]) return true;
  }
  return false;
}

/// Is each number less than the other vector's? Not where one is NaN.
template <class T, int rows>
constexpr bool all_less(const Matrix<T, rows>& a, const Matrix<T, rows>& b) {
  for (int i = 0; i < rows; ++i) {
    if (!(a[i] < b[i])) return false;
  }
  return true;
}

using Vec2 = Matrix<float, 2>;
using Vec3 = Matrix<float, 3>;
using Vec4 = Matrix<float, 4>;
using IntVec4 = Matrix<int, 4>;
using DoubleVec2 = Matrix<double, 2>;
using DoubleVec3 = Matrix<double, 3>;
using DoubleMat4 = Matrix<double, 4, 4>;
using Mat3 = Matrix<float, 3, 3>;
using Mat4 = Matrix<float, 4, 4>;  ///< data() is what GLSL's mat4 wants

/// A rotation as a quaternion w + xi + yj + zk.
class Quat {
 public:
  constexpr Quat() = default;  ///< the rotation by 0°
  constexpr Quat(float w, float x, float y, float z) : numbers_(x, y, z, w) {}
  /// @param numbers  x, y, z, w
  explicit constexpr Quat(const Vec4& numbers) : numbers_(numbers) {}
  /// @param rotation  a rotation matrix
  explicit Quat(const Mat3& rotation);

  static constexpr Quat identity() { return {}; }
  /// @param axis  of length 1
  static Quat about(const Vec3& axis, float angle_radians);
  /// The shortest rotation from one direction to another.
  static Quat between(const Vec3& from, const Vec3& to);

  constexpr float x() const { return numbers_.x(); }
  constexpr float y() const { return numbers_.y(); }
  constexpr float z() const { return numbers_.z(); }
  constexpr float w() const { return numbers_.w(); }
  /// x, y, z, w
  constexpr const Vec4& numbers() const { return numbers_; }

  Quat normalized() const { return Quat(numbers_.normalized()); }
  Mat3 matrix() const;
  /// The rotation `share` of the way to `to`, on the shortest way, at an even speed.
  Quat slerp(float share, const Quat& to) const;
  /// The angle of the rotation from here to `other`, in radians.
  float angle_to(const Quat& other) const;

  friend constexpr bool operator==(const Quat&, const Quat&) = default;

 private:
  Vec4 numbers_{0, 0, 0, 1};
};

}  // namespace periscena
