#include <periscena/passes/forward.h>

#include "draw/lights/light_lists.h"
#include "draw/surfaces/surface_draws.h"
#include "draw/surfaces/surface_program.h"
#include "passes/forward/forward_checks.h"
#include "passes/shared_keys.h"

#include <periscena/gl/sampler.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

draw::LightingChoice lighting_of(const Forward& options) {
  return {options.lights, options.environment, options.fog, options.cache};
}

ObjectChoice objects_of(const Forward& options) {
  return {options.tags, options.without_tags, options.variant};
}

draw::SurfaceChoice surfaces_of(const Forward& options) {
  return {.scene = options.scene,
          .view = options.view,
          .objects = objects_of(options),
          .receivers = options.receivers,
          .without_receivers = options.without_receivers,
          .batching = options.batching,
          .culling = options.culling,
          .has_depth = !options.depth.empty(),
          .surfaces = options.facts_of.empty() ? options.surfaces : Surfaces::opaque,
          .over_depth = is_prelit(options),
          .depth_first = options.depth_first};
}

/// A pass before it, of which only what no surface hides is drawn.
struct Background {
  std::string name;
  Work work;
};

/// A surface's program in a forward pass.
struct LitProgram : draw::SurfaceProgram {
  std::array<std::optional<std::size_t>, most_pictures> picture_units{};
  draw::Lighting::ShadowUnits shadow_units;
  std::optional<draw::LightLists::Reader> lists;
  std::array<std::optional<std::size_t>, 2> light_units{};  ///< of what a light buffer keeps

  LitProgram(gl::Device& device, const gl::ProgramDescription& description, const draw::Lighting& lighting)
      : draw::SurfaceProgram(device, description) {
    for (std::size_t i = 0; i < most_pictures; ++i)
      picture_units[i] = textures.unit(program, fmt::format("picture_{}", i + 1));
    shadow_units = draw::Lighting::ShadowUnits(program, textures);
    lighting.put_textures(program, textures);
    if (program.interface().find_uniform("light_grid")) lists.emplace(program, textures);
    for (std::size_t i = 0; i < light_units.size(); ++i) light_units[i] = textures.unit(program, light_slots[i]);
  }
};

class ForwardWork final : public gl::PassWork {
 public:
  ForwardWork(const Forward& options, Background background, gl::PassSetup& setup)
      : background_(std::move(background)),
        draws_(surfaces_of(options), setup),
        scene_(draws_.buffers()),
        lighting_(setup, scene_, lighting_of(options)),
        kinds_(draws_.kinds(options.programs)) {
    if (is_prelit(options)) {
      for (const char* slot : light_slots) {
        const auto& reads = setup.pass().reads;
        const auto read =
            std::find_if(reads.begin(), reads.end(), [&](const PlannedRead& one) { return one.slot == slot; });
        light_reads_.push_back(static_cast<std::size_t>(read - reads.begin()));
      }
      nearest_ = gl::Sampler(Filter::nearest, Wrap::clamp, "nearest");
    } else if (draw::chosen_bounds(options.light_bounds, lighting_, batch::LightBounds::clusters) ==
               batch::LightBounds::clusters) {
      reaches_.emplace(lighting_);
      lists_.emplace(setup.device(), lighting_, batch::LightBounds::clusters, draws_.camera().depth);
      lists_->resize(setup.pass().width, setup.pass().height);
    }
    make_programs(options, setup);
    find_pictures(options);
    if (background_.work) behind_ = background_.work->make(setup);
  }

  void resize(gl::PassSetup& setup) override {
    if (behind_) behind_->resize(setup);
    draws_.resize(setup);
    if (lists_) lists_->resize(setup.pass().width, setup.pass().height);
  }

  const Camera* camera() const override { return &draws_.camera(); }

  void prepare(gl::PassContext& context) override {
    if (behind_) behind_->prepare(context);
    const bool moved = draws_.update(context);
    lighting_.update(context);
    if (lists_) {
      const bool changed = reaches_->update(context, draws_.view(), moved, lighting_);
      lists_->update(context, draws_.view(), *reaches_, nullptr, changed);
    }
  }

  void run(gl::PassContext& context) override {
    lighting_.bind(context.state());
    draws_.draw(
        context,
        [&](const draw::MaterialState& material, const batch::Run& run) {
          use_program(context, material, programs_[kinds_.of_state[run.state]]);
        },
        [&](bool more) {
          if (!behind_) return;
          behind_->run(context);
          if (more) lighting_.bind(context.state());
        });
  }

