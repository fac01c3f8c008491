#pragma once

#include <periscena/batch/batching.h>
#include <periscena/passes/options.h>

namespace periscena::passes {

/// Counts for each pixel how often a fragment program ran there to shade a surface: what a pass that draws the same
/// objects in the same order pays for. For `heat` to show.
///
/// Needs: a scene with the view. Gives: the count, in a floating format.
struct Overdraw {
  std::string name = "overdraw";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  ChosenNames tags = {};                     ///< which objects, see Forward
  std::vector<Reference> without_tags = {};  ///< see Forward
  Reference variant = {};
  batch::Batching batching = batch::Batching::automatic;
  batch::Culling culling = batch::Culling::host;
  std::string folder = {};  ///< that materials' own GLSL is looked up in
  TargetUse count = {};
  TargetUse depth = {};  ///< empty: what is hidden counts, too
};

/// Mistakes (an unknown view or tag) are told by FrameGraph::plan.
Pass overdraw(const Overdraw& options, Place place = Place::here());
/// With what the frame's passes share.
Pass overdraw(const Defaults& defaults, Overdraw options, Place place = Place::here());

PassKind overdraw_kind();

}  // namespace periscena::passes
