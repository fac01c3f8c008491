#include <periscena/passes/smooth_edges.h>

#include "draw/screen/screen_program.h"
#include "passes/shared_keys.h"

namespace periscena::passes {
namespace {

class SmoothEdgesWork final : public gl::PassWork {
 public:
  SmoothEdgesWork(const SmoothEdges& options, gl::PassSetup& setup)
      : name_(options.name),
        brightness_(setup.device(), options.name, pass_shader("periscena/brightness.frag")),
        program_(setup.device(), options.name, pass_shader("periscena/smooth_edges.frag"),
                 options.way == EdgeWay::quick ? std::vector<std::string>{"QUICK"} : std::vector<std::string>{}) {
    setup.match_outputs(program_.program());
    program_.set("threshold", options.threshold);
    program_.set("reach", options.reach);
  }

  void run(gl::PassContext& context) override {
    const gl::Texture& from = context.read(0);
    if (!bright_.fits(from.width(), from.height()))
      bright_.resize(from.width(), from.height(), Format::r16f, name_ + ": brightness");
    brightness_.put("from", from, samplers_.nearest);
    bright_.draw_into(context.state());
    brightness_.draw(context);
    program_.put("from", from, samplers_.linear);
    program_.put("brightness", bright_.texture(), samplers_.nearest);
    program_.draw_output(context);
  }

 private:
  std::string name_;
  draw::ScreenProgram brightness_, program_;
  draw::OwnTarget bright_;
  draw::ScreenSamplers samplers_;
};

void finish_smooth_edges(const SmoothEdges& options, Pass& pass) {
  pass.takes = pass.makes = LightRange::screen;
  pass.work = gl::work<SmoothEdgesWork>(options);
}

const Kind<SmoothEdges>& smooth_edges_said() {
  static const Kind<SmoothEdges> kind{
      .name = "smooth_edges",
      .sentence = "Smooths the edges of a finished picture that was drawn with one sample a pixel.",
      .example =
          "[[pass]]\nname   = \"edges\"\nkind   = \"smooth_edges\"\nway    = \"shapes\"\nreads  = { from = \"picture\" "
          "}\nwrites = { color = \"output\" }\n",
      .reads = {{{"from", Need::required, "Linear light, 0..1, of the size of what is written"}, &SmoothEdges::from}},
      .writes = {{{"color", Need::required, "0..1, linear: for a format that encodes to sRGB, or a floating one"},
                  &SmoothEdges::color,
                  whole_picture()}},
      .keys = Keys<SmoothEdges>()
                  .key("way", &SmoothEdges::way, {},
                       "quick: a few fetches along the edge, cheap and a little soft; shapes: each step of an edge is "
                       "followed to its ends and covers as much as the straight line between them")
                  .key("threshold", &SmoothEdges::threshold, {.minimum = 0.001, .maximum = 1},
                       "What differs by less in brightness, encoded, is no edge")
                  .key("reach", &SmoothEdges::reach, {.unit = "pixels", .minimum = 1, .maximum = 64},
                       "Of shapes: how far an edge is followed to either side"),
      .finish = finish_smooth_edges};
  return kind;
}

}  // namespace

const std::vector<std::string>& choices_of(EdgeWay) {
  static const std::vector<std::string> names{"quick", "shapes"};
  return names;
}

Pass smooth_edges(const SmoothEdges& options, Place place) {
  return smooth_edges_said().make(options, std::move(place));
}

PassKind smooth_edges_kind() {
  return smooth_edges_said().kind();
}

}  // namespace periscena::passes
