#include <periscena/passes/geometry.h>

#include "draw/surfaces/surface_draws.h"
#include "draw/surfaces/surface_program.h"
#include "passes/shared_keys.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace periscena::passes {
namespace {

/// What a geometry buffer has targets for.
struct Output {
  const char* slot;
  const char* define;
  ValueKind kind;
  int channels, bits;  ///< that a target has at least, in all and each
  const char* format;  ///< compact
  TargetUse Geometry::*target;
  Shows shows;
  const char* sentence;
};
const std::array<Output, 6> all_outputs{{
    {"normal", "WRITES_NORMAL", ValueKind::floating, 4, 16, "rgba16", &Geometry::normal, Shows::directions,
     "Normals of the surface and of the mesh, octahedral: rgba16"},
    {"base_color", "WRITES_BASE_COLOR", ValueKind::floating, 3, 8, "rgba8_srgb", &Geometry::base_color, Shows::shares,
     "Share of light sent back: rgba8_srgb"},
    {"material", "WRITES_MATERIAL", ValueKind::floating, 4, 8, "rgba8", &Geometry::material, Shows::surface_kind,
     "Roughness, metalness, occlusion, kind of shading: rgba8"},
    {"emission", "WRITES_EMISSION", ValueKind::floating, 3, 10, "rgba16f", &Geometry::emission, Shows::what_it_holds,
     "Light of its own, nits: rgba16f"},
    {"id", "WRITES_ID", ValueKind::unsigned_integer, 1, 16, "r32ui", &Geometry::id, Shows::object_ids,
     "Number of the object, from 1; 0 where none is: r32ui"},
    {"position", "WRITES_POSITION", ValueKind::floating, 3, 32, "rgba32f", &Geometry::position, Shows::places,
     "World position, metres: rgba32f; without it, `deferred` takes it from depth"},
}};

/// What is kept of surfaces wants room.
void expect_targets(const std::string& who, const std::vector<const Output*>& outputs,
                    std::span<const WrittenTarget> targets, Diagnostics& problems) {
  for (std::size_t i = 0; i < targets.size(); ++i) {
    const WrittenTarget& target = targets[i];
    if (i >= outputs.size()) continue;  // depth
    const FormatInfo& format = info(target.format);
    const bool bits = target.format == Format::r11g11b10f || format.channel_bits() >= outputs[i]->bits;
    if (format.channels >= outputs[i]->channels && (bits || outputs[i]->bits <= 8)) continue;
    problems.error("bad-geometry-format", target.place,
                   fmt::format("{} writes its {} to \"{}\", and {} can't hold it", who, outputs[i]->slot, target.name,
                               format.name),
                   fmt::format("format = \"{}\"", outputs[i]->format));
  }
}

draw::SurfaceChoice surfaces_of(const Geometry& options) {
  const bool merges = options.batching == batch::Batching::automatic || options.batching == batch::Batching::merged;
  return {.scene = options.scene,
          .view = options.view,
          .objects = {options.tags, options.without_tags, options.variant},
          .receivers = options.receivers,
          .without_receivers = options.without_receivers,
          .batching = merges && !options.id.empty() ? batch::Batching::unmerged : options.batching,
          .culling = options.culling,
          .has_depth = true,
          .surfaces = Surfaces::opaque,
          .depth_first = options.depth_first};
}

/// A surface's program in a geometry pass.
struct GeometryProgram : draw::SurfaceProgram {
  std::optional<gl::Uniform<int>> objects_before = {};

  using draw::SurfaceProgram::SurfaceProgram;
};

class GeometryWork final : public gl::PassWork {
 public:
  GeometryWork(const Geometry& options, gl::PassSetup& setup)
      : draws_(surfaces_of(options), setup), kinds_(draws_.kinds(options.programs)) {
    const draw::SceneBuffers& scene = *draws_.buffers();
    std::vector<std::string> defines;
    for (const Output& output : all_outputs) {
      if (!(options.*output.target).empty()) defines.push_back(output.define);
    }
    const gl::ShaderText vertex = pass_shader("periscena/surface.vert");
    const draw::SurfaceTexts texts(scene, setup.device(), options.folder);
    std::vector<gl::ProgramDescription> descriptions;
    for (const draw::SurfaceKind& kind : kinds_.kinds) {
      descriptions.push_back(texts.of(kind, options.name,
                                      options.id.empty() ? vertex : vertex.with_lines({"#define OBJECT_NUMBERS"}),
                                      pass_shader("periscena/geometry.frag"), defines));
    }
    setup.device().programs().prepare(descriptions);
    for (const gl::ProgramDescription& description : descriptions) {
      GeometryProgram& made = programs_.emplace_back(setup.device(), description);
      setup.match_outputs(made.program);
      draws_.put_texels(made.program, made.textures);
      if (!options.id.empty()) made.objects_before = made.program.uniform<int>("objects_before");
    }
  }

