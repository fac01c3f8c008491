// A kind of pass of your own: declared once, used from C++ and from frame files, with checks, --set and a page of
// reference like those of the library. It draws contours where distance jumps, as an engraver would.
//   build/release/examples/example_35_own_kind contours.png [35_own_kind.toml]   the frame file's picture; --reference:
//   its keys build/release/examples/example_35_own_kind contours.png --built              the same frame, said in C++

#include <periscena/gl/sampler.h>
#include <periscena/periscena.h>

#include <array>
#include <cstdio>
#include <string_view>

using namespace periscena;

namespace {

struct Contours {
  std::string name = "contours";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  float jump = 0.06f;      ///< share of the distance that makes a line
  float strength = 0.85f;  ///< 0..1: how dark lines are
  TargetUse light = {}, depth = {}, color = {};
};

const char* const contours_glsl = R"(
#include "periscena/fullscreen.glsl"
uniform sampler2D light;
uniform sampler2D depth;
uniform vec2 to_distance;  // of depth d: x / (d + y), metres
uniform float jump;
uniform float strength;
layout(location = 0) out vec4 color;

float distance_at(ivec2 pixel) {
  return to_distance.x / (texelFetch(depth, clamp(pixel, ivec2(0), textureSize(depth, 0) - 1), 0).r + to_distance.y);
}

void main() {
  ivec2 here = ivec2(gl_FragCoord.xy);
  float own = distance_at(here), bend = 0.0;
  // The second difference: 0 on planes, however steep.
  for (int i = 0; i < 2; ++i) {
    ivec2 step = i == 0 ? ivec2(1, 0) : ivec2(0, 1);
    bend = max(bend, abs(1.0 / distance_at(here + step) + 1.0 / distance_at(here - step) - 2.0 / own) * own);
  }
  vec4 lit = texelFetch(light, here, 0);
  color = vec4(lit.rgb * (1.0 - strength * smoothstep(0.5 * jump, jump, bend)), lit.a);
}
)";

/// What it does on the device, made once for each runner.
class ContoursWork final : public gl::PassWork {
 public:
  ContoursWork(const Contours& options, gl::PassSetup& setup)
      : program_(setup.device(),
                 {options.name, gl::ShaderText::embedded("periscena/fullscreen.vert", passes::pass_shaders()),
                  gl::ShaderText::from_text("contours.frag", contours_glsl, passes::pass_shaders())}),
        nearest_(Filter::nearest, Wrap::clamp, "nearest") {
    setup.match_outputs(program_);
    const Mat4 projection = options.scene->find_view(options.view.name)->camera.projection(setup.aspect()).matrix();
    program_.set(program_.uniform<Vec2>("to_distance"), Vec2(projection(2, 3), projection(2, 2)));
    program_.set(program_.uniform<float>("jump"), options.jump);
    program_.set(program_.uniform<float>("strength"), options.strength);
  }

  void run(gl::PassContext& context) override {
    program_.use(context.state());
    context.state().apply({});
    for (std::size_t read = 0; const char* sampler : {"light", "depth"}) {
      const auto unit = static_cast<std::uint32_t>(program_.sampler_unit(sampler));
      context.state().bind_texture(unit, context.read(read++).name(), nearest_.name());
    }
    context.draw_triangle();
  }

 private:
  gl::Program program_;
  gl::Sampler nearest_;
};

/// Its one declaration. Members, keys, slots and GLSL have the same names.
const passes::Kind<Contours>& contours_said() {
  using passes::Need;
  static const passes::Kind<Contours> kind{
      .name = "contours",
      .sentence = "Draws lines where distance jumps.",
      .example =
          "[[pass]]\nname   = \"engraving\"\nkind   = \"contours\"\nview   = \"towpath\"\njump   = 0.1\n"
          "reads  = { light = \"scene.color\", depth = \"scene.depth\" }\nwrites = { color = \"engraved\" }\n",
      .reads = {{{"light", Need::required, "Linear light"}, &Contours::light},
                {{"depth", Need::required, "Depth of the same view"}, &Contours::depth}},
      .writes = {{{"color", Need::required, "The light with lines over it"},
                  &Contours::color,
                  passes::whole_picture()}},
      .keys = Keys<Contours>()
                  .key("view", &Contours::view, {.required = true}, "The view that the depth was drawn through")
                  .key("jump", &Contours::jump, {.unit = "of the distance", .minimum = 0, .above_minimum = true},
                       "From how much on there is a line")
                  .key("strength", &Contours::strength, {.minimum = 0, .maximum = 1}, "How dark lines are"),
      .finish = [](const Contours& options, Pass& pass) {
        pass.makes = LightRange::same;
        pass.work = gl::work<ContoursWork>(options);
      }};
  return kind;
}

Pass contours(const Contours& options, Place place = Place::here()) {
  return contours_said().make(options, std::move(place));
}

/// The frame of 35_own_kind.toml.
FrameGraph built(const std::shared_ptr<const Scene>& scene) {
  FrameGraph frame;
  const passes::Defaults lock{.scene = scene, .view = "gate", .environment = "dusk"};
  const auto light = frame.target("light", {.format = Format::rgba16f});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto engraved = frame.target("engraved", {.format = Format::rgba16f});
  frame.add(passes::sky(lock, {.color = light}));
  frame.add(passes::forward(lock, {.name = "lock", .lights = {"sun"}, .color = light, .depth = depth}));
  frame.add(contours(
      {.name = "engraving", .scene = scene, .view = "gate", .light = light, .depth = depth, .color = engraved}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.2f, .light = engraved, .color = frame.output()}));
  return frame;
}

}  // namespace

int main(int argc, char** argv) try {
  passes::PassKinds kinds = passes::pass_kinds();
  kinds.add(contours_said().kind());
  const std::string_view what = argc > 2 ? argv[2] : "examples/35_own_kind.toml";
  if (what == "--reference") {
    const std::string page = frame_file_reference(&kinds);
    const std::size_t begin = page.find("### `kind = \"contours\"`");
    std::puts(page.substr(begin, page.find("\n### ", begin) - begin).c_str());
    return 0;
  }
  const FrameFile file =
      read_frame_file(what == "--built" ? "examples/35_own_kind.toml" : std::string(what), {.kinds = &kinds});
  auto device = gl::Device::headless();
  const PlanResult plan =
      what == "--built" ? built(file.scene).plan(file.width, file.height, device.limits()) : file.plan(device.limits());
  gl::FrameRunner runner(device, plan.value());
  runner.run(0);
  write_png(runner.read("output"), argc > 1 ? argv[1] : "contours.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
