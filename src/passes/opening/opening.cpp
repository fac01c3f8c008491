#include <periscena/passes/opening.h>

#include "draw/screen/screen_program.h"
#include "draw/surfaces/surface_draws.h"
#include "draw/surfaces/surface_program.h"
#include "passes/shared_keys.h"

#include <fmt/format.h>

namespace periscena::passes {
namespace {

/// The stencil's bit of pixels that are being opened, until they get their window's number.
constexpr std::uint32_t opening_bit = 0x80;

/// Of pixels that are where the pass may draw: the bit is set, once.
gl::StencilState marking(const PlannedPass& pass) {
  return {.test = true,
          .compare = gl::Compare::equal,
          .reference = static_cast<std::uint32_t>(pass.declared->within),
          .write_mask = opening_bit,
          .pass = gl::StencilAction::invert};
}

/// Of pixels that are marked: the bit goes, and the number comes.
gl::StencilState numbering(const PlannedPass& pass) {
  return {.test = true,
          .compare = gl::Compare::not_equal,
          .reference = static_cast<std::uint32_t>(pass.declared->opening),
          .read_mask = opening_bit,
          .pass = gl::StencilAction::replace};
}

class OpeningWork final : public gl::PassWork {
 public:
  OpeningWork(const Opening& options, gl::PassSetup& setup)
      : draws_({.scene = options.scene,
                .view = options.view,
                .objects = {options.tags, options.without_tags, options.variant},
                .receivers = {},
                .without_receivers = {},
                .over_depth = true,
                .stencil = marking(setup.pass())},
               setup),
        programs_(options.name, pass_shader("periscena/opening.frag"), options.folder, draws_, setup.device()),
        far_(setup.device(), options.name + ": far", pass_shader("periscena/far.frag")) {
    far_.set("far", draws_.camera().depth == DepthOrder::ordinary ? 1.0f : 0.0f);
  }

  void resize(gl::PassSetup& setup) override { draws_.resize(setup); }
  const Camera* camera() const override { return &draws_.camera(); }

  void run(gl::PassContext& context) override {
    draws_.update(context);
    draws_.draw(context, [&](const draw::MaterialState&, const batch::Run& run) {
      programs_.use(context, *draws_.buffers(), run.state);
    });
    gl::PipelineState far;
    far.depth = {.test = true, .write = true, .compare = gl::Compare::always};
    far.stencil = numbering(context.pass());
    far_.draw(context, far);
  }

 private:
  draw::SurfaceDraws draws_;
  draw::SurfacePrograms programs_;
  draw::ScreenProgram far_;
};

void finish_opening(const Opening& options, Pass& pass) {
  pass.check_targets = [name = options.name](std::span<const WrittenTarget> targets, Diagnostics& problems) {
    if (targets.empty() || info(targets[0].format).stencil) return;
    problems.error("no-stencil", targets[0].place,
                   fmt::format("pass \"{}\" marks its window in the stencil of \"{}\", and {} has none", name,
                               targets[0].name, info(targets[0].format).name),
                   "format = \"depth32f_stencil8\"");
  };
  pass.work = gl::work<OpeningWork>(options);
}

const Kind<Opening>& opening_said() {
  Keys<Opening> keys;
  keys.key("view", &Opening::view, {.required = true}, view_sentence);
  add_object_keys(keys, "The window: objects that have one of these tags, or stand below one; left out, all; [], none");
  static const Kind<Opening> kind{
      .name = "opening",
      .sentence =
          "Opens a window into elsewhere: where some objects are seen, what passes draw that are `inside` of it shows.",
      .example =
          "[[pass]]\nname   = \"pane\"\nkind   = \"opening\"\nview   = \"towpath\"\ntags   = [\"pane\"]\nwrites = { "
          "depth = \"scene.depth\" }\n\n"
          "[[pass]]\nname        = \"night behind it\"\nkind        = \"sky\"\ninside      = \"pane\"\nview        = "
          "\"towpath\"\nenvironment = "
          "\"night\"\nwrites      = { color = \"scene.color\" }\n",
      .reads = {},
      .writes = {{{"depth", Need::required,
                   "Depth with stencil, such as depth32f_stencil8, that the window's surroundings were drawn into"},
                  &Opening::depth}},
      .keys = keys,
      .finish = finish_opening,
      .check = [](const Opening&, Pass& pass) { pass.opens = true; }};
  return kind;
}

}  // namespace

Pass opening(const Opening& options, Place place) {
  return opening_said().make(options, std::move(place));
}

Pass opening(const Defaults& defaults, Opening options, Place place) {
  return opening_said().make(defaults, std::move(options), std::move(place));
}

PassKind opening_kind() {
  return opening_said().kind();
}

}  // namespace periscena::passes
