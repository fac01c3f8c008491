#pragma once

#include "passes/fullscreen/fullscreen.h"

#include <periscena/image/color_table.h>

namespace periscena::passes {

/// What a filter does to a pixel, as GLSL in which `$` stands for the step's own prefix:
/// `vec4 $step(vec4 color)`, or with samples `vec4 $step(sampler2D from)`, which may look wherever it wants.
struct FilterStep {
  std::string kind;  ///< its GLSL is periscena/KIND.filter
  bool samples = false;
  /// Takes and gives colours in sRGB encoding: steps that do follow each other without going back to light
  bool encoded = false;
  std::vector<std::string> defines = {};    ///< without the prefix
  std::vector<UniformValue> uniforms = {};  ///< without the prefix
  std::shared_ptr<const ColorTable> table = {};
};

/// The steps of one pass, in order.
struct FilterChain {
  std::vector<FilterStep> steps;
};

/// Gives a filter's pass its work, and lets it go together with others.
void make_filter(Pass& pass, FilterStep step);

}  // namespace periscena::passes
