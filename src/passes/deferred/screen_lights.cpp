#include "passes/deferred/screen_lights.h"

#include <fmt/format.h>

namespace periscena::passes {
namespace {

const View& view_of(const ScreenLights& options) {
  return *options.scene->find_view(options.view.name);
}

int samples_of(const gl::PassSetup& setup) {
  return setup.plan().targets()[setup.pass().reads[0].target].samples;
}

}  // namespace

ScreenLightsWork::ScreenLightsWork(const ScreenLights& options, gl::PassSetup& setup)
    : scene_(SceneBuffers::shared(setup, options.scene, batch::Batching::automatic)),
      view_(setup, options.scene, options.view),
      lighting_(setup, scene_, options.lighting),
      bounds_(chosen_bounds(options.bounds, lighting_, LightBounds::tiles)),
      nearest_(Filter::nearest, Wrap::clamp, "nearest") {
  if (bounds_ != LightBounds::none) reaches_.emplace(lighting_);
  if (bounds_ == LightBounds::tiles) lists_.emplace(lighting_, bounds_, view_of(options).camera.depth, samples_of(setup));
  std::vector<std::string> defines;
  if (lists_) defines = lists_->defines();
  if (bounds_ == LightBounds::quads) {
    defines.push_back(fmt::format("ENDLESS_LIGHTS {}", lighting_.endless()));
    quads_ = make(options, setup, "periscena/light_quads.vert", {"ONE_LIGHT"});
    gl::Program& program = quads_->program;
    program.expect_block(LightReachBlock::layout());
    program.set(program.uniform<int>("first_light"), static_cast<int>(lighting_.endless()));
  }
  whole_ = make(options, setup, "periscena/fullscreen.vert", defines);
  resize(setup);
}

ScreenLightsWork::Lit ScreenLightsWork::make(const ScreenLights& options, gl::PassSetup& setup, const char* vertex,
                                             std::vector<std::string> defines) const {
  for (std::string& define : lighting_.shadow_defines()) defines.push_back(std::move(define));
  for (std::string& define : defines) define.insert(0, "#define ");
  gl::Program program({options.name, gl::ShaderText::embedded(vertex, pass_shaders()), options.fragment.with_lines(defines)});
  setup.match_outputs(program);
  BoundTextures textures(program);
  lighting_.put_textures(program, textures);
  if (program.interface().find_block("Camera")) program.expect_block(CameraBlock::layout());
  const Lighting::ShadowUnits shadow_units(program, textures);
  std::vector<std::optional<std::size_t>> units;
  for (const std::string& read : options.reads) units.push_back(textures.unit(program, read));
  std::optional<LightLists::Reader> lists;
  if (program.interface().find_uniform("light_grid")) lists.emplace(program, textures);
  program.set(program.uniform<float>("background"), view_of(options).camera.depth == DepthOrder::ordinary ? 1.0f : 0.0f);
  return {std::move(program), std::move(textures), shadow_units, std::move(units), lists};
}

void ScreenLightsWork::resize(gl::PassSetup& setup) {
  view_.resize(setup);
  if (lists_) lists_->resize(setup.pass().width, setup.pass().height);
  if (quads_)
    quads_->program.set(quads_->program.uniform<Vec2>("picture"),
                        Vec2(static_cast<float>(setup.pass().width), static_cast<float>(setup.pass().height)));
}

void ScreenLightsWork::use(const gl::PassContext& context, Lit& lit) {
  lighting_.put_shadows(context, lit.shadow_units, lit.textures);
  for (std::size_t i = 0; i < lit.units.size(); ++i) {
    if (lit.units[i]) lit.textures.put(*lit.units[i], context.read(i).name(), nearest_.name());
  }
  if (lit.lists) lists_->put(*lit.lists, lit.program, lit.textures);
  context.state().use_program(lit.program.name());
  lit.textures.bind(context.state());
}

void ScreenLightsWork::run(gl::PassContext& context) {
  gl::State& state = context.state();
  scene_->update(context);
  const bool moved = view_.update(context);
  lighting_.update(context);
  if (reaches_) {
    const bool changed = reaches_->update(context, view_, moved, lighting_);
    if (lists_) lists_->update(context, view_, *reaches_, &context.read(0), changed);
  }
  view_.bind(state);
  lighting_.bind(state);
  use(context, *whole_);
  state.apply({});
  context.draw_triangle();
  if (quads_) draw_quads(context);
}

void ScreenLightsWork::draw_quads(const gl::PassContext& context) {
  const std::size_t count = lighting_.lights().size() - lighting_.endless();
  if (count == 0) return;
  use(context, *quads_);
  reaches_->bind(context.state());
  context.state().apply({.blend = {.on = true, .source = gl::BlendFactor::one, .destination = gl::BlendFactor::one}});
  context.draw_generated(6, gl::Vertices::triangles, static_cast<int>(count));
}

std::vector<gl::Choice> ScreenLightsWork::choices() const {
  const std::size_t ending = lighting_.lights().size() - lighting_.endless();
  switch (bounds_) {
    case LightBounds::quads: return {{"lights", fmt::format("quads: {} lights over the rectangles that they can reach, {} over the whole picture", ending, lighting_.endless())}};
    case LightBounds::none: return {{"lights", fmt::format("each pixel asks all {}", lighting_.lights().size())}};
    default: return {lists_->choice()};
  }
}

}  // namespace periscena::passes
