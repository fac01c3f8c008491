#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// Measures how bright a picture is, as a camera's meter does, and follows it over time as an eye does.
///
/// Luminance (Rec. 709) is averaged over 4 x 4 pixels and counted in a histogram of 256 steps of its logarithm; the
/// darkest and the brightest share are left out, and the mean of the rest is taken for middle grey: EV100 = log2(100 L
/// / 12.5) (ISO 2720). What is kept comes nearer to what was measured by 1 − exp(−Δt · speed), whatever the frame rate.
/// The first frame, and one after a jump back in time, take what was measured.
///
/// Needs: light in nits, one sample. Gives: one pixel: EV100 kept, EV100 measured, the time, 1. Has history.
struct Meter {
  std::string name = "meter";
  float lowest_ev100 = -6, highest_ev100 = 18;  ///< what is darker or brighter counts as that; −20..30
  float leave_out_dark = 0.4f;                  ///< 0..1: share of the picture, the darkest
  float leave_out_bright = 0.05f;               ///< 0..1: the brightest
  float speed_brighter = 3, speed_darker = 1;   ///< of getting used to more light and to less, per second, > 0
  TargetUse light = {};
  TargetUse exposure = {};  ///< rgba32f, one pixel
};

/// Mistakes: "no-sense" when nothing would be left to measure; "exposure-target" for a target of another size or
/// format.
Pass meter(const Meter& options, Place place = Place::here());

PassKind meter_kind();

}  // namespace periscena::passes
