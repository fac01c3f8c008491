#pragma once

#include <periscena/base/reference.h>

#include <memory>
#include <string>
#include <vector>

namespace periscena {

struct ColorTable;

/// A value for a uniform of GLSL: a number, 2 to 4 numbers, true or false. It becomes what the GLSL declares (float,
/// vec2, vec3, vec4, int, bool).
struct UniformValue {
  Reference name;
  std::vector<double> numbers;

  UniformValue(Reference uniform, double number) : name(std::move(uniform)), numbers{number} {}
  UniformValue(Reference uniform, std::vector<double> list) : name(std::move(uniform)), numbers(std::move(list)) {}
};

/// Which pixels a filter asks to make one.
enum class FilterReach {
  pixel,    ///< the same alone
  around,   ///< any, so it is the first of its pass
  samples,  ///< any sample of any
};

/// What a filter does to a pixel, as GLSL in which `$` stands for the step's own prefix:
/// `vec4 $step(vec4 color)`, or where it looks around `vec4 $step(sampler2D from)` (sampler2DMS for samples).
struct FilterStep {
  std::string kind;  ///< its GLSL is periscena/KIND.filter
  FilterReach reach = FilterReach::pixel;
  /// Takes and gives colours in sRGB encoding: steps that do follow each other without going back to light
  bool encoded = false;
  std::vector<std::string> defines = {};    ///< without the prefix
  std::vector<UniformValue> uniforms = {};  ///< without the prefix
  std::shared_ptr<const ColorTable> table = {};
  /// Samplers without the prefix, for what the step's pass reads besides the picture, in that order.
  std::vector<std::string> more_reads = {};
  /// "reads light that is no finite number": what is said of pixels that periscena/finite.glsl counts.
  std::string strange = {};
};

/// The steps of one pass, in order.
struct FilterChain {
  std::vector<FilterStep> steps;
};

}  // namespace periscena
