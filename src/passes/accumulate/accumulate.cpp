#include <periscena/passes/accumulate.h>

#include "draw/scene/view_camera.h"
#include "draw/screen/screen_program.h"
#include "passes/shared_keys.h"

#include <periscena/passes/velocity.h>

namespace periscena::passes {
namespace {

constexpr double longest_step = 0.25;  // seconds

class AccumulateWork final : public gl::PassWork {
 public:
  AccumulateWork(const Accumulate& options, gl::PassSetup& setup)
      : cuts_(options.cuts),
        view_(setup, options.scene, options.view),
        program_(setup.device(), options.name, pass_shader("periscena/accumulate.frag")) {
    setup.match_outputs(program_.program());
    program_.set("nearer", view_.camera().depth == DepthOrder::ordinary ? -1.0f : 1.0f);
    program_.set("most", static_cast<float>(options.frames));
    program_.set("white", options.white);
  }

  void resize(gl::PassSetup& setup) override { view_.resize(setup); }
  const Camera* camera() const override { return &view_.camera(); }

  void run(gl::PassContext& context) override {
    view_.update(context);
    program_.set("goes_on", goes_on(context.time()) ? 1.0f : 0.0f);
    constexpr const char* samplers[] = {"from", "velocity", "depth"};
    for (std::size_t i = 0; i < std::size(samplers); ++i) program_.put(samplers[i], context.read(i), samplers_.nearest);
    program_.put("last", context.read(3), samplers_.linear);
    program_.put("last_count", context.read(4), samplers_.linear);
    program_.draw(context);
  }

 private:
  bool goes_on(const gl::FrameTime& time) const {
    const double step = time.seconds - time.before;
    if (time.begins || step < 0 || step > longest_step) return false;
    return std::none_of(cuts_.begin(), cuts_.end(),
                        [&](double cut) { return time.before < cut && cut <= time.seconds; });
  }

  std::vector<float> cuts_;
  draw::ViewCamera view_;
  draw::ScreenProgram program_;
  draw::ScreenSamplers samplers_;
};

void finish_accumulate(const Accumulate& options, Pass& pass) {
  const View* view = options.scene ? options.scene->find_view(options.view.name) : nullptr;
  if (!view || options.color.empty() || options.count.empty()) return;
  want_motion(pass, options.view, WantsMotion::Since::last_frame);
  for (std::size_t i = 0; i < pass.reads.size(); ++i) pass.shader->samplers[i].depth = pass.reads[i].slot == "depth";
  for (const auto& [slot, target] : {std::pair("last", options.color), std::pair("last_count", options.count)}) {
    pass.reads.push_back({.slot = slot, .target = target, .history = 1});
    pass.shader->samplers.push_back({.name = slot});
  }
  pass.makes = LightRange::same;
  pass.jitter = Jitter{options.view.name, options.places};
  pass.work = gl::work<AccumulateWork>(options);
}

const Kind<Accumulate>& accumulate_said() {
  static const Kind<Accumulate> kind{
      .name = "accumulate",
      .sentence =
          "The mean of frames in a row, each drawn a little beside the other, and fetched from where things were: "
          "smooth edges over time.",
      .example =
          "[[pass]]\nname   = \"over time\"\nkind   = \"accumulate\"\nview   = \"towpath\"\nreads  = { from = "
          "\"picture\", velocity = \"scene.velocity\", depth = \"scene.depth\" "
          "}\nwrites = { color = \"steady\", count = \"steady.count\" }\n",
      .reads = {{{"from", Need::required, "Linear light, before or after tone mapping"}, &Accumulate::from},
                {{"velocity", Need::required, "Of a `velocity` pass, since the frame before"}, &Accumulate::velocity},
                {{"depth", Need::required, "Depth of the view"}, &Accumulate::depth}},
      .writes = {{{"color", Need::required, "The same, of which it reads the last frame's; of a floating format"},
                  &Accumulate::color,
                  whole_picture()},
                 {{"count", Need::required, "Of how many frames each pixel is the mean: r16f"},
                  &Accumulate::count,
                  {.covering = Covering::replaces, .shows = Shows::counts}}},
      .keys =
          Keys<Accumulate>()
              .key("view", &Accumulate::view, {.required = true},
                   "The view that it was seen through; all passes that look through it are drawn where this one says")
              .key("places", &Accumulate::places, {.minimum = 1, .maximum = 256},
                   "Places in a pixel that frames in a row are drawn at; 1: its middle alone")
              .key("frames", &Accumulate::frames, {.minimum = 1, .maximum = 1000},
                   "A pixel is the mean of so many, at most; where something moves, of 8")
              .key("white", &Accumulate::white, {.unit = "nits", .minimum = 0},
                   "Of light before tone mapping: what is this bright counts half; 0: all the same")
              .key("cuts", &Accumulate::cuts, {.unit = "seconds"}, "Absolute times at which another picture begins"),
      .finish = finish_accumulate};
  return kind;
}

}  // namespace

Pass accumulate(const Accumulate& options, Place place) {
  return accumulate_said().make(options, std::move(place));
}

Pass accumulate(const Defaults& defaults, Accumulate options, Place place) {
  return accumulate_said().make(defaults, std::move(options), std::move(place));
}

PassKind accumulate_kind() {
  return accumulate_said().kind();
}

}  // namespace periscena::passes
