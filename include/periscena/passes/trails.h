#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// How a trail and the picture come together.
enum class TrailMix {
  brighter,  ///< the brighter of both, each channel by itself: what moves draws light behind it
  mean       ///< the running mean: what moves is smeared, and brightness stays
};
const std::vector<std::string>& choices_of(TrailMix);

/// What was seen before fades: after `seconds` there is 1 / e of it left, whatever the frame rate. The first frame, and
/// one after a jump back in time, have no trail.
///
/// Needs and gives: linear light. Has history: reads what it wrote in the last frame.
struct Trails {
  std::string name = "trails";
  float seconds = 0.5f;  ///< > 0
  TrailMix mix = TrailMix::brighter;
  TargetUse from = {};
  TargetUse color = {};  ///< of a floating format, as fading makes small steps
};

Pass trails(const Trails& options, Place place = Place::here());

PassKind trails_kind();

}  // namespace periscena::passes
