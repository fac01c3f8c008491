#include "passes/shadow_map/shadow_map.h"

#include "passes/shading/object_draws.h"
#include "passes/shading/surface_program.h"

#include <periscena/base/names.h>
#include <periscena/math/light_fit.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

ObjectChoice objects_of(const ShadowMap& options) {
  return {options.tags, options.without_tags, options.variant};
}

/// By node: does it cast a shadow?
std::vector<bool> casters_of(const ShadowMap& options) {
  const Scene& scene = *options.scene;
  std::vector<bool> casters = chosen_objects(scene, objects_of(options));
  const auto materials = scene.materials_of_nodes(scene.find_variant(options.variant.name));
  for (std::size_t i = 0; i < casters.size(); ++i) {
    const bool blended =
        materials[i].valid() && scene.materials()[materials[i].index].alpha_mode == Material::AlphaMode::blend;
    casters[i] = casters[i] && scene.nodes()[i].mesh.valid() && !blended;
  }
  return casters;
}

constexpr std::uint32_t opaque = 0;  ///< state of all draws that need no fragment program; masked ones count from 1

/// By node: all that is opaque is drawn alike.
std::vector<batch::Traits> traits_of(const ShadowMap& options, const Dress& dress) {
  const Scene& scene = *options.scene;
  const auto materials = scene.materials_of_nodes(scene.find_variant(options.variant.name));
  std::vector<batch::Traits> traits(materials.size());
  for (std::size_t i = 0; i < traits.size(); ++i) {
    const bool masked =
        materials[i].valid() && scene.materials()[materials[i].index].alpha_mode == Material::AlphaMode::mask;
    traits[i].any_winding = !masked;
    if (masked) traits[i].state = dress.traits[i].state + 1;
  }
  return traits;
}

ShadowMap batched(ShadowMap options, gl::PassSetup& setup) {
  options.scene = SceneBuffers::batched(setup, options.scene, options.batching);
  return options;
}

class ShadowMapWork final : public gl::PassWork {
 public:
  ShadowMapWork(const ShadowMap& options, gl::PassSetup& setup)
      : ShadowMapWork(setup, batched(options, setup)) {}

  ShadowMapWork(gl::PassSetup& setup, const ShadowMap& options)
      : light_(*options.scene->find_light(options.light.name)),
        scene_(SceneBuffers::shared(setup, options.scene)),
        view_(ShadowView::of_pass(setup, *setup.pass().declared)),
        casters_(casters_of(options)),
        dress_(scene_->dress(options.scene->find_variant(options.variant.name))),
        materials_(options.scene->materials_of_nodes(options.scene->find_variant(options.variant.name))),
        draws_(scene_, casters_, traits_of(options, *dress_), options.batching),
        opaque_({options.name, gl::ShaderText::embedded("periscena/shadow_map.vert", pass_shaders())}),
        camera_block_(gl::Buffer::writable(sizeof(CameraBlock), "light's camera")) {
    opaque_.expect_block(CameraBlock::layout());
    opaque_.expect_block(ObjectBlock::layout());
    make_masked(options);
    state_.depth = {true, true, gl::Compare::greater};
    spheres_.reserve(casters_.size());
    resize(setup);
  }

  void resize(gl::PassSetup& setup) override {
    width_ = setup.pass().width;
    height_ = setup.pass().height;
    stale_ = true;
  }

  void run(gl::PassContext& context) override {
    scene_->update(context);
    if (scene_->moved() || stale_) fit(context);
    stale_ = false;
    draws_.update(context);
    if (draws_.runs().empty()) return;
    gl::State& state = context.state();
    state.bind_uniform_block(gl::binding::camera_block, camera_block_.name(), 0, sizeof(CameraBlock));
    scene_->bind(state, *dress_);
    state.apply(state_);
    for (const batch::Run& run : draws_.runs()) {
      if (run.state == opaque) {
        state.use_program(opaque_.name());
      } else {
        const MaterialState& material = scene_->states()[run.state - 1];
        SurfaceProgram& surface = *masked_[material.surface];
        state.use_program(surface.program.name());
        scene_->bind_materials(state, material);
        surface.put_maps(*scene_, material);
        surface.textures.bind(state);
      }
      draws_.draw(context, run);
    }
  }

  const Camera* camera() const override { return &view_->camera(); }

