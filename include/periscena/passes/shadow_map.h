#pragma once

#include <periscena/batch/batching.h>
#include <periscena/math/angle.h>
#include <periscena/passes/options.h>
#include <periscena/scene/shadow_lookup.h>

#include <optional>
#include <string>

namespace periscena::passes {

/// Which sides of triangles a light sees.
enum class CasterFaces { both, front, back };
const std::vector<std::string>& choices_of(CasterFaces);  ///< their names

/// Draws what lights see: how far away the nearest thing is that casts a shadow. Lit passes that name the target among
/// their `shadows` ask it what is lit.
///
/// Needs: a scene with the lights. Gives: reversed depth; 0 where there is nothing. What it looks like depends on the
/// light:
///  - of a directional light, a square, parallel view that just holds all casters. With cascades, an array of such
///    views: each holds a part of what a camera sees, and moves by whole texels as the camera does, so that shadows do
///    not shimmer;
///  - of a spot light, what its cone holds;
///  - of a point light, or a spot light wider than 75° from its axis, six views to all sides, in tiles of their own.
///
/// Spot and point lights share the target's layers in tiles: see share_out_tiles. Those that matter most in the view
/// have the largest; where there are more lights than tiles, those that matter least cast no shadows.
///
/// Masked materials keep their holes; blended ones cast nothing. Opaque ones are drawn without a fragment program. What
/// neither light nor caster has changed since the frame before is not drawn again.
struct ShadowMap {
  std::string name = "shadow map";
  std::shared_ptr<const Scene> scene = {};
  Reference light = {};                ///< one of the scene's
  std::vector<Reference> lights = {};  ///< instead: names or tags of spot and point lights, whose maps share the target
  /// Only objects that have one of `tags`, or stand below one, cast (left out: all), but none that has or stands below
  /// one of `without_tags`.
  ChosenNames tags = {};
  std::vector<Reference> without_tags = {};
  Reference variant = {};  ///< empty: the scene as it is
  batch::Batching batching = batch::Batching::automatic;
  TargetUse depth = {};  ///< a depth format, best square, of any size; with cascades, an array with a layer for each

  int cascades = 0;  ///< of a directional light, 1 to 4; 0: one map that holds all casters
  /// Whose picture cascades share out, and in which lamps matter more or less; lamps may do without
  Reference view = {};
  float reach = 60;           ///< metres from the view's eye that cascades go; farther away there are no shadows
  float split_weight = 0.7f;  ///< 0: even parts; 1: parts that grow with distance
  float near = 0.05f;         ///< metres, > 0: what is nearer to a spot or point light casts nothing
  int least_tile = 64;        ///< texels, > 0: spot and point lights have no smaller tiles

  ShadowFilter filter = ShadowFilter::gaussian;
  float radius = 1;                    ///< texels; gaussian: 1, 2, 3 or 4; disc: up to 64; contact: the most, up to 64
  float light_angle = radians(0.53f);  ///< of contact, radians, 0..π/4: how wide a directional light is seen
  float light_radius = 0.05f;          ///< of contact, metres, >= 0: of a spot or point light

  float bias = 0;                         ///< metres that a point is moved towards the light before it is looked up
  float slope_bias = 0;                   ///< texels that it is, times the tangent of light's angle of incidence
  std::optional<float> normal_bias = {};  ///< texels along its normal; left out: just as many as it takes
  CasterFaces faces = CasterFaces::both;
  std::string folder = {};  ///< that the paths of materials' GLSL start from
};

/// Mistakes (an unknown light, one of another kind) are told by FrameGraph::plan.
Pass shadow_map(const ShadowMap& options, Place place = Place::here());
/// With what the frame's passes share.
Pass shadow_map(const Defaults& defaults, ShadowMap options, Place place = Place::here());

PassKind shadow_map_kind();

}  // namespace periscena::passes
