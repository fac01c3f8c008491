#include "passes/forward/forward.h"

#include "passes/shading/lighting.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/gl/sampler.h>
#include <periscena/gl/shader_interface.h>

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

constexpr std::size_t most_pictures = 4;

LightingChoice lighting_of(const Forward& options) {
  return {options.lights, options.environment, options.fog, options.cache};
}

/// forward.frag, with the material's own GLSL behind it.
gl::ShaderText fragment_text(const std::filesystem::path& folder, const std::string& surface) {
  if (surface.empty()) return gl::ShaderText::embedded("periscena/forward.frag", pass_shaders());
  const std::string file = std::filesystem::absolute(folder / surface).string();
  return gl::ShaderText::from_text(
      surface + " in a lit pass",
      "#define OWN_SURFACE\n#include \"periscena/forward.frag\"\n#include \"" + file + "\"\n", pass_shaders());
}

std::vector<std::string> names_of(const std::vector<Reference>& references) {
  std::vector<std::string> names;
  for (const Reference& reference : references) names.push_back(reference.name);
  return names;
}

/// The program of one surface, and what it samples.
struct SurfaceProgram {
  gl::Program program;
  BoundTextures textures;  ///< those of the sky stay, those of maps and pictures are put in for each draw
  std::array<std::size_t, map_count> map_units{};
  std::array<std::size_t, most_pictures> picture_units{};

  SurfaceProgram(const gl::ProgramDescription& description, const Lighting& lighting)
      : program(description), textures(program) {
    program.expect_block(CameraBlock::layout());
    program.expect_block(ObjectBlock::layout());
    for (std::size_t i = 0; i < map_count; ++i)
      map_units[i] = static_cast<std::size_t>(program.sampler_unit(fmt::format("{}s", material_maps[i].name)));
    for (std::size_t i = 0; i < most_pictures; ++i)
      picture_units[i] = static_cast<std::size_t>(program.sampler_unit(fmt::format("picture_{}", i + 1)));
    lighting.put_textures(program, textures);
  }

  void put(std::size_t unit, std::uint32_t texture, std::uint32_t sampler) {
    textures.textures[unit] = texture;
    textures.samplers[unit] = sampler;
  }
};

class ForwardWork final : public gl::PassWork {
 public:
  ForwardWork(const Forward& options, gl::PassSetup& setup)
      : scene_(SceneBuffers::shared(setup, options.scene)), lighting_(setup, scene_, lighting_of(options)) {
    make_programs(options, setup);
    find_pictures(options);
    dress_ = scene_->dress(options.scene->find_variant(options.variant.name));
    choose_objects(options);
    view_ = options.scene->find_view(options.view.name)->camera;
    resize(setup);
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
    lighting_.update();
    if (scene_->moved() || stale_) list_nodes();
    stale_ = false;
    if (draws_.empty()) return;
    gl::State& state = context.state();
    state.bind_uniform_block(gl::binding::camera_block, camera_->name(), 0, sizeof(CameraBlock));
    scene_->bind(state, *dress_);
    lighting_.bind(state);
    for (const batch::Run& run : list_.runs()) {
      set_material_state(context, scene_->states()[run.state]);
      state_.clockwise_front = run.mirrored;
      state.apply(state_);
      context.draw_indirect(scene_->vertices(), commands_, run.first, run.count, scene_->index_bytes(),
                            static_cast<gl::Vertices>(run.primitive));
    }
  }

 private:
  /// One for each GLSL that materials bring along; the first is without.
  void make_programs(const Forward& options, gl::PassSetup& setup) {
    const gl::ShaderText vertex = gl::ShaderText::embedded("periscena/forward.vert", pass_shaders());
    for (std::size_t i = 0; i <= scene_->surfaces().size(); ++i) {
      const std::string surface = i == 0 ? "" : scene_->surfaces()[i - 1];
      const std::string name = i == 0 ? options.name : fmt::format("{}, {}", options.name, surface);
      SurfaceProgram& made = programs_.emplace_back(
          gl::ProgramDescription{name, vertex, fragment_text(options.folder, surface)}, lighting_);
      setup.match_outputs(made.program);
    }
  }

