#pragma once

#include <periscena/passes/fullscreen.h>

#include <periscena/image/color_table.h>

namespace periscena::passes {

/// What a filter does to a pixel, as GLSL in which `$` stands for the step's own prefix:
/// `vec4 $step(vec4 color)`, or with looks_around `vec4 $step(sampler2D from)`.
struct FilterStep {
  std::string kind;           ///< its GLSL is periscena/KIND.filter
  bool looks_around = false;  ///< may look wherever it wants, so it is the first of its pass
  bool each_sample = false;   ///< looks around in a sampler2DMS
  /// Takes and gives colours in sRGB encoding: steps that do follow each other without going back to light
  bool encoded = false;
  std::vector<std::string> defines = {};    ///< without the prefix
  std::vector<UniformValue> uniforms = {};  ///< without the prefix
  std::shared_ptr<const ColorTable> table = {};
  /// Samplers without the prefix, for what the step's pass reads besides the picture, in that order.
  std::vector<std::string> more_reads = {};
  /// "reads light that is no finite number": what is told of pixels that periscena/finite.glsl counts.
  std::string strange = {};
};

/// The steps of one pass, in order.
struct FilterChain {
  std::vector<FilterStep> steps;
};

/// Gives a filter's pass its work, and lets it go together with others.
void make_filter(Pass& pass, FilterStep step);

}  // namespace periscena::passes
