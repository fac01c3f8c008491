#include "passes/deferred/screen_lights.h"

#include "passes/pass_checks.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

const View& view_of(const ScreenLights& options) {
  return *options.scene->find_view(options.view.name);
}

int samples_of(const gl::PassSetup& setup) {
  return setup.plan().targets()[setup.pass().reads[0].target].samples;
}

/// The kinds of shading that the geometry buffer may hold, one bit each: those of the scene, if only passes that draw
/// this scene write it.
std::uint32_t shadings_of(const gl::PassSetup& setup, const draw::SceneBuffers& scene) {
  const auto& reads = setup.pass().reads;
  const auto material =
      std::find_if(reads.begin(), reads.end(), [](const PlannedRead& read) { return read.slot == "material"; });
  if (material == reads.end()) return draw::all_shadings;
  for (const PlannedPass& pass : setup.plan().passes()) {
    const bool writes = std::any_of(pass.writes.begin(), pass.writes.end(),
                                    [&](const PlannedWrite& write) { return write.target == material->target; });
    if (!writes || !pass.declared) continue;
    const auto* drawn = std::get_if<GeometryFacts>(&pass.declared->facts);
    if (!drawn || drawn->drawn.scene->materials() != scene.scene().materials()) return draw::all_shadings;
  }
  return scene.materials().shadings();
}

}  // namespace

ScreenLightsWork::ScreenLightsWork(const ScreenLights& options, gl::PassSetup& setup)
    : scene_(draw::SceneBuffers::shared(setup, options.scene, batch::Batching::automatic)),
      view_(setup, options.scene, options.view),
      lighting_(setup, scene_, options.lighting),
      bounds_(draw::chosen_bounds(options.bounds, lighting_, batch::LightBounds::tiles)),
      samples_(samples_of(setup)),
      filters_(options.name, options.filters, setup),
      nearest_(Filter::nearest, Wrap::clamp, "nearest") {
  if (bounds_ != batch::LightBounds::none) reaches_.emplace(lighting_);
  if (bounds_ == batch::LightBounds::tiles)
    lists_.emplace(setup.device(), lighting_, bounds_, view_of(options).camera.depth, samples_);
  if (samples_ > 1 && !options.every_sample)
    edges_.emplace(setup.device(), options.reads, view_of(options).camera.depth, samples_);
  const std::string shadings = fmt::format("SHADINGS {}", shadings_of(setup, *scene_));
  std::vector<std::string> defines{shadings}, quad_defines{shadings, "ONE_LIGHT"};
  if (lists_) {
    for (std::string& define : lists_->defines()) defines.push_back(std::move(define));
  }
  if (bounds_ == batch::LightBounds::quads) defines.push_back(fmt::format("ENDLESS_LIGHTS {}", lighting_.endless()));
  for (std::vector<std::string>* both : {&defines, &quad_defines}) {
    if (samples_ > 1) both->push_back(fmt::format("SAMPLES {}", samples_));
    if (samples_ > 1 && !edges_) both->insert(both->end(), {"EACH_SAMPLE", "EVERY_SAMPLE"});
  }
  const auto make_quads = [&] {
    Lit made = make(options, setup, "periscena/light_quads.vert", quad_defines);
    made.program.expect_block(draw::LightReachBlock::layout());
    made.program.set(made.program.uniform<int>("first_light"), static_cast<int>(lighting_.endless()));
    return made;
  };
  const bool gathers = edges_ && bounds_ != batch::LightBounds::quads;
  std::vector<std::string> whole_defines = defines;
  if (gathers) whole_defines.emplace_back("FIRST_SURFACE");
  whole_ = make(options, setup, "periscena/fullscreen.vert", whole_defines);
  if (bounds_ == batch::LightBounds::quads) quads_ = make_quads();
  if (edges_) {
    defines.emplace_back("EACH_SAMPLE");
    quad_defines.emplace_back("EACH_SAMPLE");
    if (!gathers) {
      each_sample_ = make(options, setup, "periscena/edge_tiles.vert", defines);
      quads_each_sample_ = make_quads();
    } else {
      defines.emplace_back("GATHERED");
      each_sample_ = make(options, setup, "periscena/edge_blocks.vert", defines);
      gathered_.emplace(setup, view_of(options).camera.depth);
    }
  }
  resize(setup);
}

