#pragma once

#include "draw/culling/object_draws.h"
#include "draw/shadows/shadow_view.h"
#include "draw/surfaces/surface_program.h"

#include <periscena/passes/shadow_map.h>

namespace periscena::passes {

/// The lights that a map is of, in the order of the scene; none when it names none that is there.
std::vector<const Light*> shadowed_lights(const ShadowMap& options);

/// See Kind::check and Kind::finish.
void check_shadow_map(const ShadowMap& options, Pass& pass);
void finish_shadow_map(const ShadowMap& options, Pass& pass);

/// Texels of the smallest tile: no smaller than what filters take.
int least_tile(const ShadowMap& options);

/// Texels at each side of a view that filters may reach past what is looked up.
int border_of(const ShadowMap& options);

/// By node: does it cast a shadow?
std::vector<bool> casters_in(const ShadowMap& options);

/// The same of what was made of its scene.
ShadowMap with_scene(ShadowMap options, const draw::SceneBuffers& scene);

/// @throws Mistake "no-vertex-layers" where vertex programs can't choose a layer
void expect_vertex_layers(const ShadowMap& options, const gl::PassSetup& setup, const char* draws, const char* mend);

/// Draws what casts shadows, as one or several of a light's views see it at once.
class CasterDraws {
 public:
  /// Where the views are.
  enum class Views {
    camera,  ///< one, the block Camera
    layers,  ///< those of the storage block ShadowParts, each in its layer
    tiles    ///< those, each in its layer and the viewport of its number
  };

  /// @param options  whose scene is that of the buffers; @param count  of views at most
  CasterDraws(const ShadowMap& options, std::shared_ptr<draw::SceneBuffers> scene, gl::Device& device, Views views,
              std::size_t count);

  /// What the views are from now on. @param cameras  as many or less; @param aspect  of the picture of each
  void look_through(const gl::PassContext& context, std::span<const Camera> cameras, float aspect);

  /// Binds its own blocks; of views in layers or tiles, ShadowParts is to be bound.
  void draw(const gl::PassContext& context);

  /// By node.
  const std::vector<bool>& casters() const { return casters_; }

  /// By node: does it cast, and move at times?
  std::vector<bool> changing() const;

  /// Are there holes in a caster that GLSL of its own may change from frame to frame?
  bool animated() const { return animated_; }

  /// Has the program changed materials that holes depend on, since this was called last?
  bool holes_changed();

  std::vector<gl::Batch> batches() const;

 private:
  struct MaskedProgram : draw::SurfaceProgram {
    std::optional<gl::Uniform<int>> part = {};  ///< which of several views

    using draw::SurfaceProgram::SurfaceProgram;
  };

  gl::ShaderText vertex_text(const char* source, Views views) const;
  void make_masked(const gl::ShaderText& vertex, gl::Device& device);

  ShadowMap options_;
  std::shared_ptr<draw::SceneBuffers> scene_;
  std::vector<bool> casters_;
  std::shared_ptr<const draw::Dress> dress_;
  std::vector<MaterialHandle> materials_;  ///< by node
  draw::ObjectDraws draws_;
  gl::Buffer camera_block_;  ///< of the only view; of several, the first, for GLSL that asks where the eye is
  std::vector<Frustum> seen_;
  gl::Program opaque_;
  draw::BoundTextures opaque_textures_;
  std::optional<gl::Uniform<int>> part_;     ///< of opaque_: which of several views
  std::optional<draw::SurfaceKinds> kinds_;  ///< of masked casters
  std::vector<MaskedProgram> masked_;        ///< by kind
  gl::PipelineState state_;
  bool animated_ = false;
  std::uint64_t looks_seen_;
};

/// Draws the map or the cascades of a directional light.
std::unique_ptr<gl::PassWork> draw_parallel_maps(const ShadowMap& options, gl::PassSetup& setup);

/// Draws the maps of spot and point lights.
std::unique_ptr<gl::PassWork> draw_lamp_maps(const ShadowMap& options, gl::PassSetup& setup);

}  // namespace periscena::passes