  void count_on_device(gl::Counts& counts) const override { draws_.count_on_device(counts); }
  Diagnostics diagnostics() const override { return scene_->diagnostics(); }
  std::vector<gl::Choice> choices() const override {
    std::vector<gl::Choice> choices = draws_.choices();
    if (lists_) choices.push_back(lists_->choice());
    choices.push_back({"programs", kinds_.way});
    if (behind_) choices.push_back({"behind", fmt::format("\"{}\", only where no surface hides it", background_.name)});
    return choices;
  }
  std::vector<gl::Batch> batches() const override { return draws_.batches(); }

 private:
  void make_programs(const Forward& options, gl::PassSetup& setup) {
    std::vector<std::string> defines = lighting_.defines();
    if (lists_) {
      const std::vector<std::string> lists = lists_->defines();
      defines.insert(defines.end(), lists.begin(), lists.end());
    }
    if (is_prelit(options)) defines.push_back("PRELIT");
    if (!looked_at(options).empty()) defines.push_back("LOOK_AT_SHADOW");
    if (!options.facts_of.empty()) defines.push_back("SHADOW_FACTS");
    const draw::SurfaceTexts texts(*scene_, setup.device(), options.folder);
    std::vector<gl::ProgramDescription> descriptions;
    for (const draw::SurfaceKind& kind : kinds_.kinds) {
      descriptions.push_back(texts.of(kind, options.name, pass_shader("periscena/surface.vert"),
                                      pass_shader("periscena/forward.frag"), defines));
    }
    setup.device().programs().prepare(descriptions);
    for (const gl::ProgramDescription& description : descriptions) {
      LitProgram& made = programs_.emplace_back(setup.device(), description, lighting_);
      setup.match_outputs(made.program);
      draws_.put_texels(made.program, made.textures);
      if (looked_at(options).empty()) continue;
      const auto& lights = lighting_.lights();
      const auto light = std::find_if(lights.begin(), lights.end(),
                                      [&](const Light* one) { return one->name == looked_at(options).name; });
      made.program.set(made.program.uniform<int>("looked_at"), static_cast<int>(light - lights.begin()));
    }
  }

  /// Which reads go to which of the programs' pictures. What no material shows is not bound.
  void find_pictures(const Forward& options) {
    int present = 0;
    for (std::size_t i = 0; i < scene_->materials().shown().size(); ++i) {
      for (std::size_t k = 0; k < options.reads.size(); ++k) {
        if (options.reads[k].slot != scene_->materials().shown()[i]) continue;
        present |= 1 << i;
        pictures_.push_back({k, i});
      }
    }
    for (LitProgram& surface : programs_) {
      if (surface.program.interface().find_uniform("pictures"))
        surface.program.set(surface.program.uniform<int>("pictures"), present);
    }
    if (!pictures_.empty()) linear_ = gl::Sampler(Filter::linear, Wrap::clamp, "linear");
  }

  void use_program(const gl::PassContext& context, const draw::MaterialState& material, LitProgram& surface) {
    gl::State& state = context.state();
    surface.program.use(state);
    surface.put_maps(*scene_, material);
    for (const Picture& picture : pictures_) {
      if (const auto unit = surface.picture_units[picture.number])
        surface.put(*unit, context.read(picture.read).name(), linear_.name());
    }
    lighting_.put_shadows(context, surface.shadow_units, surface.textures);
    for (std::size_t i = 0; i < light_reads_.size(); ++i) {
      if (surface.light_units[i])
        surface.put(*surface.light_units[i], context.read(light_reads_[i]).name(), nearest_.name());
    }
    if (surface.lists) lists_->put(*surface.lists, surface.program, surface.textures);
    surface.textures.bind(state);
  }

  struct Picture {
    std::size_t read;    ///< index of the pass' read
    std::size_t number;  ///< of the programs' pictures
  };

  Background background_;
  std::unique_ptr<gl::PassWork> behind_;
  draw::SurfaceDraws draws_;
  std::shared_ptr<draw::SceneBuffers> scene_;
  draw::Lighting lighting_;
  std::optional<draw::LightReaches> reaches_;
  std::optional<draw::LightLists> lists_;
  draw::SurfaceKinds kinds_;
  std::vector<LitProgram> programs_;
  std::vector<Picture> pictures_;
  std::vector<std::size_t> light_reads_;  ///< indices of the pass' reads, of what a light buffer keeps
  gl::Sampler linear_, nearest_;
};

