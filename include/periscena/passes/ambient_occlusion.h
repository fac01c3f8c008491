#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// How much of the sky above each pixel is free of what stands around it, from a geometry buffer: for light from all
/// around, which reaches less of corners. What is beyond the picture, or hidden behind what is seen, is not known.
///
/// Needs: depth and normals that a `geometry` pass gave of the same view, with one sample. Gives: the free share, 0..1,
/// cosine-weighted; 1 where nothing is. Against closed forms it is off by less than 0.08 where all that stands around
/// is seen.
struct AmbientOcclusion {
  std::string name = "ambient occlusion";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};  ///< that the buffer was drawn through
  float radius = 0.6f;  ///< metres within which things count, > 0
  float strength = 1;   ///< exponent of the free share, 0..8: 0 none, 1 as it is
  TargetUse depth = {}, normal = {};
  TargetUse occlusion = {};  ///< best r8
};

/// Mistakes (an unknown view, a part of the buffer that is not there) are told by FrameGraph::plan.
Pass ambient_occlusion(const AmbientOcclusion& options, Place place = Place::here());
/// With what the frame's passes share.
Pass ambient_occlusion(const Defaults& defaults, AmbientOcclusion options, Place place = Place::here());

PassKind ambient_occlusion_kind();

}  // namespace periscena::passes
