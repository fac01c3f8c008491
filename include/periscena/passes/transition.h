#pragma once

#include <periscena/passes/options.h>
#include <periscena/passes/shaders.h>

namespace periscena::passes {

/// How the first picture becomes the second.
enum class TransitionWay {
  fade,      ///< all of it at once
  wipe,      ///< an edge moves over the picture
  dissolve,  ///< cell by cell, as noise or a picture says: where its red is low, first
  displace   ///< both are pushed about by a picture's red and green, while one fades into the other
};
const std::vector<std::string>& choices_of(TransitionWay);

/// How progress goes with time.
enum class Ease {
  linear,
  smooth,      ///< slow at both ends: 3 p² − 2 p³
  slow_start,  ///< p²
  slow_end     ///< 1 − (1 − p)²
};
const std::vector<std::string>& choices_of(Ease);

/// @param progress  0..1 @return 0..1
float eased(Ease ease, float progress);

/// One picture becomes another. At progress 0 it is exactly the first and at 1 the second, and passes that only make
/// the other do not run.
struct Transition {
  std::string name = "transition";
  TransitionWay way = TransitionWay::fade;
  gl::ShaderText shader = {};  ///< GLSL of your own instead of a way: see periscena/transition.glsl
  float progress = 0;          ///< 0..1, when `seconds` is 0
  float start_seconds = 0;     ///< absolute time at which it begins
  float seconds = 0;           ///< that it takes; 0: progress stands still
  Ease ease = Ease::smooth;
  float direction_degrees = 0;  ///< of wipe: where the edge moves to, from right over up; −360..360
  float softness = 0.1f;        ///< 0..1, of wipe and dissolve: width of the edge
  float strength = 0.1f;        ///< 0..1, of displace: how far, as a share of the picture
  int cell = 4;                 ///< 1..256 pixels, of dissolve without a picture
  TargetUse from = {};
  TargetUse to = {};
  TargetUse by = {};  ///< a picture, 0..1, of dissolve and displace
  TargetUse color = {};

  /// Eased, at a time. 0..1
  float progress_at(double seconds_now) const;

  /// Of wipe: how much of the second picture there is, 0..1. @param x, y  0..1, from the lower left
  float wiped(float x, float y, float progress_now) const;
};

/// Mistakes: "missing-key" when displace has no picture; what is wrong with GLSL of your own, when the runner is made.
Pass transition(const Transition& options, Place place = Place::here());

PassKind transition_kind();

}  // namespace periscena::passes
