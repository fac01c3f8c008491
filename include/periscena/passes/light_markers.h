#pragma once

#include <periscena/passes/options.h>

namespace periscena {
struct Light;
}

namespace periscena::passes {

/// Draws where lights are and how far they reach, over a finished picture: point and spot lights as stars, spot lights
/// with their outer cones, directional lights as arrows into what the view looks at; with shadow maps, also what each
/// part of a light's map sees, as a box or a pyramid in the part's tint (see Forward::parts_of). With depth, a line on
/// the objects' surfaces shows where each light ends, and what something hides shows through faintly; without, circles
/// show it.
///
/// Needs: a scene with the view and the lights. Gives: lines in the lights' colours, over what was there. A light
/// reaches as far as its range, or to where it gives no more than `reach_lux` to a surface that faces it.
struct LightMarkers {
  std::string name = "light markers";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};                  ///< that the picture was drawn through
  ChosenNames lights = {};              ///< left out, all of the scene
  bool show = true;                     ///< off, nothing is drawn
  float width = 2;                      ///< of lines, pixels, 1..32
  float brightness = 1;                 ///< of the lines: 1 is white of a finished picture; into light, nits
  float reach_lux = 1;                  ///< > 0
  std::vector<TargetUse> shadows = {};  ///< that `shadow_map` passes have written, at most 4
  TargetUse color = {};                 ///< what is drawn over
  TargetUse depth = {};  ///< what the view's objects left there, of any size; empty: there are circles in space instead
};

/// Mistakes (an unknown view or light) are told by FrameGraph::plan.
Pass light_markers(const LightMarkers& options, Place place = Place::here());
/// With what the frame's passes share.
Pass light_markers(const Defaults& defaults, LightMarkers options, Place place = Place::here());

/// Where a light's illuminance falls to a bound, or its range if that is nearer; metres. Infinite for a directional
/// one.
/// @param lux  > 0
float reach_of(const Light& light, float lux);

PassKind light_markers_kind();

}  // namespace periscena::passes