  /// Which reads go to which of the programs' pictures. What no material shows is not bound.
  void find_pictures(const Forward& options) {
    int present = 0;
    for (std::size_t i = 0; i < scene_->shown().size(); ++i) {
      for (std::size_t k = 0; k < options.reads.size(); ++k) {
        if (options.reads[k].slot != scene_->shown()[i]) continue;
        present |= 1 << i;
        pictures_.push_back({k, i});
      }
    }
    for (SurfaceProgram& surface : programs_) surface.program.set(surface.program.uniform<int>("pictures"), present);
    if (!pictures_.empty()) linear_ = gl::Sampler(Filter::linear, Wrap::clamp, "linear");
  }

  void choose_objects(const Forward& options) {
    chosen_ = options.scene->chosen({names_of(options.tags), names_of(options.without_tags)});
    if (const Variant* variant = options.scene->find_variant(options.variant.name)) {
      const std::vector<bool> in_variant = options.scene->chosen(variant->objects);
      for (std::size_t i = 0; i < chosen_.size(); ++i) chosen_[i] = chosen_[i] && in_variant[i];
    }
  }

  void set_material_state(const gl::PassContext& context, const MaterialState& material) {
    gl::State& state = context.state();
    SurfaceProgram& surface = programs_[material.surface];
    state.use_program(surface.program.name());
    for (std::size_t i = 0; i < map_count; ++i) {
      surface.put(surface.map_units[i], scene_->textures().array(material.arrays[i]).name(),
                  scene_->textures().sampler_at(material.samplers[i]).name());
    }
    for (const Picture& picture : pictures_)
      surface.put(surface.picture_units[picture.number], context.read(picture.read).name(), linear_.name());
    surface.textures.bind(state);
    state_.cull = material.double_sided ? gl::CullFaces::none : gl::CullFaces::back;
    state_.blend.on = material.blended;
    state_.depth.write = state_.depth.test && !material.blended;
  }

  void list_nodes() {
    if (windings_ != scene_->windings()) list_.sort(scene_->scene(), scene_->mirrored(), dress_->traits, chosen_);
    windings_ = scene_->windings();
    list_.cull(scene_->bounds(), frustum_, view_.eye);
    const auto visible = list_.nodes();
    // A node's command never changes, so equal nodes are equal commands.
    if (std::equal(visible.begin(), visible.end(), listed_.begin(), listed_.end())) return;
    listed_.assign(visible.begin(), visible.end());
    draws_.clear();
    for (const std::uint32_t node : listed_) draws_.push_back(scene_->command(node));
    if (!draws_.empty()) commands_.write(0, std::as_bytes(std::span(draws_)));
  }

  struct Picture {
    std::size_t read;    ///< index of the pass' read
    std::size_t number;  ///< of the programs' pictures
  };

  std::shared_ptr<SceneBuffers> scene_;
  Lighting lighting_;
  std::vector<SurfaceProgram> programs_;
  std::shared_ptr<const Dress> dress_;
  std::vector<bool> chosen_;  ///< by node
  gl::PipelineState state_;
  std::vector<Picture> pictures_;
  gl::Sampler linear_;
  Camera view_;
  Frustum frustum_;
  std::shared_ptr<const gl::Buffer> camera_;
  gl::Buffer commands_;
  batch::DrawList list_;
  bool stale_ = true;                  ///< does the view differ from that of the list?
  std::uint64_t windings_ = 0;         ///< as of which the list is sorted
  std::vector<std::uint32_t> listed_;  ///< nodes that commands_ holds
  std::vector<gl::DrawCommand> draws_;
};

/// The keys of a frame file.
struct ForwardKeys {
  Reference view, environment, fog, variant;
  std::optional<std::vector<Reference>> lights;
  std::vector<Reference> tags, without_tags;
};

Keys<ForwardKeys> forward_keys() {
  Keys<ForwardKeys> keys;
  keys.key("view", &ForwardKeys::view, {.required = true}, "The view to look through")
      .key("lights", &ForwardKeys::lights, {}, "Lights, by their names or tags; left out, all of the scene")
      .key("environment", &ForwardKeys::environment, {}, "Light from all around; left out, none")
      .key("fog", &ForwardKeys::fog, {}, "Left out, none")
      .key("tags", &ForwardKeys::tags, {},
           "Only objects that have one of these tags, or stand below one; left out, all")
      .key("without_tags", &ForwardKeys::without_tags, {}, "But not those that have one of these, or stand below one")
      .key("variant", &ForwardKeys::variant, {}, "The scene in another dress");
  return keys;
}

