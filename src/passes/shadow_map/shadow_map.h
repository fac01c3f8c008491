#pragma once

#include <periscena/batch/draw_list.h>
#include <periscena/gl/block_layout.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/passes/pass_kind.h>
#include <periscena/scene/scene.h>

#include <filesystem>

namespace periscena::passes {

class SceneBuffers;

/// Draws what a directional light sees: how far away the nearest thing is that casts a shadow. Lit passes that name the
/// target among their `shadows` ask it what is lit.
///
/// Needs: a scene with the light. Gives: reversed depth of a square, parallel view that just holds all casters; 0 where
/// there is none. Both sides of triangles cast. Masked materials keep their holes; blended ones cast nothing. Opaque
/// ones are drawn without a fragment program.
struct ShadowMap {
  std::string name = "shadow map";
  std::shared_ptr<const Scene> scene = {};
  Reference light = {};  ///< a directional light of the scene
  /// Only objects that have one of `tags`, or stand below one, cast (empty: all), but none that has or stands below one
  /// of `without_tags`.
  std::vector<Reference> tags = {}, without_tags = {};
  Reference variant = {};  ///< empty: the scene as it is
  batch::Batching batching = batch::Batching::automatic;
  TargetUse depth = {};               ///< a depth format, best square, of any size
  std::filesystem::path folder = {};  ///< that the paths of materials' GLSL start from
};

/// Mistakes (an unknown light, one of another kind) are told by FrameGraph::plan.
Pass shadow_map(const ShadowMap& options, Place place = Place::here());

PassKind shadow_map_kind();

inline constexpr std::size_t most_shadows = 4;  ///< that a lit pass takes

/// What a lit pass' program calls one of its shadow maps: "shadow_map_1" for 0.
std::string shadow_slot(std::size_t index);

/// Lets a lit pass read shadow maps: adds its reads, and their checks.
/// @param lights  that light the pass
void add_shadows(Pass& pass, const std::vector<TargetUse>& shadows, const std::shared_ptr<const Scene>& scene,
                 const LightNames& lights);

/// What looking a point up in a shadow map takes: an element of the storage block Shadows, std430.
struct ShadowBlock {
  Mat4 to_map = Mat4::Identity();  ///< world to texture coordinates and depth
  float texel = 0;                 ///< metres
  float padding[3] = {};

  static gl::BlockLayout layout();
};

/// Where a light looks from in the frame that is drawn: the pass that draws the map says it, those that read it ask.
class ShadowView {
 public:
  /// Of the shadow map that was planned to be drawn into a target, made by the first pass of a runner that asks.
  static std::shared_ptr<ShadowView> of_target(const gl::PassSetup& setup, std::uint32_t target);
  static std::shared_ptr<ShadowView> of_pass(const gl::PassSetup& setup, const Pass& declared);

  explicit ShadowView(std::string light) : light_(std::move(light)) {}

  /// @param width, height  of the map, pixels
  void look_through(const Camera& camera, int width, int height);

  const std::string& light() const { return light_; }
  const Camera& camera() const { return camera_; }
  const ShadowBlock& block() const { return block_; }
  std::uint64_t version() const { return version_; }  ///< counts its changes

 private:
  std::string light_;
  Camera camera_;
  ShadowBlock block_;
  std::uint64_t version_ = 0;
};

}  // namespace periscena::passes
