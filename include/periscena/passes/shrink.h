#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// What a pixel takes of a larger picture.
enum class ShrinkFilter {
  box,       ///< the mean of what it covers
  tent,      ///< twice as wide, less towards the sides
  mitchell,  ///< B = C = 1/3: sharp, next to no rims (Mitchell and Netravali, "Reconstruction Filters in Computer
             ///< Graphics", SIGGRAPH 1988)
  lanczos    ///< of two lobes: sharpest, with rims beside hard edges
};
const std::vector<std::string>& choices_of(ShrinkFilter);

/// Weight of what lies so far from the pixel's middle, in pixels of the smaller picture. Symmetric; not brought to a
/// sum of 1.
float shrink_weight(ShrinkFilter filter, float distance);

/// Brings a picture that was drawn larger down to size: supersampling, by any factor, whole or not.
///
/// Needs and gives: linear light. After tone_map, edges of bright things are smooth on the screen; before it, light is
/// exact.
struct Shrink {
  std::string name = "shrink";
  ShrinkFilter filter = ShrinkFilter::mitchell;
  TargetUse from = {};
  TargetUse color = {};
};

Pass shrink(const Shrink& options, Place place = Place::here());

PassKind shrink_kind();

}  // namespace periscena::passes
