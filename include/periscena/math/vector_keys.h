#pragma once

#include <periscena/base/keys.h>
#include <periscena/math/vector.h>

namespace periscena {

/// Vectors as keys of descriptions: lists of that many numbers.
template <int count>
struct KeyType<Matrix<float, count, 1>> {
  using Type = NumbersKeyType<float, static_cast<std::size_t>(count)>;
  using Vector = Matrix<float, count, 1>;
  static std::string name() { return Type::name(); }
  static std::string show(const Vector& value) { return Type::show(value.data()); }
  static Value write(const Vector& value) { return Type::write(value.data()); }
  static void read(const Value& value, const KeyInfo& info, Vector& into, Diagnostics& diagnostics) {
    Type::read(value, info, into.data(), diagnostics);
  }
};

}  // namespace periscena
