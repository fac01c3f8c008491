#include "gl/device.h"
#include "gl/random_scene.h"
#include "thrown.h"

#include <periscena/frame/frame_file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

#include <functional>

using namespace periscena;

namespace {

/// What the passes of the frame below have as options.
struct Wanted {
  passes::ShadowMap sun_map;
  passes::Forward forward;
  passes::Bloom bloom;
  passes::ToneMap tone_map;
  passes::Grade grade;
  passes::Vignette vignette;
  passes::Fullscreen tint;
  bool fuses = true;

  explicit Wanted(const std::shared_ptr<Scene>& scene) {
    sun_map = {.name = "sun map", .scene = scene, .light = "sun"};
    forward = {.name = "picture", .scene = scene, .view = "front", .lights = {"sun", "room"}};
    bloom = {.name = "glow", .strength = 0.1f};
    tone_map = {.name = "develop", .exposure_ev100 = 1};
    grade = {.name = "warm", .gain = {1.1f, 1, 0.9f}};
    vignette = {.name = "corners"};
    tint = {.name = "tint",
            .shader = gl::ShaderText::from_text("tint.frag",
                                                "#include \"periscena/fullscreen.glsl\"\nuniform sampler2D from;\n"
                                                "uniform vec3 tint;\nout vec4 color;\n"
                                                "void main() { color = texture(from, uv) * vec4(tint, 1); }\n",
                                                passes::pass_shaders()),
            .uniforms = {{"tint", {1, 0.9, 0.8}}}};
  }

