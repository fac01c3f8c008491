#pragma once

#include <periscena/base/keys.h>
#include <periscena/math/curve.h>

namespace periscena {

/// Is this a table that says a curve: { curve = … } or { noise = … }?
bool is_curve(const Value& value);

/// @param own_seed  of noise that says none @throws Mistake "broken-curve", or with what is wrong with its keys
Curve read_curve(const Value& value, std::uint64_t own_seed);

/// As read_curve() reads it; one that is constant as its value alone.
Value write_curve(const Curve& curve);

/// A number, or a list of as many as there are.
Value write_numbers(const Curve::Numbers& numbers, int count, const Place& place = {});

/// The keys of such a table.
const KeyTable& curve_keys();

/// Curves as keys of descriptions: a table, or a value that is constant.
template <>
struct KeyType<Curve> {
  static std::string name() { return "value or curve"; }
  static std::string show(const Curve& curve);
  static Value write(const Curve& curve) { return write_curve(curve); }
  static void read(const Value& value, const KeyInfo& info, Curve& into, Diagnostics& diagnostics);
  static void check(const Curve& curve, const KeyInfo& info, const Place& place, Diagnostics& diagnostics);
};

}  // namespace periscena