  std::vector<gl::Batch> batches() const override {
    return draws_.batches(materials_, [this](std::uint32_t a, std::uint32_t b) {
      return a == opaque || b == opaque ? std::string("masked: it takes a program") : scene_->difference(a - 1, b - 1);
    });
  }

 private:
  /// One for each GLSL that masked materials bring along; the first is without.
  void make_masked(const ShadowMap& options) {
    masked_.resize(scene_->surfaces().size() + 1);
    const auto vertex = gl::ShaderText::embedded("periscena/forward.vert", pass_shaders());
    for (const Material& material : options.scene->materials()) {
      if (material.alpha_mode != Material::AlphaMode::mask) continue;
      const auto& known = scene_->surfaces();
      const std::size_t number =
          material.surface.empty()
              ? 0
              : static_cast<std::size_t>(std::find(known.begin(), known.end(), material.surface) - known.begin()) + 1;
      if (masked_[number]) continue;
      masked_[number].emplace(
          gl::ProgramDescription{fmt::format("{}, masked", options.name), vertex,
                                 surface_text("periscena/shadow_map.frag", options.folder, material.surface)});
    }
  }

  /// Lets the light look at where the casters are.
  void fit(const gl::PassContext& context) {
    const Transform world = light_.node.valid() ? scene_->worlds()[light_.node.index] : Transform::identity();
    spheres_.clear();
    for (std::size_t i = 0; i < casters_.size(); ++i) {
      if (casters_[i]) spheres_.push_back(scene_->bounds().ball(i));
    }
    // Two texels at each edge stay empty: what is looked up past the edge finds nothing there, as it should.
    const float margin = 2.0f / static_cast<float>(std::min(width_, height_));
    const auto camera = fit_parallel(world.apply_to_direction(light_.direction), spheres_, margin);
    if (!camera) return;
    view_->look_through(*camera, width_, height_);
    const CameraBlock block =
        CameraBlock::of(view_->camera(), static_cast<float>(width_) / static_cast<float>(height_));
    context.write(camera_block_, 0, std::as_bytes(std::span(&block, 1)));
    draws_.see(Frustum::of(block.view_projection, DepthOrder::reversed), block.eye);
  }

  const Light& light_;
  std::shared_ptr<SceneBuffers> scene_;
  std::shared_ptr<ShadowView> view_;
  std::vector<bool> casters_;
  std::shared_ptr<const Dress> dress_;
  std::vector<MaterialHandle> materials_;  ///< by node
  ObjectDraws draws_;
  gl::Program opaque_;
  std::vector<std::optional<SurfaceProgram>> masked_;  ///< by number of the GLSL that materials bring along
  gl::PipelineState state_;
  gl::Buffer camera_block_;
  std::vector<Sphere> spheres_;
  int width_ = 1, height_ = 1;
  bool stale_ = true;
};

void expect_light(const ShadowMap& options, Diagnostics& problems) {
  if (!options.scene) return;
  const Light* light = options.scene->find_light(options.light.name);
  if (!light) {
    std::vector<std::string> names;
    for (const Light& known : options.scene->lights()) names.push_back(known.name);
    problems.error("unknown-light", options.light.place,
                   fmt::format("pass \"{}\" names light \"{}\", which is not there", options.name, options.light.name),
                   names.empty() ? fmt::format("declare it: [light.\"{}\"]", options.light.name)
                                 : name_hint(options.light.name, names));
  } else if (light->kind != Light::Kind::directional) {
    problems.error("light-kind", options.light.place,
                   fmt::format("pass \"{}\" draws the shadow map of \"{}\", which is a {} light", options.name,
                               light->name, light->kind == Light::Kind::point ? "point" : "spot"),
                   "shadow maps are for directional lights so far");
  }
}

void expect_casters(const ShadowMap& options, const Place& place, Diagnostics& problems) {
  if (!options.scene || problems.has_errors()) return;
  const std::vector<bool> casters = casters_of(options);
  if (std::find(casters.begin(), casters.end(), true) != casters.end()) return;
  problems.warning("no-casters", options.tags.empty() ? place : options.tags[0].place,
                   fmt::format("pass \"{}\" finds nothing that casts a shadow", options.name),
                   "objects cast that have a mesh, a material that is not blended, and the pass' tags");
}

