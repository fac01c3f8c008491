#pragma once

#include <periscena/gl/object_name.h>
#include <periscena/gl/program.h>

#include <cstdint>
#include <vector>

namespace periscena::gl {

using UniformBytes = std::vector<std::byte>;

/// A GL program that several Programs may share. Each of them has values of its own for the uniforms; those of the one
/// that was used last are in the GL program.
struct LinkedProgram {
  ObjectName<ObjectKind::program> name;
  ProgramInterface interface;
  std::vector<bool> has_initial_value;  ///< by uniform: the GLSL gives one
  std::vector<UniformBytes> initial;    ///< by uniform: that value; empty where it gives none
  std::vector<UniformBytes> sent;       ///< by uniform: what the GL program holds; empty: nothing was sent
  std::uint64_t user = 0;               ///< of whose values they are
  bool one_at_a_time = false;           ///< see ProgramCache
};

}  // namespace periscena::gl
