#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// A fetch of a blur along a line: so far from the middle on both sides, pixels, with this weight each.
struct BlurTap {
  float offset = 0, weight = 1;
  bool operator==(const BlurTap&) const = default;
};

/// A Gaussian's taps, cut off at three standard deviations. The first is the middle, which counts once; all weights,
/// those of both sides, add up to 1.
///
/// @param deviation  standard deviation, pixels, >= 0; 0 gives the middle alone
/// @param paired  two neighbouring pixels are taken by one linear fetch between them, where their weights meet: half
/// the
///                fetches, the same sum
std::vector<BlurTap> gaussian_taps(float deviation, bool paired = true);

/// Blurs a picture by a Gaussian, along rows and then along columns; beyond its edges, a picture goes on as it ends.
///
/// Needs and gives: linear light. Pixels that are not numbers count as black, and are not spread.
struct Blur {
  std::string name = "blur";
  float radius = 0.01f;  ///< two standard deviations, as a share of the picture's height; 0..1
  int count = 1;         ///< times that it is blurred, 1..16; together they are as wide as the radius says
  bool paired = true;    ///< by linear fetches between pixels; false: pixel by pixel, for comparison
  TargetUse from = {};
  TargetUse color = {};
};

Pass blur(const Blur& options, Place place = Place::here());

PassKind blur_kind();

}  // namespace periscena::passes
