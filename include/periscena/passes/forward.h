#pragma once

#include <periscena/batch/batching.h>
#include <periscena/passes/options.h>

#include <string>

namespace periscena::passes {

/// Draws a scene as a view sees it, each surface lit as it is drawn, by its material, through fog.
///
/// Needs: a scene with the view and what else it names. Gives: linear light in nits, multiplied with alpha, and alpha:
/// 1 where something opaque was drawn; and depth. Back faces are culled unless a material is double-sided; mirrored
/// objects keep their front. Blended objects come last, from back to front, and write no depth.
struct Forward {
  std::string name = "forward";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};         ///< a view of the scene
  ChosenNames lights = {};     ///< left out, all of the scene
  Reference environment = {};  ///< light from all around; empty for none
  Reference fog = {};          ///< empty for none
  /// Draws only objects that have one of `tags`, or stand below one (left out: all), but none that has or stands below
  /// one of `without_tags`.
  ChosenNames tags = {};
  std::vector<Reference> without_tags = {};
  Reference variant = {};               ///< empty: the scene as it is
  std::vector<TargetUse> shadows = {};  ///< what shadow_map passes wrote, at most 4; each for one of `lights`
  /// Shadows fall only on objects that have one of `receivers`, or stand below one (left out: on all), but on none that
  /// has or stands below one of `without_receivers`.
  ChosenNames receivers = {};
  std::vector<Reference> without_receivers = {};
  /// Of one of `lights` that casts shadows: tints what each part of its map shades, which cascade, or which face of a
  /// cube.
  Reference parts_of = {};
  /// Of one of `lights` that casts shadows: instead of light, what its shadow map says of each pixel. Red: share of
  /// light that gets past, 0..1; green: metres that a texel is wide there; blue: the map's part, from 0; alpha: 1 where
  /// it says something. Blended objects are left out.
  Reference facts_of = {};
  batch::Batching batching = batch::Batching::automatic;
  /// On the device, a view that moves costs the CPU nothing for each object. The picture is the same.
  batch::Culling culling = batch::Culling::host;
  batch::Programs programs =
      batch::Programs::automatic;  ///< one shader program per family of materials, or one for all
  batch::LightBounds light_bounds = batch::LightBounds::automatic;  ///< clusters where eight lights or more have an end
  Surfaces surfaces = Surfaces::all;                                ///< which, by how their materials treat alpha
  /// What a `light_buffer` pass wrote over the same depth: the pass asks no lights itself. Only for opaque surfaces.
  TargetUse light_diffuse = {}, light_specular = {};
  /// Draws the depth of what is solid before anything else, so that no pixel is shaded twice: each call goes out twice.
  /// Where two surfaces are equally far, the last of the scene shows instead of the first.
  bool depth_first = false;
  TargetUse color = {};          ///< best a floating format
  TargetUse depth = {};          ///< a depth format; without one, nothing hides anything
  std::vector<Read> reads = {};  ///< targets that materials show, by the names they show them under; at most 4 names
  std::string folder = {};       ///< that the paths of materials' GLSL start from
  std::string cache = default_cache();  ///< for what is computed of environments; empty: none
};

/// Mistakes (an unknown view or light) are told by FrameGraph::plan.
Pass forward(const Forward& options, Place place = Place::here());
/// With what the frame's passes share.
Pass forward(const Defaults& defaults, Forward options, Place place = Place::here());

PassKind forward_kind();

}  // namespace periscena::passes
