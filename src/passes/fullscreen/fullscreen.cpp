#include <periscena/passes/fullscreen.h>

#include "draw/lights/lighting.h"
#include "draw/scene/view_camera.h"
#include "draw/screen/filling.h"
#include "draw/screen/screen_program.h"
#include "passes/fullscreen/uniforms.h"
#include "passes/shared_keys.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/gl/sampler.h>
#include <periscena/gl/shader_interface.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::passes {
namespace {

template <class Use>
const Place& slot_place(const Use& use) {
  return use.place.known() ? use.place : use.target.reference.place;
}

draw::LightingChoice lighting_choice(const Fullscreen& options) {
  return {options.lights, options.environment, options.fog, options.cache};
}

/// Does its GLSL include the lights?
bool uses_lights(const Fullscreen& options) {
  return gl::ShaderWords(options.shader).has_block("uniform", "Lighting");
}

class FullscreenWork final : public gl::PassWork {
 public:
  FullscreenWork(const Fullscreen& options, draw::Filling filling, gl::PassSetup& setup)
      : options_(options),
        filling_(filling),
        lighting_(lighting_of(options, setup)),
        program_(setup.device(), {options.name, filling_.vertices(), shader_of(options)}),
        textures_(program_),
        linear_(Filter::linear, Wrap::clamp, "linear"),
        levels_(Filter::linear_levels, Wrap::clamp, "linear, levels"),
        nearest_(Filter::nearest, Wrap::clamp, "nearest") {
    setup.match_outputs(program_);
    for (const Read& read : options.reads)
      units_.push_back(static_cast<std::size_t>(program_.sampler_unit(read.slot, slot_place(read))));
    if (lighting_) {
      lighting_->put_textures(program_, textures_);
      shadow_units_ = draw::Lighting::ShadowUnits(program_, textures_);
    }
    expect_samplers_fed(options, setup);
    put_uniforms();
    if (!options.strange.empty() && program_.interface().find_block("FiniteCounts"))
      finite_.emplace(setup, options.strange);
    program_.expect_all_set(setup.pass().place());
    writes_depth_ = std::any_of(options.writes.begin(), options.writes.end(),
                                [](const Write& write) { return write.slot == "depth"; });
    if (options.view.empty()) return;
    if (program_.interface().find_block("Camera")) program_.expect_block(draw::CameraBlock::layout());
    view_.emplace(setup, options.scene, options.view);
  }

  void resize(gl::PassSetup& setup) override {
    if (view_) view_->resize(setup);
  }

  bool take(const Pass& now) override {
    const Fullscreen* wanted = options_in<Fullscreen>(now);
    if (!wanted || !differ_by_uniforms(*wanted, options_)) return false;
    options_ = *wanted;
    put_uniforms();
    return true;
  }

  const Camera* camera() const override { return view_ ? &view_->camera() : nullptr; }

  void prepare(gl::PassContext& context) override {
    if (view_) view_->update(context);
    if (!lighting_) return;
    scene_->update(context);
    lighting_->update(context);
  }

  void run(gl::PassContext& context) override {
    gl::State& state = context.state();
    if (view_) view_->bind(state);
    if (lighting_) {
      lighting_->bind(state);
      lighting_->put_shadows(context, shadow_units_, textures_);
    }
    program_.use(state);
    state.apply(pipeline());
    if (finite_) finite_->bind(state);
    for (std::size_t i = 0; i < units_.size(); ++i) {
      const gl::Texture& texture = context.read(i);
      textures_.put(units_[i], texture.name(), sampler_for(texture).name());
    }
    textures_.bind(state);
    context.draw_triangle();
  }

  Diagnostics diagnostics() const override { return finite_ ? finite_->found() : Diagnostics(); }

 private:
  void put_uniforms() {
    for (const UniformValue& value : options_.uniforms) {
      if (!options_.lenient || program_.interface().find_uniform(value.name.name)) set_uniform(program_, value);
    }
  }

  gl::PipelineState pipeline() const {
    if (!writes_depth_) return filling_.state();
    const bool ordinary = view_ && view_->camera().depth == DepthOrder::ordinary;
    return {.depth = {.test = true, .write = true, .compare = ordinary ? gl::Compare::less : gl::Compare::greater}};
  }

  std::optional<draw::Lighting> lighting_of(const Fullscreen& options, gl::PassSetup& setup) {
    if (!uses_lights(options)) return std::nullopt;
    scene_ = draw::SceneBuffers::shared(setup, options.scene, batch::Batching::automatic);
    return draw::Lighting(setup, scene_, lighting_choice(options));
  }

