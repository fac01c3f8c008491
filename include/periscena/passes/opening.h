#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// Opens a window into elsewhere: pixels where some objects are seen, and nothing before them, are marked in the
/// stencil, and their depth becomes that of what is endlessly far. What is drawn inside (Pass::inside, `inside = "…"`
/// in frame files) by passes of any kind then shows there alone: another scene, a panorama, a picture. What stands
/// before the window still covers it, as it was drawn before. Samples are marked one by one, so edges are as smooth as
/// others.
///
///     frame.add(passes::forward({.scene = lock, .view = "towpath", .without_tags = {"pane"}, .color = color, .depth =
///     depth})); frame.add(passes::opening({.name = "pane", .scene = lock, .view = "towpath", .tags = {"pane"}, .depth
///     = depth})); Pass elsewhere = passes::forward({.scene = attic, .view = "towpath", .color = color, .depth =
///     depth}); elsewhere.inside = "pane"; frame.add(std::move(elsewhere));
///
/// A window may open in another one: it is inside of that, then. At most 127 in a frame; where two overlap that are not
/// in one another, the first one opened shows.
struct Opening {
  std::string name = "opening";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  ChosenNames tags = {};                     ///< objects that are the window; left out: all of the scene
  std::vector<Reference> without_tags = {};  ///< but not those
  Reference variant = {};
  std::string folder = {};  ///< that paths of materials' GLSL start from
  TargetUse depth = {};     ///< with stencil, such as depth32f_stencil8; the windows' surroundings were drawn into it
};

/// Mistakes: "no-stencil" when the depth has none.
Pass opening(const Opening& options, Place place = Place::here());
/// With what the frame's passes share.
Pass opening(const Defaults& defaults, Opening options, Place place = Place::here());

PassKind opening_kind();

}  // namespace periscena::passes
