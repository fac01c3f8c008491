#include "passes/forward/forward.h"

#include "passes/scene_buffers.h"

#include <periscena/base/names.h>
#include <periscena/gl/sampler.h>
#include <periscena/gl/shader_interface.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

/// The Light block of forward.frag, std140.
struct LightBlock {
  Vec3 to_light = Vec3::UnitY();
  float padding0 = 0;
  Vec3 illuminance = Vec3::Zero();
  float padding1 = 0;
  Vec3 sky = Vec3::Zero();
  float padding2 = 0;
  Vec3 ground = Vec3::Zero();
  float padding3 = 0;

  static LightBlock of(const DirectionalLight* light, const AmbientLight* ambient) {
    LightBlock block;
    if (light) {
      block.to_light = -light->direction.normalized();
      block.illuminance = light->illuminance * light->color;
    }
    if (ambient) {
      block.sky = ambient->sky;
      block.ground = ambient->ground;
    }
    return block;
  }

  static gl::BlockLayout layout() {
    return gl::describe_block<LightBlock>("Light")
        .member("to_light", &LightBlock::to_light)
        .member("illuminance", &LightBlock::illuminance)
        .member("sky", &LightBlock::sky)
        .member("ground", &LightBlock::ground);
  }
};

class ForwardWork final : public gl::PassWork {
 public:
  ForwardWork(const Forward& options, gl::PassSetup& setup)
      : scene_(SceneBuffers::shared(setup, options.scene)),
        program_({options.name, gl::ShaderText::embedded("periscena/forward.vert", pass_shaders()),
                  gl::ShaderText::embedded("periscena/forward.frag", pass_shaders())}) {
    program_.expect_block(CameraBlock::layout());
    program_.expect_block(ObjectBlock::layout());
    program_.expect_block(LightBlock::layout());
    setup.match_outputs(program_);
    find_pictures(options);
    view_ = options.scene->find_view(options.view.name)->camera;
    resize(setup);
    light_ = shared_block(setup,
                          LightBlock::of(options.scene->find_directional_light(options.light.name),
                                         options.scene->find_ambient_light(options.ambient.name)),
                          "light");
    state_.cull = gl::CullFaces::back;
    if (!options.depth.empty()) {
      state_.depth = {true, true, view_.depth == DepthOrder::reversed ? gl::Compare::greater : gl::Compare::less};
    }
    const std::size_t nodes = options.scene->nodes().size();
    draws_.reserve(nodes);
    listed_.reserve(nodes);
    if (nodes > 0) commands_ = gl::Buffer::writable(nodes * sizeof(gl::DrawCommand), "draw commands");
  }

  void resize(gl::PassSetup& setup) override {
    const CameraBlock block = CameraBlock::of(view_, setup.aspect());
    frustum_ = Frustum::of(block.view_projection, view_.depth);
    camera_ = shared_block(setup, block, "camera");
    listed_.clear();
    draws_.clear();
    stale_ = true;
  }

  void run(gl::PassContext& context) override {
    scene_->update(context.time());
    if (scene_->moved() || stale_) list_nodes();
    stale_ = false;
    if (draws_.empty()) return;
    gl::State& state = context.state();
    state.use_program(program_.name());
    state.bind_uniform_block(gl::binding::camera_block, camera_->name(), 0, sizeof(CameraBlock));
    state.bind_uniform_block(gl::binding::light_block, light_->name(), 0, sizeof(LightBlock));
    state.bind_storage_block(gl::binding::object_storage, scene_->objects().name());
    for (std::size_t i = 0; i < pictures_.size(); ++i) {
      state.bind_texture(static_cast<std::uint32_t>(pictures_[i].unit), context.read(pictures_[i].read).name(),
                         linear_.name());
    }
    for (const batch::Run& run : list_.runs()) {
      state_.clockwise_front = run.mirrored;
      state.apply(state_);
      context.draw_indirect(scene_->vertices(), commands_, run.first, run.count, scene_->index_bytes());
    }
  }

 private:
  /// Which reads go to which of the program's pictures. What no material shows is not bound.
  void find_pictures(const Forward& options) {
    int present = 0;
    for (std::size_t i = 0; i < scene_->shown().size(); ++i) {
      for (std::size_t k = 0; k < options.reads.size(); ++k) {
        if (options.reads[k].slot != scene_->shown()[i]) continue;
        present |= 1 << i;
        pictures_.push_back({k, program_.sampler_unit(fmt::format("picture_{}", i + 1))});
      }
    }
    program_.set(program_.uniform<int>("pictures"), present);
    if (!pictures_.empty()) linear_ = gl::Sampler(gl::Filter::linear, gl::Wrap::clamp, "linear");
  }

  void list_nodes() {
    if (windings_ != scene_->windings()) list_.sort(scene_->scene(), scene_->mirrored());
    windings_ = scene_->windings();
    list_.cull(scene_->bounds(), frustum_);
    const auto visible = list_.nodes();
    // A node's command never changes, so equal nodes are equal commands.
    if (std::equal(visible.begin(), visible.end(), listed_.begin(), listed_.end())) return;
    listed_.assign(visible.begin(), visible.end());
    draws_.clear();
    for (const std::uint32_t node : listed_) draws_.push_back(scene_->command(node));
    if (!draws_.empty()) commands_.write(0, std::as_bytes(std::span(draws_)));
  }

