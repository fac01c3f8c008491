#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// How bloom spreads light.
enum class BloomMethod {
  pyramid,  ///< to smaller and smaller pictures and back, so the cost does not grow with the radius
  gaussian  ///< by a Gaussian at full size, to and fro
};
const std::vector<std::string>& choices_of(BloomMethod);

/// What light scatters in a lens and an eye: a share of what is bright is taken away where it is, and spread around.
///
///     color = light + strength · (spread(bright) − bright)
///
/// so that the picture's mean stays, up to what its edges cut off. `bright` is all light, or what is over a threshold,
/// or a picture of its own.
///
/// Pyramid: each level is half as large as the one before, through (1 3 3 1) / 8 along rows and columns, which gives
/// each pixel the same weight wherever it lies, so that small bright things do not flicker as they move; on the way
/// back each is mixed with the one below, through (1 3 3 1) / 4, so that what is spread is as smooth as a quadratic
/// B-spline.
///
/// Needs and gives: linear light, nits. Pixels that are no finite numbers count as black or very bright in what is
/// spread, and are told.
struct Bloom {
  std::string name = "bloom";
  BloomMethod method = BloomMethod::pyramid;
  float strength = 0.06f;    ///< 0..1: share of the bright light that is spread
  float radius = 0.09f;      ///< two standard deviations of the widest, as a share of the picture's height; 0..1
  float spread = 0.8f;       ///< 0..1, of the pyramid: how much of the light goes on to the next wider level
  float threshold_nits = 0;  ///< light of which the strongest channel is below is not spread; 0: all light is
  float softness = 0.5f;     ///< 0..1: the threshold begins at (1 − softness) of itself, and lets light in bit by bit
  int count = 1;             ///< of gaussian: times, 1..16; together they are as wide as the radius says
  TargetUse light = {};
  TargetUse bright = {};  ///< what is spread, when a pass before wrote it; empty: made of the light
  TargetUse color = {};
  TargetUse glow = {};  ///< what was spread, to look at; empty: not kept
};

Pass bloom(const Bloom& options, Place place = Place::here());

PassKind bloom_kind();

}  // namespace periscena::passes
