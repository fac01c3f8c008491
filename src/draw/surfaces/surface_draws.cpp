#include "draw/surfaces/surface_draws.h"

#include "draw/shaders.h"

namespace periscena::draw {
namespace {

/// By node: do shadows fall on it? Empty when they fall on all.
std::vector<bool> receivers_of(const Scene& scene, const SurfaceChoice& choice) {
  if (choice.receivers.all() && choice.without_receivers.empty()) return {};
  return chosen_objects(scene, {choice.receivers, choice.without_receivers, {}});
}

/// By node: does nothing that lies behind its triangles show?
std::vector<bool> occluders_of(const Scene& scene, const std::vector<MaterialHandle>& materials) {
  std::vector<bool> occludes(materials.size());
  for (std::size_t i = 0; i < materials.size(); ++i) {
    if (!materials[i].valid()) continue;
    const Material& material = scene.materials()[materials[i].index];
    occludes[i] = material.alpha_mode == Material::AlphaMode::opaque && material.surface.empty();
  }
  return occludes;
}

/// By node: what the pass draws.
std::vector<bool> drawn_by(const Scene& scene, const SurfaceChoice& choice, const Dress& dress) {
  std::vector<bool> chosen = chosen_objects(scene, choice.objects);
  if (choice.surfaces == Surfaces::all) return chosen;
  for (std::size_t i = 0; i < chosen.size(); ++i)
    chosen[i] = chosen[i] && dress.traits[i].blended == (choice.surfaces == Surfaces::blended);
  return chosen;
}

}  // namespace

SurfaceDraws::SurfaceDraws(const SurfaceChoice& choice, gl::PassSetup& setup)
    : SurfaceDraws(choice, setup, SceneBuffers::shared(setup, choice.scene, choice.batching)) {}

SurfaceDraws::SurfaceDraws(const SurfaceChoice& choice, gl::PassSetup& setup,
                           const std::shared_ptr<SceneBuffers>& scene)
    : scene_(scene),
      dress_(scene->materials().dress(scene->scene().find_variant(choice.objects.variant.name),
                                      receivers_of(scene->scene(), choice))),
      materials_(scene->scene().materials_of_nodes(scene->scene().find_variant(choice.objects.variant.name))),
      draws_(scene,
             (chosen_ = drawn_by(scene->scene(), choice, *dress_),
              choice.culling == batch::Culling::host ? chosen_ : chosen_by_blending(true)),
             dress_->traits, choice.batching),
      view_(setup, choice.scene, choice.view, choice.batching),
      over_depth_(choice.over_depth),
      adds_(choice.adds) {
  state_.stencil = choice.stencil;
  if (adds_) state_.blend.destination = gl::BlendFactor::one;
  if (choice.has_depth) {
    const bool reversed = view_.camera().depth == DepthOrder::reversed;
    state_.depth = {true, true, reversed ? gl::Compare::greater : gl::Compare::less};
    if (over_depth_) {
      // The same surfaces again: merged in one pass and not in the other, their vertices are rounded differently.
      const float nearer = reversed ? 1.0f : -1.0f;
      state_.depth.compare = nearer_or_equal();
      state_.offset = {0, 2 * nearer};
    }
    compare_ = state_.depth.compare;
  }
  if (choice.depth_first && choice.has_depth) {
    depth_program_.emplace(
        setup.device(),
        gl::ProgramDescription{
            "depth first",
            gl::ShaderText::embedded("periscena/object_depth.vert", shaders()).with_lines(scene_->texel_lines())});
    depth_program_->expect_block(CameraBlock::layout());
    if (!scene_->has_texels()) depth_program_->expect_block(ObjectBlock::layout());
    depth_textures_.emplace(*depth_program_);
    scene_->put_texels(*depth_program_, *dress_, *depth_textures_);
    find_solid();
  }
  if (choice.culling == batch::Culling::host) return;
  std::vector<bool> any_side;
  for (const MaterialState& state : scene_->materials().states()) any_side.push_back(state.double_sided);
  device_draws_.emplace(setup.device(), scene_, chosen_by_blending(false), dress_->traits, choice.batching,
                        occluders_of(scene_->scene(), materials_), std::move(any_side));
  hide(setup);
}

void SurfaceDraws::find_solid() {
  const std::vector<Material>& materials = scene_->scene().materials();
  for (const MaterialState& state : scene_->materials().states()) solid_.push_back(!state.blended);
  for (std::size_t i = 0; i < materials_.size(); ++i) {
    if (materials_[i].valid() && materials[materials_[i].index].alpha_mode == Material::AlphaMode::mask)
      solid_[dress_->traits[i].state] = false;
  }
}

/// Of what is solid, so that of all that lies behind nothing is shaded.
void SurfaceDraws::draw_depth(const gl::PassContext& context) const {
  gl::PipelineState state;
  state.depth = {true, true, compare_};
  state.write = {false, false, false, false};
  depth_program_->use(context.state());
  depth_textures_->bind(context.state());
  const auto draw = [&](const auto& draws) {
    for (const batch::Run& run : draws.runs()) {
      if (!solid_[run.state]) continue;
      scene_->bind_objects(context.state(), run.object_block);
      state.cull = scene_->materials().states()[run.state].double_sided ? gl::CullFaces::none : gl::CullFaces::back;
      state.clockwise_front = run.mirrored;
      context.state().apply(state);
      draws.draw(context, run);
    }
  };
  if (device_draws_) draw(*device_draws_);
  draw(draws_);
}

std::vector<bool> SurfaceDraws::chosen_by_blending(bool blended) const {
  std::vector<bool> chosen = chosen_;
  for (std::size_t i = 0; i < chosen.size(); ++i) chosen[i] = chosen[i] && dress_->traits[i].blended == blended;
  return chosen;
}

/// What is hidden is only known where there is a depth target.
void SurfaceDraws::hide(const gl::PassSetup& setup) {
  if (!device_draws_ || !state_.depth.test) return;
  device_draws_->hide(setup.pass().width, setup.pass().height, setup.pass().samples, view_.camera().depth);
}

void SurfaceDraws::resize(gl::PassSetup& setup) {
  view_.resize(setup);
  hide(setup);
}

SurfaceKinds SurfaceDraws::kinds(batch::Programs programs) const {
  const SceneMaterials& materials = scene_->materials();
  std::vector<bool> used(materials.states().size());
  for (std::size_t i = 0; i < chosen_.size(); ++i) {
    if (chosen_[i] && scene_->scene().nodes()[i].mesh.valid() && !used.empty()) used[dress_->traits[i].state] = true;
  }
  return {materials.kinds(), used, programs};
}

bool SurfaceDraws::update(gl::PassContext& context) {
  scene_->update(context);
  const bool view_changed = view_.update(context);
  if (view_changed) draws_.see(view_.frustum(), view_.camera().eye);
  draws_.update(context);
  if (device_draws_) device_draws_->update(context, view_, view_changed);
  return view_changed;
}

std::vector<gl::Choice> SurfaceDraws::choices() const {
  std::vector<gl::Choice> all{{"textures", scene_->materials().textures().way_sentence()},
                              {"merged", scene_->merging()}};
  if (depth_program_) all.push_back({"depth", "drawn first, of all that is solid: each call twice"});
  return all;
}

std::vector<gl::Batch> SurfaceDraws::batches() const {
  const auto difference = [this](std::uint32_t a, std::uint32_t b) { return scene_->materials().difference(a, b); };
  std::vector<gl::Batch> all = draws_.batches(materials_, difference);
  if (!device_draws_) return all;
  if (!all.empty()) all[0].why_apart = "blended, so in the order of depth";
  const std::vector<gl::Batch> opaque = device_draws_->batches(materials_, difference);
  all.insert(all.begin(), opaque.begin(), opaque.end());
  return all;
}

}  // namespace periscena::draw
