#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// Lights each pixel of a geometry buffer once: the same lights, shadows, environment and fog as the forward pass, by
/// the same GLSL. Where nothing was drawn, what is there stays.
///
/// Needs: what a `geometry` pass gave of the same view, in targets of one size. Where these have several samples,
/// pixels whose samples are of different surfaces are lit once for each of those, all others once, and the light has as
/// many samples. Gives: linear light, nits. Beside the forward pass, the picture differs by what the buffer's formats
/// round, and by highlights of Blinn-Phong, which are grey.
struct Deferred {
  std::string name = "deferred";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};                   ///< that the buffer was drawn through
  ChosenNames lights = {};               ///< by names or tags; left out, all of the scene
  Reference environment = {}, fog = {};  ///< empty for none
  std::vector<TargetUse> shadows = {};   ///< that `shadow_map` passes have written, at most 4
  batch::LightBounds light_bounds =
      batch::LightBounds::automatic;  ///< tiles or quads; tiles where eight lights or more have an end
  /// Of a buffer with several samples: lights all of each pixel, to compare with. Else those at edges alone, other
  /// pixels once.
  bool every_sample = false;
  std::string cache = default_cache();  ///< for what is computed of environments; empty: none
  TargetUse depth = {}, normal = {}, base_color = {}, material = {};
  TargetUse emission = {};   ///< empty: nothing shines by itself
  TargetUse occlusion = {};  ///< what an `ambient_occlusion` pass wrote; dims light from all around alone
  TargetUse position = {};   ///< empty: taken from depth
  TargetUse color = {};
  TargetUse light_count = {};  ///< how many lights each pixel asked, in a floating format; empty: not counted
};

/// Mistakes (an unknown view or light, a part of the buffer that is not there) are told by FrameGraph::plan.
Pass deferred(const Deferred& options, Place place = Place::here());
/// With what the frame's passes share.
Pass deferred(const Defaults& defaults, Deferred options, Place place = Place::here());

PassKind deferred_kind();

}  // namespace periscena::passes
