#pragma once

#include <periscena/passes/options.h>
#include <periscena/passes/shaders.h>

namespace periscena::passes {

/// Draws surfaces that GLSL of your own describes by how far it is to them, among those that are made of triangles: it
/// walks along each pixel's ray, at each step as far as the distance says, and writes the depth where it arrives.
///
/// The GLSL includes "periscena/distance_field.glsl" and defines `float distance_to(vec3 place)`, metres, never more
/// than the true distance; periscena/distance_shapes.glsl, which comes with it, has shapes and ways to join them.
/// Lights, their shadow maps, the environment and fog are those of every other pass; the surface also shades itself.
struct DistanceField {
  std::string name = "distance field";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  gl::ShaderText shader = {};
  ChosenNames lights = {};                            ///< by names or tags; left out, all of the scene
  Reference environment = {}, fog = {};               ///< empty for none
  std::vector<TargetUse> shadows = {};                ///< that `shadow_map` passes have written, at most 4
  std::string cache = default_cache();                ///< for what is computed of environments; empty: none
  std::array<float, 3> base_color{0.5f, 0.5f, 0.5f};  ///< linear, 0..1, where the GLSL says nothing else
  float roughness = 0.8f;                             ///< 0..1
  float metallic = 0;                                 ///< 0..1
  int most_steps = 128;                               ///< 1..4096: a ray that has not arrived by then does not
  float farthest = 100;                               ///< metres, > 0
  float step_share = 1;  ///< more than 0, up to 1: less for distances that are more than the true one
  std::array<float, 3> lowest{-1e6f, -1e6f, -1e6f},
      highest{1e6f, 1e6f, 1e6f};  ///< the box that all of it is in, metres
  bool self_shadows = true;
  TargetUse color = {};
  TargetUse depth = {};  ///< tested and written; empty: it lies over all
  TargetUse steps = {};  ///< instead of both: how many steps each ray takes, to look at as heat
};

/// Mistakes: "no-distance" when the GLSL defines no distance_to; "empty-box"; what only a compiler finds, when the
/// runner is made, with the line of your GLSL. Distances that are no numbers end a ray, and are told after a run.
Pass distance_field(const DistanceField& options, Place place = Place::here());
/// With what the frame's passes share.
Pass distance_field(const Defaults& defaults, DistanceField options, Place place = Place::here());

PassKind distance_field_kind();

}  // namespace periscena::passes