/// A read that no material shows is most likely misspelt.
void expect_shown(const Forward& options, Diagnostics& problems) {
  if (!options.scene || options.reads.empty()) return;
  std::vector<std::string> shown;
  for (const Material& material : options.scene->materials()) {
    if (!material.shows.empty() && std::find(shown.begin(), shown.end(), material.shows) == shown.end())
      shown.push_back(material.shows);
  }
  if (shown.size() > most_pictures) {
    problems.error("too-many-pictures", {}, fmt::format("the scene's materials show {} targets", shown.size()),
                   fmt::format("a forward pass takes {} of them", most_pictures));
  }
  for (const Read& read : options.reads) {
    if (std::find(shown.begin(), shown.end(), read.slot) != shown.end()) continue;
    problems.error(
        "unknown-picture", read.place.known() ? read.place : read.target.reference.place,
        fmt::format("pass \"{}\" reads \"{}\", which no material shows", options.name, read.slot),
        shown.empty() ? fmt::format("give a material shows = \"{}\"", read.slot) : name_hint(read.slot, shown));
  }
}

/// What a material's own GLSL sets is light: what encodes there was most likely written for a finished picture.
void check_surface_colors(const Forward& options, Diagnostics& problems) {
  std::vector<std::string> looked_at;
  for (const Material& material : options.scene->materials()) {
    const std::string& surface = material.surface;
    if (surface.empty() || std::find(looked_at.begin(), looked_at.end(), surface) != looked_at.end()) continue;
    looked_at.push_back(surface);
    try {
      const auto place = gl::find_encoding(gl::ShaderText::file(options.folder / surface, pass_shaders()), "surface");
      if (!place) continue;
      problems.warning(
          "encoded-light", *place,
          fmt::format("the surface of material \"{}\" encodes to sRGB here, but its colours are linear", material.name),
          "leave them as they are: the picture is encoded once, at its end");
    } catch (const Error& error) {
      problems.append(error.diagnostics());
    }
  }
}

}  // namespace

Pass forward(const Forward& options, Place place) {
  Pass pass = pass_of_kind("forward", options.name, std::move(place));
  if (!options.color.empty())
    pass.writes.push_back({.slot = "color", .target = options.color, .coding = ColorCoding::light});
  if (!options.depth.empty()) pass.writes.push_back({"depth", options.depth});
  const std::string who = fmt::format("pass \"{}\"", options.name);
  expect_view(options.scene.get(), options.view, who, pass.problems);
  expect_lighting(options.scene.get(), lighting_of(options), who, pass.problems);
  expect_objects(options.scene.get(), {options.tags, options.without_tags, options.variant}, who, pass.problems);
  expect_shown(options, pass.problems);
  if (options.scene) check_surface_colors(options, pass.problems);
  pass.reads = options.reads;
  pass.shader = ShaderInterface{
      .source = "periscena/forward.frag", .outputs = {{"color", ValueKind::floating, 0}}, .samplers = {}};
  for (const Read& read : options.reads) pass.shader->samplers.push_back({read.slot});
  return with_work<ForwardWork>(std::move(pass), options);
}

PassKind forward_kind() {
  static const Keys<ForwardKeys> keys = forward_keys();
  PassKind kind;
  kind.name = "forward";
  kind.sentence =
      "Draws the scene as a view sees it: each surface lit by its material as it is drawn, in linear light, through "
      "fog.";
  kind.example =
      "[[pass]]\nname   = \"lock\"\nkind   = \"forward\"\nview   = \"towpath\"\nlights = [\"sun\", \"sky\"]\n"
      "writes = { color = \"scene.color\", depth = \"scene.depth\" }\n";
  kind.writes = {{"color", true, "Linear light, nits, multiplied with alpha"},
                 {"depth", false, "Depth; without it nothing hides anything"}};
  kind.own_reads = true;
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    ForwardKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    Forward options;
    options.name = source.name.name;
    options.scene = source.scene;
    options.view = given.view;
    if (given.lights) options.lights = *given.lights;
    options.environment = given.environment;
    options.fog = given.fog;
    options.tags = given.tags;
    options.without_tags = given.without_tags;
    options.variant = given.variant;
    options.reads = source.reads;
    options.folder = source.folder;
    options.cache = default_cache();
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
