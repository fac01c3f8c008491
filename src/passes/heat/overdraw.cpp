#include <periscena/passes/overdraw.h>

#include "draw/surfaces/surface_draws.h"
#include "draw/surfaces/surface_program.h"
#include "passes/shared_keys.h"

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
        programs_(options.name, pass_shader("periscena/overdraw.frag"), options.folder, draws_, setup.device()) {
    programs_.match_outputs(setup);
  }

  void resize(gl::PassSetup& setup) override { draws_.resize(setup); }
  const Camera* camera() const override { return &draws_.camera(); }

  void run(gl::PassContext& context) override {
    draws_.update(context);
    draws_.draw(context, [&](const draw::MaterialState&, const batch::Run& run) {
      programs_.use(context, *draws_.buffers(), run.state);
    });
  }

 private:
  draw::SurfaceDraws draws_;
  draw::SurfacePrograms programs_;
};

Keys<Overdraw> overdraw_keys() {
  Keys<Overdraw> keys;
  keys.key("view", &Overdraw::view, {.required = true}, view_sentence);
  add_object_keys(keys)
      .key("batching", &Overdraw::batching, {}, batching_sentence)
      .key("culling", &Overdraw::culling, {}, "Who leaves out what does not show: see `forward`");
  return keys;
}

const Kind<Overdraw>& overdraw_said() {
  static const Kind<Overdraw> kind{
      .name = "overdraw",
      .sentence = "Counts how often surfaces are shaded at each pixel, for `heat` to show.",
      .example =
          "[[pass]]\nname   = \"count surfaces\"\nkind   = \"overdraw\"\nview   = \"towpath\"\n"
          "writes = { count = \"counts\", depth = \"counts.depth\" }\n",
      .reads = {},
      .writes = {{{"count", Need::required, "How many, in a floating format"}, &Overdraw::count},
                 {{"depth", Need::optional, "Depth; without it what is hidden counts, too"}, &Overdraw::depth}},
      .keys = overdraw_keys(),
      .finish = [](const Overdraw& options, Pass& pass) { pass.work = gl::work<OverdrawWork>(options); }};
  return kind;
}

}  // namespace

Pass overdraw(const Overdraw& options, Place place) {
  return overdraw_said().make(options, std::move(place));
}

Pass overdraw(const Defaults& defaults, Overdraw options, Place place) {
  return overdraw_said().make(defaults, std::move(options), std::move(place));
}

PassKind overdraw_kind() {
  return overdraw_said().kind();
}

}  // namespace periscena::passes
