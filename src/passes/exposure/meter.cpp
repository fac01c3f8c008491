#include <periscena/passes/meter.h>

#include "draw/screen/screen_program.h"
#include "passes/shared_keys.h"

#include <periscena/gl/bindings.h>

#include <fmt/format.h>

namespace periscena::passes {
namespace {

class MeterWork final : public gl::PassWork {
 public:
  MeterWork(const Meter& options, gl::PassSetup& setup)
      : count_(setup.device(), {.name = options.name, .compute = pass_shader("periscena/meter.comp")}),
        count_textures_(count_),
        keep_(setup.device(), options.name, pass_shader("periscena/meter.frag")),
        histogram_(gl::Buffer::writable(256 * sizeof(std::uint32_t), options.name)) {
    setup.match_outputs(keep_.program());
    const Vec2 range(options.lowest_ev100, options.highest_ev100);
    count_.set(count_.uniform<Vec2>("range"), range);
    keep_.set("range", range);
    keep_.set("leave_out", Vec2(options.leave_out_dark, options.leave_out_bright));
    keep_.set("speed", Vec2(options.speed_brighter, options.speed_darker));
  }

  void run(gl::PassContext& context) override {
    const gl::Texture& light = context.read(0);
    gl::State& state = context.state();
    state.bind_storage_block(gl::binding::histogram_storage, histogram_.name());
    count_textures_.put(count_, "light", light.name(), samplers_.nearest.name());
    count_.use(state);
    count_textures_.bind(state);
    const auto groups = [](int pixels) { return static_cast<std::uint32_t>((pixels + 63) / 64); };
    context.compute(groups(light.width()), groups(light.height()));
    keep_.put("last", context.read(1), samplers_.nearest);
    keep_.draw(context);
    context.barrier();
  }

 private:
  gl::Program count_;
  draw::BoundTextures count_textures_;
  draw::ScreenProgram keep_;
  gl::Buffer histogram_;
  draw::ScreenSamplers samplers_;
};

void finish_meter(const Meter& options, Pass& pass) {
  const std::string who = fmt::format("pass \"{}\"", options.name);
  if (options.lowest_ev100 >= options.highest_ev100 || options.leave_out_dark + options.leave_out_bright >= 1) {
    pass.problems.error(
        "nothing-measured", pass.place, fmt::format("{} leaves out all that it could measure", who),
        "let lowest_ev100 be less than highest_ev100, and leave_out_dark and leave_out_bright together less than 1");
  }
  if (options.exposure.empty()) return;
  pass.reads.push_back({.slot = "last", .target = options.exposure, .history = 1});
  pass.shader->samplers.push_back({.name = "last"});
  pass.check_targets = [who](std::span<const WrittenTarget> written, Diagnostics& problems) {
    const WrittenTarget& target = written[0];
    if (target.width == 1 && target.height == 1 && target.format == Format::rgba32f) return;
    problems.error("exposure-target", target.place,
                   fmt::format("{} keeps its exposure in \"{}\", which is {} x {} and {}", who, target.name,
                               target.width, target.height, to_string(target.format)),
                   "give it size = [1, 1] and format = \"rgba32f\"");
  };
  pass.takes = LightRange::scene;
  pass.work = gl::work<MeterWork>(options);
}

const Kind<Meter>& meter_said() {
  static const Kind<Meter> kind{
      .name = "meter",
      .sentence =
          "Measures how bright a picture is, and follows it over time as an eye does; tone_map reads what it keeps.",
      .example =
          "[target.exposure]\nformat = \"rgba32f\"\nsize   = [1, 1]\n\n[[pass]]\nname   = \"meter\"\nkind   = "
          "\"meter\"\nreads  = "
          "{ light = \"scene.color\" }\nwrites = { exposure = \"exposure\" }\n",
      .reads = {{{"light", Need::required, "Linear light, nits"}, &Meter::light}},
      .writes = {{{"exposure", Need::required,
                   "One pixel, rgba32f, of which it reads the last frame's: EV100 kept, EV100 measured, the time, 1"},
                  &Meter::exposure,
                  whole_picture()}},
      .keys = Keys<Meter>()
                  .key("lowest_ev100", &Meter::lowest_ev100, {.unit = "EV100", .minimum = -20, .maximum = 30},
                       "What is darker counts as this")
                  .key("highest_ev100", &Meter::highest_ev100, {.unit = "EV100", .minimum = -20, .maximum = 30},
                       "What is brighter counts as this")
                  .key("leave_out_dark", &Meter::leave_out_dark, {.minimum = 0, .maximum = 1},
                       "Share of the picture that is not measured, the darkest")
                  .key("leave_out_bright", &Meter::leave_out_bright, {.minimum = 0, .maximum = 1},
                       "The same, the brightest")
                  .key("speed_brighter", &Meter::speed_brighter,
                       {.unit = "per second", .minimum = 0, .above_minimum = true},
                       "How fast it gets used to more light: the rest shrinks by e in one over this")
                  .key("speed_darker", &Meter::speed_darker,
                       {.unit = "per second", .minimum = 0, .above_minimum = true}, "The same, to less light"),
      .finish = finish_meter};
  return kind;
}

}  // namespace

Pass meter(const Meter& options, Place place) {
  return meter_said().make(options, std::move(place));
}

PassKind meter_kind() {
  return meter_said().kind();
}

}  // namespace periscena::passes