/// The keys of a frame file.
struct ShadowKeys {
  Reference light, variant;
  std::vector<Reference> tags, without_tags;
  std::string batching = "automatic";
};

Keys<ShadowKeys> shadow_keys() {
  Keys<ShadowKeys> keys;
  keys.key("light", &ShadowKeys::light, {.required = true}, "A directional light")
      .key("tags", &ShadowKeys::tags, {},
           "Only objects that have one of these tags, or stand below one, cast; left out, all")
      .key("without_tags", &ShadowKeys::without_tags, {}, "But not those that have one of these, or stand below one")
      .key("variant", &ShadowKeys::variant, {}, "The scene in another dress")
      .key("batching", &ShadowKeys::batching, {.choices = batch::batching_names()}, batching_sentence);
  return keys;
}

/// What a lit pass wants of the passes that write its shadow maps.
struct ShadowCheck {
  std::string pass;
  std::vector<TargetUse> shadows;
  std::size_t first_read;
  std::shared_ptr<const Scene> scene;
  LightNames lights;

  void operator()(const WritersOf& writers_of, Diagnostics& problems) const {
    std::vector<std::string> seen;
    for (std::size_t i = 0; i < shadows.size(); ++i) {
      const std::vector<const Pass*> writers = writers_of(first_read + i);
      // Nobody, or somebody with mistakes of their own: that was told.
      const bool sound = std::none_of(writers.begin(), writers.end(),
                                      [](const Pass* writer) { return writer->problems.has_errors(); });
      if (!writers.empty() && sound) check(shadows[i].reference.place, writers, seen, problems);
    }
  }

  void check(const Place& place, const std::vector<const Pass*>& writers, std::vector<std::string>& seen,
             Diagnostics& problems) const {
    for (const Pass* writer : writers) {
      if (std::any_cast<ShadowMap>(&writer->gives)) continue;
      return problems.error(
          "not-a-shadow-map", place,
          fmt::format("pass \"{}\" looks for shadows in what pass \"{}\" writes, which is no shadow map", pass,
                      writer->name),
          "name a target that a pass of kind shadow_map writes, and nothing else");
    }
    if (writers.size() > 1) {
      return problems.error(
          "shared-shadow-map", place,
          fmt::format("passes \"{}\" and \"{}\" draw into one shadow map", writers[0]->name, writers[1]->name),
          "give each a target of its own, and name both in shadows");
    }
    const auto& map = std::any_cast<const ShadowMap&>(writers[0]->gives);
    const std::string& light = map.light.name;
    if (map.scene != scene) {
      return problems.error("other-scene", place,
                            fmt::format("pass \"{}\" draws another scene than pass \"{}\", whose shadows it takes",
                                        pass, writers[0]->name),
                            "draw both from one scene");
    }
    if (std::find(seen.begin(), seen.end(), light) != seen.end()) {
      return problems.error("shadow-twice", place,
                            fmt::format("pass \"{}\" takes two shadow maps of light \"{}\"", pass, light),
                            "keep one of them");
    }
    seen.push_back(light);
    const std::vector<const Light*> lit = chosen_lights(*scene, lights);
    if (std::any_of(lit.begin(), lit.end(), [&](const Light* one) { return one->name == light; })) return;
    problems.warning("unlit-shadow", place,
                     fmt::format("pass \"{}\" takes the shadows of light \"{}\", but is not lit by it", pass, light),
                     "add it to the pass' lights, or leave its shadow map out");
  }
};

}  // namespace

Pass shadow_map(const ShadowMap& options, Place place) {
  Pass pass = pass_of_kind("shadow_map", options.name, std::move(place));
  if (!options.depth.empty()) pass.writes.push_back({"depth", options.depth});
  pass.gives = options;
  if (!options.scene)
    pass.problems.error("no-scene", {}, fmt::format("pass \"{}\" wants a light, but there is no scene", options.name),
                        "give the frame a scene");
  expect_light(options, pass.problems);
  expect_objects(options.scene.get(), objects_of(options), fmt::format("pass \"{}\"", options.name), pass.problems);
  expect_casters(options, pass.place, pass.problems);
  if (!pass.problems.has_errors())
    pass.work = [options](gl::PassSetup& setup) { return std::make_unique<ShadowMapWork>(options, setup); };
  return pass;
}

std::string shadow_slot(std::size_t index) {
  return fmt::format("shadow_map_{}", index + 1);
}

