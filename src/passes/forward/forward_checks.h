#pragma once

#include <periscena/passes/forward.h>

namespace periscena::passes {

/// Targets that the materials of one pass may show.
inline constexpr std::size_t most_pictures = 4;

/// The light whose map is looked at, if any.
inline const Reference& looked_at(const Forward& options) {
  return options.facts_of.empty() ? options.parts_of : options.facts_of;
}

inline constexpr const char* light_slots[] = {"light_diffuse", "light_specular"};

/// Was it lit before, into buffers?
inline bool is_prelit(const Forward& options) {
  return !options.light_diffuse.empty();
}

/// Reports what is wrong with the options beyond the ranges of their keys.
void check_forward(const Forward& options, Pass& pass);

}  // namespace periscena::passes
