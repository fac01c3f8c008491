#pragma once

#include <periscena/passes/fullscreen.h>

#include <vector>

namespace periscena {
struct Value;
class Diagnostics;
}  // namespace periscena

namespace periscena::passes {

/// Reads `uniforms = { strength = 0.5, tint = [1, 0.9, 0.8] }`.
void read_uniforms(const Value& table, std::vector<UniformValue>& into, Diagnostics& problems);

/// Are the values of uniforms all that is different?
bool differ_by_uniforms(const Fullscreen& a, const Fullscreen& b);

}  // namespace periscena::passes