  std::shared_ptr<SceneBuffers> scene_;
  gl::Program program_;
  gl::PipelineState state_;
  struct Picture {
    std::size_t read;  ///< index of the pass' read
    int unit;
  };
  std::vector<Picture> pictures_;
  gl::Sampler linear_;
  Camera view_;
  Frustum frustum_;
  std::shared_ptr<const gl::Buffer> camera_, light_;
  gl::Buffer commands_;
  batch::DrawList list_;
  bool stale_ = true;                  ///< does the view differ from that of the list?
  std::uint64_t windings_ = 0;         ///< as of which the list is sorted
  std::vector<std::uint32_t> listed_;  ///< nodes that commands_ holds
  std::vector<gl::DrawCommand> draws_;
};

template <class Light>
std::vector<std::string> names_of(const std::vector<Light>& lights) {
  std::vector<std::string> names;
  for (const Light& light : lights) names.push_back(light.name);
  return names;
}

void expect_light(const Forward& options, const Reference& light, bool directional, Diagnostics& problems) {
  if (light.empty() || !options.scene) return;
  const Scene& scene = *options.scene;
  const bool is_directional = scene.find_directional_light(light.name),
             is_ambient = scene.find_ambient_light(light.name);
  if (directional ? is_directional : is_ambient) return;
  if (is_directional || is_ambient) {
    problems.error(
        "wrong-light", light.place,
        fmt::format("pass \"{}\" takes \"{}\" as its {} light, but that is {}", options.name, light.name,
                    directional ? "directional" : "ambient", is_ambient ? "an ambient light" : "a directional light"),
        is_ambient ? "use it as ambient" : "use it as light");
    return;
  }
  const auto names = directional ? names_of(scene.directional_lights()) : names_of(scene.ambient_lights());
  problems.error("unknown-light", light.place,
                 fmt::format("pass \"{}\" is lit by \"{}\", which is no {} light", options.name, light.name,
                             directional ? "directional" : "ambient"),
                 names.empty() ? fmt::format("declare it: [light.{}] with kind = \"{}\"", light.name,
                                             directional ? "directional" : "ambient")
                               : name_hint(light.name, names));
}

Keys<Forward> forward_keys() {
  Keys<Forward> keys;
  keys.key("view", &Forward::view, {.required = true}, "The view to look through")
      .key("light", &Forward::light, {}, "The directional light; without one, ambient light is all there is")
      .key("ambient", &Forward::ambient, {}, "The ambient light; without one, what faces away from the light is black");
  return keys;
}

const TargetUse* find_write(const PassSource& source, std::string_view slot) {
  for (const Write& write : source.writes) {
    if (write.slot == slot) return &write.target;
  }
  return nullptr;
}

/// A read that no material shows is most likely misspelt.
void expect_shown(const Forward& options, Diagnostics& problems) {
  if (!options.scene || options.reads.empty()) return;
  std::vector<std::string> shown;
  for (const Material& material : options.scene->materials()) {
    if (!material.shows.empty() && std::find(shown.begin(), shown.end(), material.shows) == shown.end())
      shown.push_back(material.shows);
  }
  constexpr std::size_t most = 4;
  if (shown.size() > most) {
    problems.error("too-many-pictures", {}, fmt::format("the scene's materials show {} targets", shown.size()),
                   fmt::format("a forward pass takes {} of them", most));
  }
  for (const Read& read : options.reads) {
    if (std::find(shown.begin(), shown.end(), read.slot) != shown.end()) continue;
    problems.error(
        "unknown-picture", read.place.known() ? read.place : read.target.reference.place,
        fmt::format("pass \"{}\" reads \"{}\", which no material shows", options.name, read.slot),
        shown.empty() ? fmt::format("give a material shows = \"{}\"", read.slot) : name_hint(read.slot, shown));
  }
}

}  // namespace

Pass forward(const Forward& options, Place place) {
  Pass pass;
  pass.name = options.name;
  pass.kind = "forward";
  pass.place = std::move(place);
  if (!options.color.empty()) pass.writes.push_back({"color", options.color});
  if (!options.depth.empty()) pass.writes.push_back({"depth", options.depth});
  expect_view(options.scene.get(), options.view, fmt::format("pass \"{}\"", options.name), pass.problems);
  expect_light(options, options.light, true, pass.problems);
  expect_light(options, options.ambient, false, pass.problems);
  expect_shown(options, pass.problems);
  pass.reads = options.reads;
  static const ShaderInterface program =
      gl::read_interface(gl::ShaderText::embedded("periscena/forward.frag", pass_shaders())).value();
  pass.shader = program;
  for (const Read& read : options.reads) pass.shader->samplers.push_back({read.slot});
  if (!pass.problems.has_errors()) {
    pass.camera = options.scene->find_view(options.view.name)->camera;
    pass.work = [options](gl::PassSetup& setup) { return std::make_unique<ForwardWork>(options, setup); };
  }
  return pass;
}

PassKind forward_kind() {
  static const Keys<Forward> keys = forward_keys();
  PassKind kind;
  kind.name = "forward";
  kind.sentence =
      "Draws the scene as a view sees it: diffuse light from one direction plus ambient light, in linear light.";
  kind.example =
      "[[pass]]\nname    = \"lock\"\nkind    = \"forward\"\nview    = \"towpath\"\nlight   = \"sun\"\nambient = "
      "\"sky\"\n"
      "writes  = { color = \"scene.color\", depth = \"scene.depth\" }\n";
  kind.writes = {{"color", true, "Linear light, nits"}, {"depth", false, "Depth; without it nothing hides anything"}};
  kind.own_reads = true;
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    Forward options;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), options, problems);
    options.name = source.name.name;
    options.scene = source.scene;
    options.reads = source.reads;
    if (const TargetUse* color = find_write(source, "color")) options.color = *color;
    if (const TargetUse* depth = find_write(source, "depth")) options.depth = *depth;
    Pass pass = forward(options, source.name.place);
    // A missing view was told by the keys already.
    if (options.view.empty()) pass.problems = {};
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
