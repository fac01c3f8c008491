#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// How far what is seen at each pixel has come over the picture: as shares of its width and height, to the right and
/// up, since the frame before or within a time of your choice. Of the view's own motion for all that is seen, the sky
/// too, by its depth; and of objects that move, which are drawn again.
///
/// A frame is a function of time, so the places of before are computed, not remembered: the first frame has motion,
/// too, when `seconds` says how long before. Jitter of the view is no motion. What writes no depth (blended surfaces,
/// particles, sprites) moves as what is behind it.
///
/// Needs: depth of the view. Gives: 0 where nothing moves; at most 2 either way.
struct Velocity {
  std::string name = "velocity";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  float seconds = 0;  ///< ≥ 0: how long before; 0: at the frame before, where there is none nothing moves
  TargetUse depth = {};
  TargetUse velocity = {};  ///< of two channels at least, of a floating format: rg16f keeps a thousandth of each motion
};

Pass velocity(const Velocity& options, Place place = Place::here());
/// With what the frame's passes share.
Pass velocity(const Defaults& defaults, Velocity options, Place place = Place::here());

PassKind velocity_kind();

}  // namespace periscena::passes