void add_shadows(Pass& pass, const std::vector<TargetUse>& shadows, const std::shared_ptr<const Scene>& scene,
                 const LightNames& lights) {
  if (shadows.empty() || !scene) return;
  if (shadows.size() > most_shadows) {
    pass.problems.error("too-many-shadows", shadows[most_shadows].reference.place,
                        fmt::format("pass \"{}\" takes {} shadow maps", pass.name, shadows.size()),
                        fmt::format("a pass takes {} of them", most_shadows));
  }
  pass.check_writers = ShadowCheck{pass.name, shadows, pass.reads.size(), scene, lights};
  for (std::size_t i = 0; i < shadows.size(); ++i) {
    pass.reads.push_back({.slot = shadow_slot(i), .target = shadows[i]});
    pass.shader->samplers.push_back({.name = shadow_slot(i), .depth = true});
  }
}

gl::BlockLayout ShadowBlock::layout() {
  return gl::describe_block<ShadowBlock>("Shadows", "shadows")
      .member("to_map", &ShadowBlock::to_map)
      .member("texel", &ShadowBlock::texel);
}

std::shared_ptr<ShadowView> ShadowView::of_pass(const gl::PassSetup& setup, const Pass& declared) {
  return setup.shared().get<ShadowView>(&declared, [&] {
    return std::make_shared<ShadowView>(std::any_cast<const ShadowMap&>(declared.gives).light.name);
  });
}

std::shared_ptr<ShadowView> ShadowView::of_target(const gl::PassSetup& setup, std::uint32_t target) {
  const FramePlan& plan = setup.plan();
  const std::uint32_t drawn = plan.targets()[target].resolved_from.value_or(target);
  for (const PlannedPass& pass : plan.passes()) {
    const bool writes = std::any_of(pass.writes.begin(), pass.writes.end(),
                                    [&](const PlannedWrite& write) { return write.target == drawn; });
    if (writes && pass.declared) return of_pass(setup, *pass.declared);
  }
  throw Mistake("not-a-shadow-map", {},
                fmt::format("nothing draws the shadow map that pass \"{}\" reads", setup.pass().name),
                "add a pass of kind shadow_map");
}

void ShadowView::look_through(const Camera& camera, int width, int height) {
  const float aspect = static_cast<float>(width) / static_cast<float>(height);
  camera_ = camera;
  camera_.parallel_height /= std::min(1.0f, aspect);
  // Clip space spans -1 to 1 across and up, texture coordinates 0 to 1; depth is the same in both.
  const Transform to_texture = Transform::scale(Vec3(0.5f, 0.5f, 1)).then(Transform::translate(Vec3(0.5f, 0.5f, 0)));
  block_.to_map = to_texture.matrix() * camera_.projection(aspect).matrix() * camera_.view().matrix();
  block_.texel = camera_.parallel_height / static_cast<float>(height);
  ++version_;
}

PassKind shadow_map_kind() {
  static const Keys<ShadowKeys> keys = shadow_keys();
  PassKind kind;
  kind.name = "shadow_map";
  kind.sentence =
      "Draws what a directional light sees of the objects that cast shadows. Passes of kind `forward` that name its "
      "target among their `shadows` keep the light from what lies behind. Masked materials keep their holes, blended "
      "ones cast nothing.";
  kind.example =
      "[target.\"sun.depth\"]\nformat = \"depth32f\"\nsize   = [2048, 2048]\n\n"
      "[[pass]]\nname         = \"sun shadow\"\nkind         = \"shadow_map\"\nlight        = \"sun\"\n"
      "without_tags = [\"water\"]\nwrites       = { depth = \"sun.depth\" }\n";
  kind.writes = {{"depth", true, "Reversed depth, as the light sees it; best square"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    ShadowKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    ShadowMap options;
    options.name = source.name.name;
    options.scene = source.scene;
    options.light = given.light;
    options.tags = given.tags;
    options.without_tags = given.without_tags;
    options.variant = given.variant;
    options.batching = batch::parse_batching(given.batching);
    options.folder = source.folder;
    if (const TargetUse* depth = find_write(source, "depth")) options.depth = *depth;
    Pass pass = shadow_map(options, source.name.place);
    // A missing light was told by the keys already.
    if (options.light.empty()) pass.problems = {};
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
