#include <periscena/passes/shrink.h>

#include "draw/screen/screen_program.h"
#include "passes/shared_keys.h"

#include <fmt/format.h>

#include <cmath>

namespace periscena::passes {
namespace {

class ShrinkWork final : public gl::PassWork {
 public:
  ShrinkWork(const Shrink& options, gl::PassSetup& setup)
      : program_(setup.device(), options.name, pass_shader("periscena/shrink.frag"), defines(options.filter)) {
    setup.match_outputs(program_.program());
  }

  void run(gl::PassContext& context) override {
    program_.put("from", context.read(0), samplers_.nearest);
    program_.draw(context);
  }

 private:
  static std::vector<std::string> defines(ShrinkFilter filter) {
    const char* wide = filter == ShrinkFilter::box ? "0.5" : filter == ShrinkFilter::tent ? "1.0" : "2.0";
    return {fmt::format("FILTER {}", static_cast<int>(filter)), fmt::format("WIDE {}", wide)};
  }

  draw::ScreenProgram program_;
  draw::ScreenSamplers samplers_;
};

void finish_shrink(const Shrink& options, Pass& pass) {
  pass.makes = LightRange::same;
  pass.work = gl::work<ShrinkWork>(options);
}

const Kind<Shrink>& shrink_said() {
  static const Kind<Shrink> kind{
      .name = "shrink",
      .sentence =
          "Brings a picture that was drawn larger down to size, by a good filter and any factor: supersampling.",
      .example =
          "[target.large]\nformat = \"rgba16f\"\nscale  = 2\n\n[[pass]]\nname   = \"to size\"\nkind   = "
          "\"shrink\"\nreads  = { from = \"large\" }\nwrites = { color = "
          "\"output\" }\n",
      .reads = {{{"from", Need::required, "Linear light, of any size"}, &Shrink::from}},
      .writes = {{{"color", Need::required, "Linear light"}, &Shrink::color, whole_picture()}},
      .keys = Keys<Shrink>().key("filter", &Shrink::filter, {},
                                 "box: the mean of what a pixel covers; tent: wider and softer; mitchell: sharp, next "
                                 "to no rims; lanczos: sharpest, with rims beside hard edges"),
      .finish = finish_shrink};
  return kind;
}

}  // namespace

const std::vector<std::string>& choices_of(ShrinkFilter) {
  static const std::vector<std::string> names{"box", "tent", "mitchell", "lanczos"};
  return names;
}

float shrink_weight(ShrinkFilter filter, float distance) {
  const float x = std::abs(distance);
  switch (filter) {
    case ShrinkFilter::box: return x <= 0.5f ? 1.0f : 0.0f;
    case ShrinkFilter::tent: return std::max(1 - x, 0.0f);
    case ShrinkFilter::mitchell:
      if (x < 1) return (7 * x * x * x - 12 * x * x + 16.0f / 3) / 6;
      return x < 2 ? (-7.0f / 3 * x * x * x + 12 * x * x - 20 * x + 32.0f / 3) / 6 : 0.0f;
    case ShrinkFilter::lanczos: break;
  }
  const float a = 3.14159265f * x, b = 0.5f * a;
  if (x < 1e-4f) return 1;
  return x < 2 ? std::sin(a) * std::sin(b) / (a * b) : 0.0f;
}

Pass shrink(const Shrink& options, Place place) {
  return shrink_said().make(options, std::move(place));
}

PassKind shrink_kind() {
  return shrink_said().kind();
}

}  // namespace periscena::passes
