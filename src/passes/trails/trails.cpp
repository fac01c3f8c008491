#include <periscena/passes/trails.h>

#include "draw/screen/screen_program.h"
#include "passes/shared_keys.h"

#include <cmath>

namespace periscena::passes {
namespace {

class TrailsWork final : public gl::PassWork {
 public:
  TrailsWork(const Trails& options, gl::PassSetup& setup)
      : seconds_(options.seconds),
        program_(
            setup.device(), options.name, pass_shader("periscena/trails.frag"),
            options.mix == TrailMix::brighter ? std::vector<std::string>{"BRIGHTER"} : std::vector<std::string>{}) {
    setup.match_outputs(program_.program());
  }

  void run(gl::PassContext& context) override {
    const double passed = context.time().seconds - before_;
    const bool begins = context.time().begins || passed < 0;
    before_ = context.time().seconds;
    program_.set("keep", begins ? 0.0f : static_cast<float>(std::exp(-passed / seconds_)));
    program_.put("from", context.read(0), samplers_.fitting(context.read(0), context.pass()));
    program_.put("last", context.read(1), samplers_.nearest);
    program_.draw(context);
  }

 private:
  double seconds_, before_ = 0;
  draw::ScreenProgram program_;
  draw::ScreenSamplers samplers_;
};

void finish_trails(const Trails& options, Pass& pass) {
  if (options.color.empty()) return;
  pass.reads.push_back({.slot = "last", .target = options.color, .history = 1});
  pass.shader->samplers.push_back({.name = "last"});
  pass.makes = LightRange::same;
  pass.work = gl::work<TrailsWork>(options);
}

const Kind<Trails>& trails_said() {
  static const Kind<Trails> kind{
      .name = "trails",
      .sentence = "What was seen before fades, at the same pace at any frame rate: trails of light, or smears.",
      .example =
          "[[pass]]\nname    = \"light trails\"\nkind    = \"trails\"\nseconds = 0.8\nreads   = { from = "
          "\"scene.color\" }\nwrites  = { color = \"scene.trails\" }\n",
      .reads = {{{"from", Need::required, "Linear light"}, &Trails::from}},
      .writes = {{{"color", Need::required, "Linear light, of which it reads the last frame's; of a floating format"},
                  &Trails::color,
                  whole_picture()}},
      .keys = Keys<Trails>()
                  .key("seconds", &Trails::seconds, {.unit = "seconds", .minimum = 0, .above_minimum = true},
                       "Until 1 / e of it is left")
                  .key("mix", &Trails::mix, {}, "brighter: the brighter of what was and what is; mean: a running mean"),
      .finish = finish_trails};
  return kind;
}

}  // namespace

const std::vector<std::string>& choices_of(TrailMix) {
  static const std::vector<std::string> names{"brighter", "mean"};
  return names;
}

Pass trails(const Trails& options, Place place) {
  return trails_said().make(options, std::move(place));
}

PassKind trails_kind() {
  return trails_said().kind();
}

}  // namespace periscena::passes