  void resize(gl::PassSetup& setup) override { draws_.resize(setup); }
  const Camera* camera() const override { return &draws_.camera(); }

  void run(gl::PassContext& context) override {
    draw::SceneBuffers& scene = *draws_.buffers();
    draws_.update(context);
    draws_.draw(context, [&](const draw::MaterialState& material, const batch::Run& run) {
      GeometryProgram& surface = programs_[kinds_.of_state[run.state]];
      surface.program.use(context.state());
      if (surface.objects_before)
        surface.program.set(*surface.objects_before, static_cast<int>(run.object_block * scene.objects_a_block()));
      surface.put_maps(scene, material);
      surface.textures.bind(context.state());
    });
  }

  void count_on_device(gl::Counts& counts) const override { draws_.count_on_device(counts); }
  Diagnostics diagnostics() const override { return draws_.buffers()->diagnostics(); }
  std::vector<gl::Choice> choices() const override {
    std::vector<gl::Choice> choices = draws_.choices();
    choices.push_back({"programs", kinds_.way});
    return choices;
  }
  std::vector<gl::Batch> batches() const override { return draws_.batches(); }

 private:
  draw::SurfaceDraws draws_;
  draw::SurfaceKinds kinds_;
  std::vector<GeometryProgram> programs_;
};

/// The keys of a frame file.
Keys<Geometry> geometry_keys() {
  Keys<Geometry> keys;
  keys.key("view", &Geometry::view, {.required = true}, view_sentence);
  add_object_keys(keys);
  add_receiver_keys(keys)
      .key("batching", &Geometry::batching, {}, batching_sentence)
      .key("culling", &Geometry::culling, {},
           "Who leaves out what does not show: see `forward`; the picture is the same")
      .key("programs", &Geometry::programs, {}, programs_sentence)
      .key("depth_first", &Geometry::depth_first, {}, depth_first_sentence);
  return keys;
}

std::vector<WriteSlot<Geometry>> geometry_writes() {
  std::vector<WriteSlot<Geometry>> writes;
  for (const Output& output : all_outputs) {
    const Write how{.mean = SampleMean::useless, .shows = output.shows};
    writes.push_back({{output.slot, Need::optional, output.sentence}, output.target, how, output.kind});
  }
  writes.push_back({{"depth", Need::required, "Depth; without it nothing hides anything"}, &Geometry::depth});
  return writes;
}

void finish_geometry(const Geometry& options, Pass& pass) {
  std::vector<const Output*> outputs;
  for (const Output& output : all_outputs) {
    if (!(options.*output.target).empty()) outputs.push_back(&output);
  }
  pass.check_targets = [who = fmt::format("pass \"{}\"", options.name), outputs](std::span<const WrittenTarget> targets,
                                                                                 Diagnostics& problems) {
    expect_targets(who, outputs, targets, problems);
  };
  pass.facts = GeometryFacts{
      {options.scene, options.view, {options.tags, options.without_tags, options.variant}, Surfaces::opaque}};
  pass.work = gl::work<GeometryWork>(options);
}

const Kind<Geometry>& geometry_said() {
  static const Kind<Geometry> kind{
      .name = "geometry",
      .sentence =
          "Draws what is known of surfaces before they are lit, into several targets at once, for passes that light "
          "each pixel once. Blended objects are left to forward passes.",
      .example =
          "[[pass]]\nname   = \"surfaces\"\nkind   = \"geometry\"\nview   = \"towpath\"\n"
          "writes = { normal = \"g.normal\", base_color = \"g.base_color\", material = \"g.material\", depth = "
          "\"g.depth\" }\n",
      .reads = {},
      .writes = geometry_writes(),
      .keys = geometry_keys(),
      .finish = finish_geometry};
  return kind;
}

}  // namespace

Pass geometry(const Geometry& options, Place place) {
  return geometry_said().make(options, std::move(place));
}

Pass geometry(const Defaults& defaults, Geometry options, Place place) {
  return geometry_said().make(defaults, std::move(options), std::move(place));
}

PassKind geometry_kind() {
  return geometry_said().kind();
}

}  // namespace periscena::passes