ScreenLightsWork::Lit ScreenLightsWork::make(const ScreenLights& options, gl::PassSetup& setup, const char* vertex,
                                             std::vector<std::string> defines) {
  for (std::string& define : lighting_.defines()) defines.push_back(std::move(define));
  for (std::string& define : defines) define.insert(0, "#define ");
  const gl::ShaderText fragment = filters_.after(options.fragment, "lit_pixel()");
  gl::Program program(setup.device(), {options.name, pass_shader(vertex), fragment.with_lines(defines)});
  setup.match_outputs(program);
  draw::BoundTextures textures(program);
  lighting_.put_textures(program, textures);
  filters_.put(textures, program);
  if (program.interface().find_block("Camera")) program.expect_block(draw::CameraBlock::layout());
  const draw::Lighting::ShadowUnits shadow_units(program, textures);
  std::vector<std::optional<std::size_t>> units;
  for (const std::string& read : options.reads) units.push_back(textures.unit(program, read));
  std::optional<draw::LightLists::Reader> lists;
  if (program.interface().find_uniform("light_grid")) lists.emplace(program, textures);
  program.set(program.uniform<float>("background"),
              view_of(options).camera.depth == DepthOrder::ordinary ? 1.0f : 0.0f);
  std::optional<gl::Uniform<int>> sample_here;
  std::optional<gl::Uniform<Vec2>> place_in_pixel;
  if (program.interface().find_uniform("sample_here")) sample_here = program.uniform<int>("sample_here");
  if (program.interface().find_uniform("place_in_pixel")) place_in_pixel = program.uniform<Vec2>("place_in_pixel");
  return {std::move(program), std::move(textures), shadow_units, std::move(units), lists, sample_here, place_in_pixel};
}

void ScreenLightsWork::resize(gl::PassSetup& setup) {
  view_.resize(setup);
  if (lists_) lists_->resize(setup.pass().width, setup.pass().height);
  const Vec4 picture(static_cast<float>(setup.pass().width), static_cast<float>(setup.pass().height), 0, 0);
  if (edges_) edges_->resize(setup.pass().width, setup.pass().height);
  if (gathered_) gathered_->resize(setup, *edges_);
  for (std::optional<Lit>* lit : {&whole_, &quads_, &each_sample_, &quads_each_sample_}) {
    if (!*lit) continue;
    if ((*lit)->program.interface().find_uniform("picture"))
      (*lit)->program.set((*lit)->program.uniform<Vec4>("picture"), picture);
    if (edges_) edges_->put((*lit)->program, (*lit)->textures);
  }
}

void ScreenLightsWork::use(const gl::PassContext& context, Lit& lit) {
  lighting_.put_shadows(context, lit.shadow_units, lit.textures);
  for (std::size_t i = 0; i < lit.units.size(); ++i) {
    if (lit.units[i]) lit.textures.put(*lit.units[i], context.read(i).name(), nearest_.name());
  }
  if (lit.lists) lists_->put(*lit.lists, lit.program, lit.textures);
  lit.program.use(context.state());
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
  if (samples_ > 1 && sample_places_.empty()) place_samples(context);
  if (edges_) edges_->find(context, view_);
  view_.bind(state);
  lighting_.bind(state);
  if (samples_ == 1 || edges_) {
    draw_whole(context, *whole_);
    if (quads_) draw_quads(context, *quads_);
  }
  if (gathered_) return draw_gathered(context);
  if (samples_ > 1) draw_each_sample(context);
}

void ScreenLightsWork::draw_whole(const gl::PassContext& context, Lit& lit) {
  filters_.begin(context, lit.textures, lit.program);
  use(context, lit);
  context.state().apply({});
  context.draw_triangle();
  filters_.end(context);
}

