#include <periscena/passes/transition.h>

#include "draw/screen/screen_program.h"
#include "passes/shared_keys.h"

#include <periscena/base/error.h>

#include <fmt/format.h>

#include <cmath>

namespace periscena::passes {
namespace {

constexpr std::size_t first = 0, second = 1, picture = 2;  ///< reads

/// So long that the picture is 1 wide along it: what dot() with a place from the middle gives is −½..½.
Vec2 along_of(float degrees) {
  const float angle = radians(degrees);
  const Vec2 towards(std::cos(angle), std::sin(angle));
  return towards / (std::abs(towards[0]) + std::abs(towards[1]));
}

gl::ShaderText text_of(const Transition& options) {
  if (!options.shader.empty()) return options.shader;
  std::vector<std::string> lines;
  if (options.way == TransitionWay::wipe) lines.emplace_back("#define WIPE");
  if (options.way == TransitionWay::dissolve) lines.emplace_back("#define DISSOLVE");
  if (options.way == TransitionWay::displace) lines.emplace_back("#define DISPLACE");
  if (!options.by.empty()) lines.emplace_back("#define READS_BY");
  return pass_shader("periscena/transition.frag").with_lines(lines);
}

class TransitionWork final : public gl::PassWork {
 public:
  TransitionWork(const Transition& options, gl::PassSetup& setup)
      : options_(options),
        mixed_(setup.device(), options.name, text_of(options)),
        copied_(setup.device(), options.name, pass_shader("periscena/copied.frag")) {
    setup.match_outputs(mixed_.program());
    mixed_.set("along", along_of(options.direction_degrees));
    mixed_.set("softness", options.softness);
    mixed_.set("strength", options.strength);
    mixed_.set("cell", options.cell);
  }

  bool looks_at(std::size_t read, double seconds) const override {
    const float progress = options_.progress_at(seconds);
    if (progress <= 0) return read == first;
    return progress < 1 || read == second;
  }

  void run(gl::PassContext& context) override {
    const float progress = options_.progress_at(context.time().seconds);
    if (progress <= 0 || progress >= 1) {
      const gl::Texture& whole = context.read(progress <= 0 ? first : second);
      copied_.put("source", whole, samplers_.fitting(whole, context.pass()));
      return copied_.draw(context);
    }
    mixed_.set("progress", progress);
    mixed_.put("from", context.read(first), samplers_.linear);
    mixed_.put("to", context.read(second), samplers_.linear);
    if (context.read_count() > picture) mixed_.put("by", context.read(picture), samplers_.linear);
    mixed_.draw(context);
  }

 private:
  Transition options_;
  draw::ScreenProgram mixed_, copied_;
  draw::ScreenSamplers samplers_;
};

void finish_transition(const Transition& options, Pass& pass) {
  if (options.way == TransitionWay::displace && options.by.empty() && options.shader.empty()) {
    pass.problems.error("missing-key", pass.place, fmt::format("pass \"{}\" displaces by no picture", options.name),
                        "let it read one as `by`");
  }
  pass.chooses_reads = true;
  pass.makes = LightRange::same;
  pass.work = gl::work<TransitionWork>(options);
}

const Kind<Transition>& transition_said() {
  static const Kind<Transition> kind{
      .name = "transition",
      .sentence =
          "One picture becomes another, over time or as far as you say; at its ends only the one that shows is drawn.",
      .example =
          "[[pass]]\nname          = \"nightfall\"\nkind          = \"transition\"\nway           = "
          "\"wipe\"\nstart_seconds = 2\nseconds       = 3\nreads         = { from = "
          "\"day.picture\", to = \"night.picture\" }\nwrites        = { color = \"output\" }\n",
      .reads = {{{"from", Need::required, "The first picture"}, &Transition::from},
                {{"to", Need::required, "The second"}, &Transition::to},
                {{"by", Need::optional,
                  "A picture, 0..1: of dissolve, where it comes first (low red); of displace, how far to push (red and "
                  "green, 0.5 is not at all)"},
                 &Transition::by}},
      .writes = {{{"color", Need::required, "Of the kind that the pictures are"}, &Transition::color, whole_picture()}},
      .keys =
          Keys<Transition>()
              .key("way", &Transition::way, {},
                   "fade: all at once; wipe: an edge moves over it; dissolve: cell by cell; displace: pushed about by "
                   "a picture")
              .elsewhere(
                  "shader", "text", {},
                  "GLSL of your own instead, that includes periscena/transition.glsl: a path from this file's folder")
              .key("progress", &Transition::progress, {.minimum = 0, .maximum = 1},
                   "How far it is, when `seconds` is 0")
              .key("start_seconds", &Transition::start_seconds, {.unit = "seconds"}, "When it begins")
              .key("seconds", &Transition::seconds, {.unit = "seconds", .minimum = 0},
                   "How long it takes; 0: progress stands still")
              .key("ease", &Transition::ease, {}, "How progress goes with time")
              .key("direction_degrees", &Transition::direction_degrees,
                   {.unit = "degrees", .minimum = -360, .maximum = 360},
                   "Of wipe: where the edge moves to; 0 is to the right, 90 up")
              .key("softness", &Transition::softness, {.minimum = 0, .maximum = 1},
                   "Of wipe and dissolve: width of the edge")
              .key("strength", &Transition::strength, {.minimum = 0, .maximum = 1},
                   "Of displace: how far, as a share of the picture")
              .key("cell", &Transition::cell, {.unit = "pixels", .minimum = 1, .maximum = 256},
                   "Of dissolve without a picture: width of a cell"),
      .finish = finish_transition,
      .read_more = [](const PassSource& source, Transition& options, Diagnostics& problems) {
        read_glsl(source, "shader", options.shader, problems, Need::optional);
      }};
  return kind;
}

}  // namespace

const std::vector<std::string>& choices_of(TransitionWay) {
  static const std::vector<std::string> names{"fade", "wipe", "dissolve", "displace"};
  return names;
}

const std::vector<std::string>& choices_of(Ease) {
  static const std::vector<std::string> names{"linear", "smooth", "slow_start", "slow_end"};
  return names;
}

float eased(Ease ease, float p) {
  switch (ease) {
    case Ease::smooth: return p * p * (3 - 2 * p);
    case Ease::slow_start: return p * p;
    case Ease::slow_end: return 1 - (1 - p) * (1 - p);
    case Ease::linear: break;
  }
  return p;
}

float Transition::progress_at(double now) const {
  if (seconds <= 0) return eased(ease, progress);
  return eased(ease, static_cast<float>(std::clamp(
                         (now - static_cast<double>(start_seconds)) / static_cast<double>(seconds), 0.0, 1.0)));
}

float Transition::wiped(float x, float y, float now) const {
  const float place = along_of(direction_degrees).dot(Vec2(x - 0.5f, y - 0.5f)) + 0.5f,
              soft = std::max(softness, 1e-4f);
  return std::clamp((now * (1 + soft) - place) / soft, 0.0f, 1.0f);
}

Pass transition(const Transition& options, Place place) {
  return transition_said().make(options, std::move(place));
}

PassKind transition_kind() {
  return transition_said().kind();
}

}  // namespace periscena::passes