  FrameGraph frame() const {
    FrameGraph frame;
    frame.set_fusing(fuses);
    frame.set_background({0.1f, 0.2f, 0.3f, 1});
    const auto sun = frame.target("sun", {.format = Format::depth32f, .size = {128, 128}});
    const auto light = frame.target("light", {.format = Format::rgba16f});
    const auto glowing = frame.target("glowing", {.format = Format::rgba16f});
    const auto developed = frame.target("developed", {.format = Format::rgba16f});
    const auto warm = frame.target("warm", {.format = Format::rgba16f});
    const auto dark = frame.target("dark", {.format = Format::rgba16f});
    passes::ShadowMap sun_map_now = sun_map;
    sun_map_now.depth = sun;
    frame.add(passes::shadow_map(sun_map_now));
    passes::Forward forward_now = forward;
    forward_now.shadows = {sun};
    forward_now.color = light;
    forward_now.depth = frame.target("depth", {.format = Format::depth32f});
    frame.add(passes::forward(forward_now));
    const auto add = [&](auto options, auto from, auto into, auto make, auto member) {
      options.*member = from;
      options.color = into;
      frame.add(make(options));
    };
    add(
        bloom, light, glowing, [](const auto& one) { return passes::bloom(one); }, &passes::Bloom::light);
    add(
        tone_map, glowing, developed, [](const auto& one) { return passes::tone_map(one); }, &passes::ToneMap::light);
    add(
        grade, developed, warm, [](const auto& one) { return passes::grade(one); }, &passes::Grade::from);
    add(
        vignette, warm, dark, [](const auto& one) { return passes::vignette(one); }, &passes::Vignette::from);
    passes::Fullscreen tint_now = tint;
    tint_now.reads = {{"from", dark}};
    tint_now.writes = {{"color", frame.output()}};
    frame.add(passes::fullscreen(tint_now));
    return frame;
  }
};

/// Changes one option at random, of what is wanted and of the frame that runs.
void change(RandomScene& random, Wanted& wanted, const FrameGraph& frame) {
  const auto both = [&](auto& options, const char* pass, const auto& change) {
    change(options);
    passes::Live<std::decay_t<decltype(options)>>(frame, pass).change(change);
  };
  const float share = random.number(0, 1);
  const Vec3 color = random.color();
  switch (random.below(12)) {
    case 0: return both(wanted.bloom, "glow", [&](auto& one) { one.strength = share; });
    case 1: return both(wanted.bloom, "glow", [&](auto& one) { one.radius = 0.5f * share; });
    case 2: return both(wanted.bloom, "glow", [&](auto& one) { one.threshold_nits = share < 0.4f ? 0 : share; });
    case 3: return both(wanted.tone_map, "develop", [&](auto& one) { one.exposure_ev100 = 2 * share; });
    case 4:
      return both(wanted.tone_map, "develop",
                  [&](auto& one) { one.curve = share < 0.5f ? passes::ToneCurve::film : passes::ToneCurve::aces; });
    case 5: return both(wanted.grade, "warm", [&](auto& one) { one.saturation = share < 0.3f ? 1 : 2 * share; });
    case 6: return both(wanted.grade, "warm", [&](auto& one) { one.lift = {0.1f * color.x(), 0, 0.1f * color.z()}; });
    case 7: return both(wanted.vignette, "corners", [&](auto& one) { one.strength = share; });
    case 8:
      return both(wanted.tint, "tint", [&](auto& one) {
        one.uniforms = {{"tint", {color.x(), color.y(), color.z()}}};
      });
    case 9:
      return both(wanted.forward, "picture", [&](auto& one) {
        one.lights = share < 0.5f ? ChosenNames{"sun", "room"} : ChosenNames{"lamp", "sun"};
      });
    case 10: return both(wanted.forward, "picture", [&](auto& one) { one.fog = share < 0.5f ? "" : "mist"; });
    default: return both(wanted.sun_map, "sun map", [&](auto& one) { one.radius = 1 + std::floor(3 * share); });
  }
}

Image picture(gl::Device& device, const FrameGraph& frame) {
  gl::FrameRunner runner(device, frame.plan(96, 64, device.limits()).value());
  runner.run(0);
  return runner.read("output");
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "options that change while a frame runs give the picture of a frame declared so") {
  for (const bool fuses : {true, false}) {
    RandomScene random(fuses ? 3 : 4);
    const auto scene = random.wanted.made();
    Wanted wanted(scene);
    wanted.fuses = fuses;
    const FrameGraph frame = wanted.frame();
    gl::FrameRunner runner(device, frame.plan(96, 64, device.limits()).value());
    for (int step = 0; step < 150; ++step) {
      change(random, wanted, frame);
      if (step % 3 == 0) runner.run(0);
      if (step % 5 != 4) continue;
      INFO((fuses ? "fused" : "apart") << ", after change " << step);
      // A new plan of the frame has the options as they are now, too.
      if (step % 25 == 24) runner.use(frame.plan(96, 64, device.limits()).value());
      runner.run(0);
      const Image now = runner.read("output");
      REQUIRE(now == picture(device, wanted.frame()));
      REQUIRE(now == picture(device, frame));
    }
  }
}

TEST_CASE_METHOD(TestDevice, "numbers that go to programs change without asking for a program") {
  RandomScene random(3);
  Wanted wanted(random.wanted.made());
  for (const bool fuses : {true, false}) {
    wanted.fuses = fuses;
    const FrameGraph frame = wanted.frame();
    gl::FrameRunner runner(device, frame.plan(96, 64, device.limits()).value());
    runner.run(0);
    const auto compiled = device.programs().counts();
    passes::Live<passes::Grade> warm(frame, "warm");
    passes::Live<passes::Fullscreen> tint(frame, "tint");
    passes::Live<passes::Bloom> glow(frame, "glow");
    for (int i = 0; i < 20; ++i) {
      warm.change([&](auto& one) { one.gain[0] = 1 + 0.01f * static_cast<float>(i); });
      tint.change([&](auto& one) { one.uniforms = {{"tint", {1, 0.05 * i, 1}}}; });
      if (!fuses) glow.change([&](auto& one) { one.strength = 0.01f * static_cast<float>(i); });
      runner.run(0);
    }
    const auto after = device.programs().counts();
    CHECK(after.compiled == compiled.compiled);
    if (!fuses) CHECK(after.shared == compiled.shared);
  }
}

TEST_CASE_METHOD(TestDevice, "options that can't be are refused where they are set, and nothing has changed") {
  RandomScene random(3);
  Wanted wanted(random.wanted.made());
  const FrameGraph frame = wanted.frame();
  gl::FrameRunner runner(device, frame.plan(96, 64, device.limits()).value());
  runner.run(0);
  const Image before = runner.read("output");
  passes::Live<passes::Bloom> glow(frame, "glow");
  passes::Live<passes::Forward> forward(frame, "picture");
  passes::Live<passes::ToneMap> develop(frame, "develop");
  CHECK(thrown_slug([&] { glow.change([](auto& one) { one.strength = 2; }); }) == "out-of-range");
  CHECK(thrown_slug([&] { glow.change([](auto& one) { one.strength = NAN; }); }) == "not-finite");
  CHECK(thrown_slug([&] { glow.change([](auto& one) { one.light = {}; }); }) == "missing-key");
  CHECK(thrown_slug([&] { glow.change([](auto& one) { one.light = "depth"; }); }) == "not-live");
  CHECK(thrown_slug([&] { forward.change([](auto& one) { one.view = "back"; }); }) == "unknown-view");
  CHECK(thrown_slug([&] { forward.change([](auto& one) { one.lights = {"moon"}; }); }) == "unknown-light");
  CHECK(thrown_slug([&] { develop.change([](auto& one) { one.exposure = "light"; }); }) == "not-live");
  CHECK(thrown_slug([&] { passes::Live<passes::Bloom> one(frame, "glwo"); }) == "unknown-pass");
  CHECK(thrown_slug([&] { passes::Live<passes::Bloom> one(frame, "warm"); }) == "wrong-kind");
  CHECK(glow.get().strength == 0.1f);

  const auto by_name = frame.options("glow");
  CHECK(thrown_slug([&] { by_name->set("strenght", {0.5, {}}); }) == "unknown-key");
  CHECK(thrown_slug([&] { by_name->set("strength", {5.0, {}}); }) == "out-of-range");
  CHECK(thrown_slug([&] { by_name->set("strength", {std::string("much"), {}}); }) == "wrong-type");
  const auto tint = frame.options("tint");
  CHECK(thrown_slug([&] { tint->set("uniforms", {0.5, {}}); }) == "wrong-type");
  CHECK(thrown_slug([&] { tint->set("uniforms.tnt", {0.5, {}}); }) == "unknown-uniform");
  CHECK(thrown_slug([&] { tint->set("uniforms.tint", {std::string("red"), {}}); }) == "wrong-type");
  CHECK(thrown_slug([&] { tint->set("shader", {std::string("x.frag"), {}}); }) == "not-live");
  CHECK(thrown_slug([&] { tint->set("view.x", {0.5, {}}); }) == "wrong-type");
  CHECK(by_name->version() == 0);
  runner.run(0);
  CHECK(runner.read("output") == before);
  by_name->set("strength", {0.5, {}});
  CHECK(glow.get().strength == 0.5f);
  double read = 0;
  CHECK(by_name->get("strength").number(read));
  CHECK(read == 0.5);
  runner.run(0);
  wanted.bloom.strength = 0.5f;
  CHECK(runner.read("output") == picture(device, wanted.frame()));
}

TEST_CASE_METHOD(TestDevice, "frames that share passes by copying share options, and a pass added twice has its own") {
  RandomScene random(3);
  Wanted wanted(random.wanted.made());
  const FrameGraph frame = wanted.frame();
  const FrameGraph copy = frame;
  passes::Live<passes::Vignette> corners(copy, "corners");
  corners.change([](auto& one) { one.strength = 0.9f; });
  CHECK(passes::Live<passes::Vignette>(frame, "corners").get().strength == 0.9f);
  const Pass made = passes::vignette({.name = "v", .from = "light", .color = "output"});
  FrameGraph a, b;
  a.add(made);
  b.add(made);
  passes::Live<passes::Vignette>(a, "v").change([](auto& one) { one.strength = 0.7f; });
  CHECK(passes::Live<passes::Vignette>(b, "v").get().strength == passes::Vignette().strength);
}
