#pragma once

#include <periscena/base/keys.h>
#include <periscena/passes/fullscreen.h>

#include <vector>

namespace periscena::passes {

/// Reads `uniforms = { strength = 0.5, tint = [1, 0.9, 0.8] }`.
std::vector<UniformValue> read_uniforms(const Value& table, Diagnostics& problems);

Value write_uniforms(const std::vector<UniformValue>& values);

/// Are the values of uniforms all that is different?
bool differ_by_uniforms(const Fullscreen& a, const Fullscreen& b);

}  // namespace periscena::passes

namespace periscena {

/// Values by the names of uniforms.
template <>
struct KeyType<std::vector<UniformValue>> {
  static std::string name() { return "table"; }
  static std::string show(const std::vector<UniformValue>&) { return ""; }
  static Value write(const std::vector<UniformValue>& values) { return passes::write_uniforms(values); }
  static void read(const Value& value, const KeyInfo&, std::vector<UniformValue>& into, Diagnostics& diagnostics) {
    into = passes::read_uniforms(value, diagnostics);
  }
};

}  // namespace periscena
