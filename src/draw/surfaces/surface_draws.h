#pragma once

#include "draw/culling/device_draws.h"
#include "draw/culling/object_draws.h"
#include "draw/scene/surface_family.h"
#include "draw/scene/view_camera.h"

#include <algorithm>
#include <optional>
#include <span>

namespace periscena::draw {

/// What a pass that draws surfaces draws, and how.
struct SurfaceChoice {
  std::shared_ptr<const Scene> scene;
  Reference view;
  ObjectChoice objects;
  ChosenNames receivers;  ///< of shadows, by tags
  std::vector<Reference> without_receivers;
  batch::Batching batching = batch::Batching::automatic;
  batch::Culling culling = batch::Culling::host;
  bool has_depth = true;  ///< does the pass write depth?
  Surfaces surfaces = Surfaces::all;
  bool over_depth = false;   ///< is the depth of the same surfaces there already?
  bool adds = false;         ///< is what is drawn added to what is there?
  bool depth_first = false;  ///< see Forward
  gl::StencilState stencil = {};
};

/// The objects that a pass sees, in runs of one material state; what programs they are drawn with is the pass'
/// business.
class SurfaceDraws {
 public:
  SurfaceDraws(const SurfaceChoice& choice, gl::PassSetup& setup);

  void resize(gl::PassSetup& setup);

  /// Once a frame, before anything is drawn.
  /// @return does the view see otherwise than before?
  bool update(gl::PassContext& context);

  /// Draws all runs. @param use_program  gets the material state and the run, which says its number; binds program and
  /// textures for it
  template <class UseProgram>
  void draw(gl::PassContext& context, UseProgram use_program) {
    draw(context, use_program, [](bool) {});
  }

  /// The same. @param draw_behind  called after all that is solid, before what is blended: draws what lies behind. Gets
  /// whether anything is blended
  template <class UseProgram, class DrawBehind>
  void draw(gl::PassContext& context, UseProgram use_program, DrawBehind draw_behind) {
    view_.bind(context.state());
    if (depth_program_) draw_depth(context);
    const auto is_blended = [&](const batch::Run& run) { return scene_->materials().states()[run.state].blended; };
    const std::span<const batch::Run> runs = draws_.runs();
    const auto blended = std::find_if(runs.begin(), runs.end(), is_blended);
    if (device_draws_) draw_all(context, *device_draws_, device_draws_->runs(), use_program);
    draw_all(context, draws_, {runs.begin(), blended}, use_program);
    draw_behind(blended != runs.end());
    if (blended == runs.end()) return;
    view_.bind(context.state());
    draw_all(context, draws_, {blended, runs.end()}, use_program);
  }

  /// The programs that draw what the pass draws.
  SurfaceKinds kinds(batch::Programs programs) const;

  /// Puts what a program's vertices read of objects and materials.
  void put_texels(const gl::Program& program, BoundTextures& into) const { scene_->put_texels(program, *dress_, into); }

  const std::shared_ptr<SceneBuffers>& buffers() const { return scene_; }
  const Camera& camera() const { return view_.camera(); }
  const ViewCamera& view() const { return view_; }
  std::vector<gl::Choice> choices() const;
  std::vector<gl::Batch> batches() const;
  void count_on_device(gl::Counts& counts) const {
    if (device_draws_) device_draws_->count_on_device(counts);
  }

 private:
  SurfaceDraws(const SurfaceChoice& given, gl::PassSetup& setup, const std::shared_ptr<SceneBuffers>& scene);
  std::vector<bool> chosen_by_blending(bool blended) const;
  void hide(const gl::PassSetup& setup);

  void find_solid();
  void draw_depth(const gl::PassContext& context) const;
  gl::Compare nearer_or_equal() const {
    return view_.camera().depth == DepthOrder::reversed ? gl::Compare::greater_or_equal : gl::Compare::less_or_equal;
  }

  template <class Draws, class UseProgram>
  void draw_all(const gl::PassContext& context, const Draws& draws, std::span<const batch::Run> runs,
                UseProgram& use_program) {
    for (const batch::Run& run : runs) {
      const MaterialState& material = scene_->materials().states()[run.state];
      scene_->bind(context.state(), *dress_, run.object_block);
      scene_->materials().bind(context.state(), material);
      use_program(material, run);
      state_.cull = material.double_sided ? gl::CullFaces::none : gl::CullFaces::back;
      state_.blend.on = material.blended || adds_;
      const bool drawn_before = depth_program_ && solid_[run.state];
      state_.depth.write = state_.depth.test && !material.blended && !over_depth_ && !drawn_before;
      state_.depth.compare = drawn_before ? nearer_or_equal() : compare_;
      state_.clockwise_front = run.mirrored;
      context.state().apply(state_);
      draws.draw(context, run);
    }
  }

  std::shared_ptr<SceneBuffers> scene_;
  std::vector<bool> chosen_;  ///< by node
  std::shared_ptr<const Dress> dress_;
  std::vector<MaterialHandle> materials_;    ///< by node
  ObjectDraws draws_;                        ///< blended ones alone, when the device culls
  std::optional<DeviceDraws> device_draws_;  ///< the others
  ViewCamera view_;
  gl::PipelineState state_;
  gl::Compare compare_ = gl::Compare::greater;
  std::optional<gl::Program> depth_program_;  ///< when depth is drawn first
  std::optional<BoundTextures> depth_textures_;
  std::vector<bool> solid_;  ///< by material state: is nothing of it masked or blended?
  bool over_depth_, adds_;
};

}  // namespace periscena::draw
