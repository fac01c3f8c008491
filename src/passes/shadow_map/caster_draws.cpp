#include "passes/shadow_map/caster_draws.h"

#include "draw/scene/view_camera.h"
#include "passes/pass_checks.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <utility>

namespace periscena::passes {
namespace {

constexpr std::uint32_t opaque = 0;  ///< state of all draws that need no fragment program; masked ones count from 1

bool has_mode(const Scene& scene, MaterialHandle material, Material::AlphaMode mode) {
  return material.valid() && scene.materials()[material.index].alpha_mode == mode;
}

/// By node.
std::vector<MaterialHandle> materials_of(const ShadowMap& options) {
  return options.scene->materials_of_nodes(options.scene->find_variant(options.variant.name));
}

/// Grows whenever holes in masked casters may be others.
std::uint64_t looks_version(const Scene& scene) {
  return scene.versions().materials + scene.versions().textures;
}

/// By node: all that is opaque is drawn alike.
std::vector<batch::Traits> traits_of(const ShadowMap& options, const draw::Dress& dress) {
  const auto materials = materials_of(options);
  std::vector<batch::Traits> traits(materials.size());
  for (std::size_t i = 0; i < traits.size(); ++i) {
    const bool masked = has_mode(*options.scene, materials[i], Material::AlphaMode::mask);
    traits[i].any_winding = !masked && options.faces == CasterFaces::both;
    if (!masked) continue;
    traits[i].state = dress.traits[i].state + 1;
    traits[i].textures = dress.traits[i].textures;
  }
  return traits;
}

}  // namespace

std::vector<bool> casters_in(const ShadowMap& options) {
  return draw::casters_of(*options.scene, {options.tags, options.without_tags, options.variant});
}

ShadowMap with_scene(ShadowMap options, const draw::SceneBuffers& scene) {
  options.scene = scene.shared_scene();
  return options;
}

void expect_vertex_layers(const ShadowMap& options, const gl::PassSetup& setup, const char* draws, const char* mend) {
  if (setup.device().capabilities().vertex_layers) return;
  throw Mistake("no-vertex-layers", {},
                fmt::format("pass \"{}\" draws {}, and this device can't choose layers in a vertex program "
                            "(GL_ARB_shader_viewport_layer_array)",
                            options.name, draws),
                mend);
}

CasterDraws::CasterDraws(const ShadowMap& options, std::shared_ptr<draw::SceneBuffers> scene, gl::Device& device,
                         Views views, std::size_t count)
    : options_(options),
      scene_(std::move(scene)),
      casters_(casters_in(options)),
      dress_(scene_->materials().dress(options.scene->find_variant(options.variant.name))),
      materials_(materials_of(options)),
      draws_(scene_, casters_, traits_of(options, *dress_), options.batching, count),
      camera_block_(gl::Buffer::writable(sizeof(draw::CameraBlock), "light's camera")),
      opaque_(device,
              {options.name, vertex_text("periscena/object_depth.vert", views).with_lines(scene_->texel_lines())}),
      opaque_textures_(opaque_),
      looks_seen_(looks_version(scene_->source())) {
  opaque_.expect_block(views == Views::camera ? draw::CameraBlock::layout() : draw::ShadowPartBlock::layout());
  if (!scene_->has_texels()) opaque_.expect_block(draw::ObjectBlock::layout());
  scene_->put_texels(opaque_, *dress_, opaque_textures_);
  make_masked(vertex_text("periscena/surface.vert", views), device);
  if (views != Views::camera) {
    part_ = opaque_.uniform<int>("light_part");
    for (MaskedProgram& masked : masked_) masked.part = masked.program.uniform<int>("light_part");
  }
  for (std::size_t i = 0; i < casters_.size(); ++i) {
    animated_ = animated_ || (casters_[i] && has_mode(*options.scene, materials_[i], Material::AlphaMode::mask) &&
                              !options.scene->materials()[materials_[i].index].surface.empty());
  }
  seen_.reserve(count);
  state_.depth = {true, true, gl::Compare::greater};
  if (options.faces != CasterFaces::both)
    state_.cull = options.faces == CasterFaces::front ? gl::CullFaces::back : gl::CullFaces::front;
}

gl::ShaderText CasterDraws::vertex_text(const char* source, Views views) const {
  gl::ShaderText text = pass_shader(source);
  if (views == Views::camera) return text;
  text = text.with_lines({"#extension GL_ARB_shader_viewport_layer_array : require", "#define LIGHT_PARTS"});
  return views == Views::tiles ? text.with_lines({"#define LIGHT_TILES"}) : text;
}

/// One for each kind of surface that has masked materials.
void CasterDraws::make_masked(const gl::ShaderText& vertex, gl::Device& device) {
  const draw::SceneMaterials& materials = scene_->materials();
  const draw::SurfaceTexts texts(*scene_, device, options_.folder);
  std::vector<bool> masked(materials.states().size());
  for (std::size_t i = 0; i < masked.size(); ++i) masked[i] = materials.kinds()[i].family.masks;
  kinds_.emplace(materials.kinds(), masked, batch::Programs::automatic);
  std::vector<gl::ProgramDescription> descriptions;
  for (const draw::SurfaceKind& kind : kinds_->kinds)
    descriptions.push_back(
        texts.of(kind, options_.name + ", masked", vertex, pass_shader("periscena/shadow_map.frag")));
  device.programs().prepare(descriptions);
  for (const gl::ProgramDescription& description : descriptions) {
    MaskedProgram& made = masked_.emplace_back(device, description);
    scene_->put_texels(made.program, *dress_, made.textures);
  }
}

void CasterDraws::look_through(const gl::PassContext& context, std::span<const Camera> cameras, float aspect) {
  seen_.clear();
  for (const Camera& camera : cameras)
    seen_.push_back(Frustum::of(camera.projection(aspect).matrix() * camera.view().matrix(), camera.depth));
  draws_.see(seen_, cameras[0].eye);
  const draw::CameraBlock block = draw::CameraBlock::of(cameras[0], aspect);
  context.write(camera_block_, 0, std::as_bytes(std::span(&block, 1)));
}

bool CasterDraws::holes_changed() {
  const std::uint64_t looks = looks_version(scene_->source());
  return std::exchange(looks_seen_, looks) != looks && !masked_.empty();
}

void CasterDraws::draw(const gl::PassContext& context) {
  draws_.update(context);
  gl::State& state = context.state();
  state.bind_uniform_block(gl::binding::camera_block, camera_block_.name(), 0, sizeof(draw::CameraBlock));
  for (const batch::Run& run : draws_.runs()) {
    const auto part = static_cast<int>(run.view);
    state_.clockwise_front = run.mirrored;
    state.apply(state_);
    scene_->bind(state, *dress_, run.object_block);
    if (run.state == opaque) {
      opaque_.use(state);
      opaque_textures_.bind(state);
      if (part_) opaque_.set(*part_, part);
    } else {
      const draw::MaterialState& material = scene_->materials().states()[run.state - 1];
      MaskedProgram& surface = masked_[kinds_->of_state[run.state - 1]];
      surface.program.use(state);
      if (surface.part) surface.program.set(*surface.part, part);
      scene_->materials().bind(state, material);
      surface.put_maps(*scene_, material);
      surface.textures.bind(state);
    }
    draws_.draw(context, run);
  }
}

std::vector<bool> CasterDraws::changing() const {
  std::vector<bool> changing = options_.scene->changing_nodes();
  for (std::size_t i = 0; i < changing.size(); ++i) changing[i] = changing[i] && casters_[i];
  return changing;
}

std::vector<gl::Batch> CasterDraws::batches() const {
  return draws_.batches(materials_, [this](std::uint32_t a, std::uint32_t b) {
    return a == opaque || b == opaque ? std::string("masked: it takes a program")
                                      : scene_->materials().difference(a - 1, b - 1);
  });
}

}  // namespace periscena::passes