  gl::ShaderText shader_of(const Fullscreen& options) const {
    return lighting_ ? options.shader.with_lines(lighting_->define_lines()) : options.shader;
  }

  /// Depth, stencil and integers can't be filtered.
  const gl::Sampler& sampler_for(const gl::Texture& texture) const {
    const FormatInfo& format = info(texture.format());
    if (!format.color() || format.integer()) return nearest_;
    return texture.description().levels > 1 ? levels_ : linear_;
  }

  void expect_samplers_fed(const Fullscreen& options, const gl::PassSetup& setup) const {
    for (const std::string& name : program_.interface().sampler_names()) {
      const bool fed =
          std::any_of(options.reads.begin(), options.reads.end(), [&](const Read& read) { return read.slot == name; });
      if (fed || (lighting_ && lighting_->feeds(name))) continue;
      throw Mistake("unset-sampler", setup.pass().place(),
                    fmt::format("\"{}\" samples \"{}\", but no read has that name", options.name, name),
                    fmt::format("add reads = {{ {} = \"…\" }}", name));
    }
  }

  Fullscreen options_;
  draw::Filling filling_;
  std::shared_ptr<draw::SceneBuffers> scene_;
  std::optional<draw::Lighting> lighting_;
  gl::Program program_;
  draw::BoundTextures textures_;
  draw::Lighting::ShadowUnits shadow_units_;
  gl::Sampler linear_, levels_, nearest_;
  std::vector<std::size_t> units_;  ///< by read
  std::optional<draw::ViewCamera> view_;
  std::optional<draw::FiniteCheck> finite_;
  bool writes_depth_ = false;
};

/// A name that the text does not even mention is surely wrong; whether it is used well, the compiler tells.
void expect_mentioned(const std::string& name, const Place& place, const gl::ShaderWords& words, const char* keyword,
                      const char* what, const std::string& shader, Diagnostics& problems) {
  if (words.mentions(name)) return;
  problems.error(
      fmt::format("unknown-{}", what), place, fmt::format("\"{}\" declares no {} \"{}\"", shader, what, name), [&] {
        const std::vector<std::string> names = words.declared(keyword);
        return names.empty() ? fmt::format("it declares none: {} … {};", keyword, name) : name_hint(name, names);
      });
}

void check_names(const Fullscreen& options, const gl::ShaderWords& words, Diagnostics& problems) {
  const std::string& shader = options.shader.source()->name;
  if (!words.mentions("main")) {
    problems.error("no-main", {options.shader.source(), nullptr, 0, 0, 1}, fmt::format("\"{}\" has no main()", shader),
                   "add void main() { … }, which writes the outputs");
  }
  for (const Read& read : options.reads) {
    expect_mentioned(read.slot, slot_place(read), words, "uniform", "sampler", shader, problems);
  }
  for (const Write& write : options.writes) {
    if (!is_color_slot(write.slot)) continue;
    expect_mentioned(write.slot, slot_place(write), words, "out", "output", shader, problems);
  }
  for (const UniformValue& value : options.uniforms) {
    expect_mentioned(value.name.name, value.name.place, words, "uniform", "uniform", shader, problems);
  }
}

Keys<Fullscreen> fullscreen_keys() {
  Keys<Fullscreen> keys;
  keys.elsewhere("shader", "text", {.required = true}, "The fragment program: a path from this file's folder")
      .key("uniforms", &Fullscreen::uniforms, {}, "Values for the uniforms that the fragment program declares, by name")
      .key("view", &Fullscreen::view, {}, "A view, for programs that include periscena/camera.glsl")
      .key("lights", &Fullscreen::lights, {},
           "Lights, by their names or tags, for programs that include periscena/lights.glsl; left out, all of the "
           "scene; [], none")
      .key("shadows", &Fullscreen::shadows, {},
           "For the same: targets that `shadow_map` passes have written, at most 4")
      .key("environment", &Fullscreen::environment, {}, "For the same: light from all around; left out, none")
      .key("fog", &Fullscreen::fog, {}, "For programs that include periscena/fog.glsl; left out, none");
  return keys;
}

/// A program that samples through sampler2DMS reads the samples itself.
void mark_sample_reads(const ShaderInterface& shader, std::vector<Read>& reads) {
  for (Read& read : reads) {
    for (const SamplerDeclaration& sampler : shader.samplers) {
      const bool samples = sampler.shape == SamplerShape::flat_samples || sampler.shape == SamplerShape::array_samples;
      if (sampler.name == read.slot && samples) read.samples = SampleReading::each;
    }
  }
}

/// Lights are there for GLSL that asks for them.
void add_lights(const Fullscreen& options, Pass& pass) {
  const bool asks = uses_lights(options);
  const std::string who = fmt::format("pass \"{}\"", options.name);
  if (!asks) {
    const bool given =
        !options.lights.all() || !options.shadows.empty() || !options.environment.empty() || !options.fog.empty();
    if (!given) return;
    pass.problems.warning("lights-not-asked", pass.place,
                          fmt::format("{} has lights, shadows or fog, and its GLSL does not ask for them", who),
                          "write #include \"periscena/lights.glsl\" (or fog.glsl) there, or leave those keys out");
    return;
  }
  if (!options.scene) {
    return pass.problems.error("no-scene", pass.place, fmt::format("{} asks for lights, but there is no scene", who),
                               "give the frame a scene");
  }
  expect_lighting(options.scene.get(), lighting_choice(options), who, pass.problems);
  add_shadows(pass, options.shadows, options.scene, options.lights);
}

void finish_fullscreen(const Fullscreen& options, Pass& pass) {
  pass.facts = {};  // its GLSL may write anything
  pass.shader = {};
  pass.reads = options.reads;
  pass.writes = options.writes;
  const bool tests_depth =
      std::any_of(pass.writes.begin(), pass.writes.end(), [](const Write& write) { return write.slot == "depth"; });
  bool sets_depth = false, discards = false;
  if (options.shader.empty()) {
    if (pass.problems.has_errors()) return;  // why it is not there
    pass.problems.error("missing-key", pass.place, fmt::format("pass \"{}\" has no shader", options.name),
                        "set its fragment program");
  } else {
    try {
      const gl::ShaderWords words(options.shader);
      check_names(options, words, pass.problems);
      sets_depth = words.mentions("gl_FragDepth");
      discards = words.mentions("discard");
      pass.shader = gl::read_interface(options.shader);
      if (pass.shader) mark_sample_reads(*pass.shader, pass.reads);
      add_lights(options, pass);
    } catch (const Error& error) {
      pass.problems.append(error.diagnostics());
    }
  }
  for (Write& write : pass.writes) {
    const bool all = is_color_slot(write.slot) && !discards && !tests_depth;
    write.covering = all ? Covering::replaces : Covering::draws_over;
    if (write.slot == "velocity") write.shows = Shows::motions;
  }
  for (const Write& write : options.writes) {
    if (is_color_slot(write.slot) || (write.slot == "depth" && sets_depth)) continue;
    pass.problems.error("wrong-attachment", slot_place(write),
                        fmt::format("pass \"{}\" is a fullscreen pass and draws no {}", options.name, write.slot),
                        "remove it here; a pass that draws objects writes depth");
  }
  if (!options.view.empty())
    expect_view(options.scene.get(), options.view, fmt::format("pass \"{}\"", options.name), pass.problems);
  pass.work = gl::work<FullscreenWork>(options, draw::Filling());
  const bool fills = pass.writes.size() == 1 && pass.writes[0].covering == Covering::replaces;
  if (!pass.reads.empty() || !fills || sets_depth || !options.strange.empty()) return;
  pass.behind = [options](DepthOrder order) { return gl::work<FullscreenWork>(options, draw::Filling{order}); };
}

const Kind<Fullscreen>& fullscreen_said() {
  static const Kind<Fullscreen> kind{
      .name = "fullscreen",
      .sentence =
          "Runs a fragment program of your own once for each pixel, with resolution, time and the targets it reads at "
          "hand.",
      .example =
          "[[pass]]\nname     = \"finish\"\nkind     = \"fullscreen\"\nshader   = \"finish.frag\"\n"
          "reads    = { scene = \"scene.color\" }\nwrites   = { color = \"output\" }\nuniforms = { exposure = 0.8 }\n",
      .reads = {},
      .writes = {},
      .keys = fullscreen_keys(),
      .finish = finish_fullscreen,
      .read_more =
          [](const PassSource& source, Fullscreen& options, Diagnostics& problems) {
            options.reads = source.reads;
            options.writes = source.writes;
            read_glsl(source, "shader", options.shader, problems);
          },
      .own_slots = OwnSlots::reads_and_writes,
      .name_checks = NameChecks::by_finish};
  return kind;
}

}  // namespace

Pass fullscreen(const Fullscreen& options, Place place) {
  return fullscreen_said().make(options, std::move(place));
}

Pass fullscreen(const Defaults& defaults, Fullscreen options, Place place) {
  return fullscreen_said().make(defaults, std::move(options), std::move(place));
}

PassKind fullscreen_kind() {
  return fullscreen_said().kind();
}

}  // namespace periscena::passes
