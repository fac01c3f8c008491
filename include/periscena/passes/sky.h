#pragma once

#include <periscena/passes/options.h>

#include <string>

namespace periscena::passes {

/// Fills a target with an environment, as a view sees it: to draw the scene over.
///
/// Needs: a scene with the view and the environment. Gives: linear light in nits, alpha 1.
struct Sky {
  std::string name = "sky";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  Reference environment = {};
  Reference fog = {};                   ///< empty for none; the sky is taken to be 10 km away
  float blur = 0;                       ///< 0: sharp, 1: as wide as the lobe of a fully rough surface
  TargetUse color = {};                 ///< best a floating format
  std::string cache = default_cache();  ///< for what is computed of environments; empty: none
};

/// Mistakes (an unknown environment) are told by FrameGraph::plan.
Pass sky(const Sky& options, Place place = Place::here());
/// With what the frame's passes share.
Pass sky(const Defaults& defaults, Sky options, Place place = Place::here());

PassKind sky_kind();

}  // namespace periscena::passes
