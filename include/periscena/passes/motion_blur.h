#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// What moves while the shutter is open is smeared along its way, half of it before and half of it after where it is:
/// also over what stands still around it. Each pixel asks along the longest motion near it (McGuire et al., "A
/// Reconstruction Filter for Plausible Motion Blur", I3D 2012): what is not behind the pixel and passes over it covers
/// it for that share of the time; for the rest, what lies behind shows, as it is seen beside the way, else what is
/// there itself. Of a motion that all of the picture has, that is the mean over the way.
///
/// Needs: linear light, its depth and what a `velocity` pass made of it. Gives: linear light.
struct MotionBlur {
  std::string name = "motion blur";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  float shutter = 0.5f;   ///< 0..4: for which share of the velocity's time it is open
  float largest = 0.05f;  ///< 0..0.2: half a way is at most so long, as a share of the picture's height
  int taps = 16;          ///< 4..128, of each of two kinds, a pixel
  TargetUse light = {};
  TargetUse velocity = {};
  TargetUse depth = {};
  TargetUse color = {};
};

Pass motion_blur(const MotionBlur& options, Place place = Place::here());
/// With what the frame's passes share.
Pass motion_blur(const Defaults& defaults, MotionBlur options, Place place = Place::here());

PassKind motion_blur_kind();

}  // namespace periscena::passes
