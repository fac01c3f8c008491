#pragma once

#include <periscena/batch/batching.h>
#include <periscena/passes/options.h>

namespace periscena::passes {

/// Draws what is known of surfaces before they are lit, all at once: a geometry buffer, for passes that light each
/// pixel once (`deferred`), pick objects, or look for edges. Blended objects are left to forward passes over the same
/// depth.
///
/// Needs: a scene with the view. Gives, each where it names a target:
///
/// | output | format, compact | what |
/// |---|---|---|
/// | normal | rgba16 | normals of the surface and of the mesh, octahedral: off by less than 1e-4 rad |
/// | base_color | rgba8_srgb | share of light sent back |
/// | material | rgba8 | roughness or log2(1 + shininess) / 16; metalness or grey of the highlight; occlusion; kind of
/// shading | | emission | rgba16f | light of its own, nits | | id | r32ui | number of the scene's node, from 1; 0 where
/// nothing is | | position | rgba32f | world space, metres; better read from depth |
struct Geometry {
  std::string name = "geometry";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  ChosenNames tags = {};                     ///< which objects, see Forward
  std::vector<Reference> without_tags = {};  ///< see Forward
  Reference variant = {};
  ChosenNames receivers = {};                             ///< on whom shadows fall
  std::vector<Reference> without_receivers = {};          ///< but not on these
  batch::Batching batching = batch::Batching::automatic;  ///< with ids, nothing is merged
  batch::Culling culling = batch::Culling::host;
  batch::Programs programs =
      batch::Programs::automatic;  ///< one shader program per family of materials, or one for all
  bool depth_first = false;        ///< see Forward
  std::string folder = {};         ///< that materials' own GLSL is looked up in
  TargetUse normal = {}, base_color = {}, material = {}, emission = {}, id = {}, position = {};
  TargetUse depth = {};
};

/// Mistakes (an unknown view or tag, no depth) are told by FrameGraph::plan.
Pass geometry(const Geometry& options, Place place = Place::here());
/// With what the frame's passes share.
Pass geometry(const Defaults& defaults, Geometry options, Place place = Place::here());

PassKind geometry_kind();

}  // namespace periscena::passes
