#pragma once

#include <periscena/graph/frame_graph.h>
#include <periscena/passes/pass_kind.h>
#include <periscena/scene/scene.h>

namespace periscena::passes {

/// Draws a scene as a view sees it, lit as it is drawn: diffuse light from one direction, plus ambient light.
///
/// Needs: a scene with the view and the lights that it names. Gives: linear light in nits (emission + base colour ×
/// (light ÷ π
/// + ambient)), alpha 1 where something was drawn, and depth. Back faces are culled, mirrored objects keep their front.
struct Forward {
  std::string name = "forward";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};           ///< a view of the scene
  Reference light = {};          ///< a directional light; empty for none
  Reference ambient = {};        ///< an ambient light; empty for none
  TargetUse color = {};          ///< best a floating format
  TargetUse depth = {};          ///< a depth format; without one, nothing hides anything
  std::vector<Read> reads = {};  ///< targets that materials show, by the names they show them under; at most 4 names
};

/// Mistakes (an unknown view or light) are told by FrameGraph::plan.
Pass forward(const Forward& options, Place place = Place::here());

PassKind forward_kind();

}  // namespace periscena::passes