void ScreenLightsWork::place_samples(const gl::PassContext& context) {
  for (int i = 0; i < samples_; ++i) sample_places_.push_back(context.sample_place(i));
  Mat4 places = Mat4::zero();
  // Two to a column.
  const std::size_t count = std::min<std::size_t>(sample_places_.size(), 8);
  for (std::size_t i = 0; i < count; ++i)
    std::copy(sample_places_[i].begin(), sample_places_[i].end(), places.begin() + 2 * i);
  for (std::optional<Lit>* lit : {&whole_, &each_sample_}) {
    if (!*lit) continue;
    gl::Program& program = (*lit)->program;
    if (program.interface().find_uniform("sample_places")) program.set(program.uniform<Mat4>("sample_places"), places);
    if ((*lit)->place_in_pixel) program.set(*(*lit)->place_in_pixel, sample_places_[0]);
  }
}

void ScreenLightsWork::choose_sample(Lit& lit, int sample) {
  lit.program.set(*lit.sample_here, sample);
  if (lit.place_in_pixel) lit.program.set(*lit.place_in_pixel, sample_places_[static_cast<std::size_t>(sample)]);
}

/// The surfaces at edges that the first sample does not show. With lights over quads, which lie where they lie, they
/// can not be lit side by side.
void ScreenLightsWork::draw_gathered(const gl::PassContext& context) {
  for (int i = 1; i < samples_; ++i) {
    choose_sample(*each_sample_, i);
    gathered_->gather(context);
    use(context, *each_sample_);
    context.state().apply({});
    context.draw_generated(12, gl::Vertices::triangles, edges_->tile_count());
    gathered_->scatter(context, context.read(0), i);
  }
}

void ScreenLightsWork::draw_each_sample(const gl::PassContext& context) {
  Lit& lit = edges_ ? *each_sample_ : *whole_;
  std::optional<Lit>& quads = edges_ ? quads_each_sample_ : quads_;
  for (int i = 0; i < samples_; ++i) {
    choose_sample(lit, i);
    if (quads) choose_sample(*quads, i);
    context.write_sample(i);
    if (edges_) {
      use(context, lit);
      context.state().apply({});
      context.draw_generated(6, gl::Vertices::triangles, edges_->tile_count());
    } else {
      draw_whole(context, lit);
    }
    if (quads) draw_quads(context, *quads);
  }
  context.write_sample(-1);
}

void ScreenLightsWork::draw_quads(const gl::PassContext& context, Lit& lit) {
  const std::size_t count = lighting_.lights().size() - lighting_.endless();
  if (count == 0) return;
  use(context, lit);
  reaches_->bind(context.state());
  context.state().apply({.blend = {.on = true, .source = gl::BlendFactor::one, .destination = gl::BlendFactor::one}});
  context.draw_generated(6, gl::Vertices::triangles, static_cast<int>(count));
}

std::vector<gl::Choice> ScreenLightsWork::choices() const {
  std::vector<gl::Choice> choices{lights_choice()};
  if (samples_ > 1)
    choices.push_back(
        {"samples",
         gathered_ ? fmt::format("each surface that the {} at an edge show is lit once; other pixels once", samples_)
         : edges_  ? fmt::format("{} at edges are lit each; other pixels once", samples_)
                   : fmt::format("all {} of each pixel are lit", samples_)});
  return choices;
}

gl::Choice ScreenLightsWork::lights_choice() const {
  const std::size_t ending = lighting_.lights().size() - lighting_.endless();
  switch (bounds_) {
    case batch::LightBounds::quads:
      return {"lights",
              fmt::format("quads: {} lights over the rectangles that they can reach, {} over the whole picture", ending,
                          lighting_.endless())};
    case batch::LightBounds::none: return {"lights", fmt::format("each pixel asks all {}", lighting_.lights().size())};
    default: return lists_->choice();
  }
}

}  // namespace periscena::passes
