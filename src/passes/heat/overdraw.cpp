#include "passes/heat/overdraw.h"

#include "passes/shading/surface_draws.h"
#include "passes/shading/surface_program.h"

#include <fmt/format.h>

namespace periscena::passes {
namespace {

class OverdrawWork final : public gl::PassWork {
 public:
  OverdrawWork(const Overdraw& options, gl::PassSetup& setup)
      : draws_({.scene = options.scene,
                .view = options.view,
                .objects = {options.tags, options.without_tags, options.variant},
                .receivers = {},
                .without_receivers = {},
                .batching = options.batching,
                .culling = options.culling,
                .has_depth = !options.depth.empty(),
                .adds = true},
               setup),
        programs_(options.name, "periscena/overdraw.frag", options.folder, *draws_.buffers()) {
    programs_.match_outputs(setup);
  }

  void resize(gl::PassSetup& setup) override { draws_.resize(setup); }
  const Camera* camera() const override { return &draws_.camera(); }

  void run(gl::PassContext& context) override {
    draws_.update(context);
    draws_.draw(context, [&](const MaterialState& material, const batch::Run&) {
      programs_.use(context, *draws_.buffers(), material);
    });
  }

 private:
  SurfaceDraws draws_;
  SurfacePrograms programs_;
};

struct OverdrawKeys : SeenObjectKeys {
  std::string batching = "automatic", culling = "host";
};

Keys<OverdrawKeys> overdraw_keys() {
  auto keys = seen_object_keys<OverdrawKeys>();
  keys.key("batching", &OverdrawKeys::batching, {.choices = batch::batching_names()}, batching_sentence)
      .key("culling", &OverdrawKeys::culling, {.choices = culling_names}, "Who leaves out what does not show: see `forward`");
  return keys;
}

}  // namespace

Pass overdraw(const Overdraw& options, Place place) {
  Pass pass = pass_of_kind("overdraw", options.name, std::move(place));
  if (!options.count.empty()) pass.writes.push_back({"count", options.count});
  if (!options.depth.empty()) pass.writes.push_back({"depth", options.depth});
  const std::string who = fmt::format("pass \"{}\"", options.name);
  expect_view(options.scene.get(), options.view, who, pass.problems);
  expect_objects(options.scene.get(), {options.tags, options.without_tags, options.variant}, who, pass.problems);
  pass.shader = ShaderInterface{.source = "periscena/overdraw.frag", .outputs = {{"count", ValueKind::floating, 0}}, .samplers = {}};
  return with_work<OverdrawWork>(std::move(pass), options);
}

PassKind overdraw_kind() {
  static const Keys<OverdrawKeys> keys = overdraw_keys();
  PassKind kind;
  kind.name = "overdraw";
  kind.sentence = "Counts how often surfaces are shaded at each pixel, for `heat` to show.";
  kind.example =
      "[[pass]]\nname   = \"count surfaces\"\nkind   = \"overdraw\"\nview   = \"towpath\"\n"
      "writes = { count = \"counts\", depth = \"counts.depth\" }\n";
  kind.writes = {{"count", true, "How many, in a floating format"}, {"depth", false, "Depth; without it what is hidden counts, too"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    OverdrawKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    Overdraw options{.name = source.name.name, .scene = source.scene, .view = given.view, .tags = given.tags, .without_tags = given.without_tags,
                     .variant = given.variant, .batching = batch::parse_batching(given.batching),
                     .culling = given.culling == "device" ? Culling::device : Culling::host, .folder = source.folder};
    if (const TargetUse* count = find_write(source, "count")) options.count = *count;
    if (const TargetUse* depth = find_write(source, "depth")) options.depth = *depth;
    Pass pass = overdraw(options, source.name.place);
    // A missing view was told by the keys already.
    if (options.view.empty()) pass.problems = {};
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