/// The keys of a frame file.
Keys<Forward> forward_keys() {
  Keys<Forward> keys;
  keys.key("view", &Forward::view, {.required = true}, view_sentence)
      .key("lights", &Forward::lights, {}, lights_sentence)
      .key("environment", &Forward::environment, {}, environment_sentence)
      .key("fog", &Forward::fog, {}, fog_sentence);
  add_object_keys(keys).key("shadows", &Forward::shadows, {}, shadows_sentence);
  add_receiver_keys(keys)
      .key("parts_of", &Forward::parts_of, {},
           "A light that casts shadows: tints what each part of its map shades, which cascade, or which face of a cube")
      .key("surfaces", &Forward::surfaces, {},
           "all; opaque: those that are not blended; blended: those that are, over what a `deferred` pass has lit, by "
           "the same depth")
      .key("light_bounds", &Forward::light_bounds, {.choices = {"automatic", "none", "clusters"}},
           "How lights that reach only so far are kept to the pixels that they can reach; the picture is the same. "
           "none: each pixel asks every light; clusters: those of its cell, a tile of 16 x 16 pixels (larger where "
           "lists would exceed 64 MiB) and one of 24 slices of distance; automatic: clusters where eight lights or "
           "more have an end")
      .key("batching", &Forward::batching, {}, batching_sentence)
      .key("culling", &Forward::culling, {},
           "Who leaves out what does not show; the picture is the same. host: the CPU, what the view can't see; "
           "device: the GPU, that, and what is hidden behind what was seen in the last frame, at no cost of the CPU's "
           "for each object")
      .key("programs", &Forward::programs, {}, programs_sentence)
      .key("depth_first", &Forward::depth_first, {}, depth_first_sentence);
  return keys;
}

/// The same pass, which answers instead of lighting.
Pass ask_shadows(Forward options, const ShadowQuestion& question) {
  options.name = question.name;
  options.facts_of = question.light;
  options.color = question.answer;
  options.depth = question.depth;
  options.reads = {};
  return forward(options);
}

LitFacts facts_of(const Forward& options) {
  LitFacts facts{{options.scene, options.view, objects_of(options), options.surfaces}, {}, {}};
  if (!is_prelit(options)) facts.lit = LitBy{options.lights, options.environment};
  facts.ask_shadows = [options](const ShadowQuestion& question) { return ask_shadows(options, question); };
  return facts;
}

void finish_forward(const Forward& options, Pass& pass) {
  pass.makes = LightRange::scene;
  // Reads by names of the materials' own come first.
  pass.reads.insert(pass.reads.begin(), options.reads.begin(), options.reads.end());
  pass.shader->samplers.clear();
  for (const Read& read : pass.reads) pass.shader->samplers.push_back({.name = read.slot});
  add_shadows(pass, options.shadows, options.scene, options.lights);
  expect_bounds(options.light_bounds, {batch::LightBounds::quads, batch::LightBounds::tiles}, "clusters", pass);
  expect_few_lights(options.scene.get(), options.lights, pass);
  pass.facts = facts_of(options);
  pass.work = gl::work<ForwardWork>(options, Background());
  // What is not drawn, or drawn elsewhere, can't hide what lies behind.
  if (options.surfaces == Surfaces::blended || !options.facts_of.empty() || is_prelit(options)) return;
  pass.take_behind = [options](Pass& own, const Pass& before) {
    const Work work = before.behind(own.camera->depth);
    if (!work) return false;
    own.work = gl::work<ForwardWork>(options, Background{before.name, work});
    own.writes[0].covering = Covering::replaces;  // no pixel is left to what the target was cleared to
    return true;
  };
}

const Kind<Forward>& forward_said() {
  static const Kind<Forward> kind{
      .name = "forward",
      .sentence =
          "Draws the scene as a view sees it: each surface lit by its material as it is drawn, in linear light, "
          "through fog.",
      .example =
          "[[pass]]\nname   = \"lock\"\nkind   = \"forward\"\nview   = \"towpath\"\nlights = [\"sun\", \"sky\"]\n"
          "writes = { color = \"scene.color\", depth = \"scene.depth\" }\n",
      .reads = {{{light_slots[0], Need::optional,
                  "Of a `light_buffer` pass over the same depth: light is taken from there; only for opaque surfaces"},
                 &Forward::light_diffuse},
                {{light_slots[1], Need::optional, "The same"}, &Forward::light_specular}},
      .writes = {{{"color", Need::required, "Linear light, nits, multiplied with alpha"},
                  &Forward::color,
                  {.coding = ColorCoding::light}},
                 {{"depth", Need::optional, "Depth; without it nothing hides anything"}, &Forward::depth}},
      .keys = forward_keys(),
      .finish = finish_forward,
      .check = check_forward,
      .read_more =
          [](const PassSource& source, Forward& options, Diagnostics&) {
            for (const Read& read : source.reads) {
              if (read.slot != light_slots[0] && read.slot != light_slots[1]) options.reads.push_back(read);
            }
          },
      .own_slots = OwnSlots::reads};
  return kind;
}

}  // namespace

Pass forward(const Forward& options, Place place) {
  return forward_said().make(options, std::move(place));
}

Pass forward(const Defaults& defaults, Forward options, Place place) {
  return forward_said().make(defaults, std::move(options), std::move(place));
}

PassKind forward_kind() {
  return forward_said().kind();
}

}  // namespace periscena::passes
