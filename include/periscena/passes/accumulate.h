#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// Smooths edges, and all that glitters, by the mean of frames: the view is drawn a little beside itself in each (by
/// less than a pixel, in the order of jitter_places, for all passes of the frame that look through it), and what was
/// seen before is fetched from where it was, by its motion. A pixel of something that stands still is the mean of
/// `frames` frames, one that moves of 8 at most. What was is kept within what is seen around the pixel now (Karis,
/// "High Quality Temporal Supersampling", SIGGRAPH 2014), so what is no longer there goes, and what came into sight
/// begins anew.
///
/// Cuts: it begins anew with the first frame, when time goes back or leaps by more than 0.25 s, and at `cuts`.
///
/// Needs: the picture, in linear light before or after tone mapping (after it, edges against lamps are as smooth as
/// others), depth and velocity since the frame before. Gives: the same. Has history: reads what it wrote in the last
/// frame.
struct Accumulate {
  std::string name = "accumulate";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  int places = 16;  ///< 1..256: places in a pixel that frames in a row are drawn at; 1: its middle alone
  int frames = 16;  ///< 1..1000: that a pixel is the mean of, at most
  float white = 0;  ///< ≥ 0, of light before tone mapping: what is this bright counts half; 0: all the same
  std::vector<float> cuts = {};  ///< absolute seconds at which another picture begins
  TargetUse from = {};
  TargetUse velocity = {};
  TargetUse depth = {};
  TargetUse color = {};  ///< of a floating format, as many frames make small steps
  TargetUse count = {};  ///< of how many frames each pixel is the mean: r16f
};

Pass accumulate(const Accumulate& options, Place place = Place::here());
/// With what the frame's passes share.
Pass accumulate(const Defaults& defaults, Accumulate options, Place place = Place::here());

PassKind accumulate_kind();

}  // namespace periscena::passes
