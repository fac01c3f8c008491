#pragma once

#include <periscena/graph/pass.h>
#include <periscena/passes/fullscreen.h>

namespace periscena::passes {

/// A fullscreen pass that is lit as options say which have the same members.
template <class Options>
Fullscreen lit_fullscreen(const Options& options, const Pass& pass) {
  Fullscreen own;
  own.name = options.name;
  own.scene = options.scene;
  own.view = options.view;
  own.lights = options.lights;
  own.shadows = options.shadows;
  if constexpr (requires { options.environment; }) own.environment = options.environment;
  if constexpr (requires { options.fog; }) own.fog = options.fog;
  if constexpr (requires { options.cache; }) own.cache = options.cache;
  own.reads = pass.reads;
  own.writes = pass.writes;
  return own;
}

}  // namespace periscena::passes
