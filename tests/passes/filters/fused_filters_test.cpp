#include "passes/picture_pass.h"

#include <periscena/image/color.h>
#include <periscena/image/color_table.h>
#include <periscena/passes/bloom.h>
#include <periscena/passes/filters.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/meter.h>
#include <periscena/passes/tone_map.h>

#include <fmt/format.h>

#include <cmath>

using namespace periscena;

namespace {

/// A lens, a grade, a vignette and grain, one after the other.
struct Chain : PictureFrame {
  Chain(const Image& picture, bool fuses, bool keeps = false, bool smaller = false) : PictureFrame(picture) {
    const auto between = [&](const char* name) {
      return frame.target(name, {.format = Format::rgba32f, .size = TargetSize::of_frame(smaller ? 0.5f : 1)});
    };
    const TargetHandle a = between("a"), b = between("b"), c = frame.target("c", {.format = Format::rgba32f});
    frame.add(passes::fringe({.strength = 0.02f, .from = light, .color = a}));
    frame.add(passes::grade({.gain = {1, 0.9f, 0.8f}, .saturation = 1.5f, .from = a, .color = b}));
    frame.add(passes::vignette({.strength = 0.6f, .from = b, .color = c}));
    frame.add(passes::grain({.from = c, .color = result}));
    if (keeps) frame.keep(b);
    frame.set_fusing(fuses);
  }
};

double worst_difference(const Image& a, const Image& b) {
  double worst = 0;
  for (int y = 0; y < a.height(); ++y) {
    for (int x = 0; x < a.width(); ++x) {
      for (std::size_t i = 0; i < 4; ++i) worst = std::max(worst, std::abs(a.at(x, y)[i] - b.at(x, y)[i]));
    }
  }
  return worst;
}

std::string passes_of(const FramePlan& plan) {
  std::string text;
  for (const PlannedPass& pass : plan.passes()) text += pass.name + "; ";
  return text;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "filters that follow each other become one pass, of the same picture") {
  const Image picture = noise_picture(50, 30);
  Chain one(picture, true), each(picture, false);
  const Image together = one.run(device, 1.5), apart = each.run(device, 1.5);
  CHECK(passes_of(one.runner(device).plan()) == "fringe + grade + vignette + grain; ");
  CHECK(passes_of(each.runner(device).plan()) == "fringe; grade; vignette; grain; ");
  REQUIRE(one.runner(device).plan().removed().size() == 3);
  CHECK(one.runner(device).plan().removed()[1].reason == "it is a part of \"fringe + grade + vignette + grain\"");
  CHECK(worst_difference(together, apart) < 1e-6);
}

TEST_CASE_METHOD(
    TestDevice,
    "what ends encoded is encoded once on its way into an sRGB target, and so is what other passes write after it") {
  const Image picture = noise_picture(40, 20);
  for (const bool fuses : {true, false}) {
    PictureFrame one(picture);
    const TargetHandle between = one.frame.target("between", {.format = Format::rgba32f}),
                       again = one.frame.target("again", {.format = Format::rgba32f}),
                       shown = one.frame.target("shown", {.format = Format::rgba8_srgb});
    const TargetHandle grey = one.frame.target("grey", {.format = Format::rgba8_srgb});
    one.frame.keep(shown);
    one.frame.keep(grey);
    one.frame.set_fusing(fuses);
    one.frame.add(passes::vignette({.strength = 0.5f, .from = one.light, .color = between}));
    one.frame.add(passes::grade({.gain = {0.9f, 1, 1.1f}, .from = between, .color = shown}));
    one.frame.add(passes::vignette({.name = "vignette again", .strength = 0.5f, .from = one.light, .color = again}));
    one.frame.add(passes::grade({.name = "as light", .gain = {0.9f, 1, 1.1f}, .from = again, .color = one.result}));
    one.frame.add(passes::vignette({.name = "grey", .strength = 0, .from = one.light, .color = grey}));
    const Image light = one.run(device), encoded_ = one.runner(device).read("shown"),
                other = one.runner(device).read("grey");
    for (int y = 0; y < 20; ++y) {
      for (int x = 0; x < 40; ++x) {
        for (std::size_t i = 0; i < 3; ++i) {
          CHECK(encoded_.at(x, y)[i] == Approx(255 * linear_to_srgb(light.at(x, y)[i])).margin(1.01));
          CHECK(other.at(x, y)[i] == Approx(255 * linear_to_srgb(picture.at(x, y)[i])).margin(1.01));
        }
      }
    }
  }
}

namespace {

/// Light of 0 to 50 nits, as a meter exposes it, bent, graded and with grain; one of its pixels is no number.
struct Developed : PictureFrame {
  Developed(const Image& picture, bool fuses) : PictureFrame(picture) {
    const TargetHandle exposure =
        frame.target("exposure", {.format = Format::rgba32f, .size = TargetSize::pixels(1, 1)});
    const TargetHandle a = frame.target("a", {.format = Format::rgba32f}),
                       b = frame.target("b", {.format = Format::rgba32f}),
                       c = frame.target("c", {.format = Format::rgba32f});
    frame.add(passes::meter({.light = light, .exposure = exposure}));
    frame.add(passes::fringe({.strength = 0.02f, .from = light, .color = a}));
    frame.add(passes::tone_map({.compensation_ev = 0.5f,
                                .curve = passes::ToneCurve::film,
                                .dither = true,
                                .light = a,
                                .exposure = exposure,
                                .color = b}));
    frame.add(passes::grade({.gain = {1, 0.9f, 0.8f}, .from = b, .color = c}));
    frame.add(passes::grain({.from = c, .color = result}));
    frame.set_fusing(fuses);
  }
};

}  // namespace

TEST_CASE_METHOD(
    TestDevice,
    "light is bent in one pass with the filters around it, by the same exposure, and strange pixels are told") {
  const Image noise = noise_picture(50, 30);
  const Image picture = picture_of(50, 30, [&](int x, int y) -> Vec3 {
    const auto pixel = noise.at(x, y);
    if (x == 7 && y == 3) return Vec3(NAN, 1, 1);
    return 50 * Vec3(static_cast<float>(pixel[0]), static_cast<float>(pixel[1]), static_cast<float>(pixel[2]));
  });
  Developed one(picture, true), each(picture, false);
  const Image together = one.run(device, 1.5), apart = each.run(device, 1.5);
  CHECK(passes_of(one.runner(device).plan()) == "meter; fringe + tone map + grade + grain; ");
  CHECK(one.frame.plan(one.width, one.height).diagnostics().empty());
  CHECK(worst_difference(together, apart) < 1e-6);
  CHECK(mean_of(together, 0) > 0.1);
  CHECK(std::isfinite(mean_of(together, 1)));
  const std::string told = to_text(one.runner(device).diagnostics());
  CHECK(told.find("warning[not-finite-pixels]: pass \"fringe + tone map + grade + grain\" reads light that is no "
                  "finite number") != std::string::npos);
}

TEST_CASE_METHOD(TestDevice, "each sample is bent by itself in one pass with the filters after it") {
  FrameGraph frames[2];
  Image pictures[2];
  for (const bool fuses : {true, false}) {
    FrameGraph& frame = frames[fuses];
    const TargetHandle light = frame.target("light", {.format = Format::rgba32f, .samples = 4});
    const TargetHandle bent = frame.target("bent", {.format = Format::rgba32f}),
                       dark = frame.target("dark", {.format = Format::rgba32f});
    passes::Fullscreen waves;
    waves.shader = gl::ShaderText::from_text("waves.frag", R"(#include "periscena/fullscreen.glsl"
layout(location = 0) out vec4 color;
void main() { color = vec4(uv * 8.0, 4.0 + 4.0 * sin(40.0 * uv.x), 1.0); })",
                                             passes::pass_shaders());
    waves.writes = {{.slot = "color", .target = light}};
    frame.add(passes::fullscreen(waves));
    frame.add(passes::tone_map({.exposure_ev100 = 0, .each_sample = true, .light = light, .color = bent}));
    frame.add(passes::vignette({.strength = 0.6f, .from = bent, .color = dark}));
    frame.keep(dark);
    frame.set_fusing(fuses);
    gl::FrameRunner runner(device, frame.plan(40, 24, device.limits()).value());
    CHECK(passes_of(runner.plan()) ==
          (fuses ? "fullscreen; tone map + vignette; " : "fullscreen; tone map; vignette; "));
    runner.run(0);
    pictures[fuses] = runner.read("dark");
  }
  CHECK(worst_difference(pictures[0], pictures[1]) < 1e-6);
  CHECK(mean_of(pictures[0], 2) > 0.1);
}

TEST_CASE_METHOD(TestDevice, "light that is bent twice is told of, and both are done") {
  const Image picture = noise_picture(20, 10);
  PictureFrame one(picture);
  const TargetHandle between = one.frame.target("between", {.format = Format::rgba32f});
  one.frame.add(
      passes::tone_map({.exposure_ev100 = -1, .curve = passes::ToneCurve::film, .light = one.light, .color = between}));
  one.frame.add(passes::tone_map({.name = "again",
                                  .exposure_ev100 = -1,
                                  .curve = passes::ToneCurve::reinhard,
                                  .white = 4,
                                  .light = between,
                                  .color = one.result}));
  const Image found = one.run(device);
  CHECK(passes_of(one.runner(device).plan()) == "tone map; again; ");
  CHECK(to_text(one.frame.plan(one.width, one.height).diagnostics()).find("warning[toned-twice]") != std::string::npos);
  const auto pixel = picture.at(3, 4);
  const Vec3 light(static_cast<float>(pixel[0]), static_cast<float>(pixel[1]), static_cast<float>(pixel[2]));
  const float factor = passes::exposure_factor(-1);
  const Vec3 once = passes::tone_curve(passes::ToneCurve::film, factor * light, 4);
  const Vec3 bent = passes::tone_curve(passes::ToneCurve::reinhard, factor * once, 4);
  for (int i = 0; i < 3; ++i) CHECK(found.at(3, 4)[static_cast<std::size_t>(i)] == Approx(bent[i]).margin(1e-5));
}

TEST_CASE_METHOD(TestDevice, "filters stay apart where somebody looks between them, or sizes differ") {
  const Image picture = noise_picture(20, 20);
  CHECK(passes_of(Chain(picture, true, true).runner(device).plan()) == "fringe + grade; vignette + grain; ");
  CHECK(passes_of(Chain(picture, true, false, true).runner(device).plan()) == "fringe + grade; vignette + grain; ");
  Chain looked_at(picture, true);
  looked_at.frame.add(passes::sharpen({.from = "a", .color = looked_at.frame.output()}));
  CHECK(passes_of(looked_at.runner(device).plan()).find("fringe; ") == 0);
}

TEST_CASE_METHOD(TestDevice, "filters after bloom run in its last program, and give the same picture") {
  const Image noise = noise_picture(60, 40);
  const Image picture = picture_of(60, 40, [&](int x, int y) -> Vec3 {
    const auto pixel = noise.at(x, y);
    return 40 * Vec3(static_cast<float>(pixel[0]), static_cast<float>(pixel[1]), static_cast<float>(pixel[2]));
  });
  for (const passes::BloomMethod method : {passes::BloomMethod::pyramid, passes::BloomMethod::gaussian}) {
    for (const float threshold : {0.0f, 10.0f}) {
      std::vector<Image> pictures;
      for (const bool fuses : {true, false}) {
        PictureFrame one(picture);
        const TargetHandle glowing = one.frame.target("glowing", {.format = Format::rgba32f}),
                           shown = one.frame.target("shown", {.format = Format::rgba32f}),
                           exposure = one.frame.target("exposure",
                                                       {.format = Format::rgba32f, .size = TargetSize::pixels(1, 1)});
        one.frame.add(passes::meter({.light = one.light, .exposure = exposure}));
        one.frame.add(passes::bloom(
            {.method = method, .strength = 0.3f, .threshold_nits = threshold, .light = one.light, .color = glowing}));
        one.frame.add(passes::tone_map({.light = glowing, .exposure = exposure, .color = shown}));
        one.frame.add(passes::vignette({.strength = 0.5f, .from = shown, .color = one.result}));
        one.frame.set_fusing(fuses);
        pictures.push_back(one.run(device));
        CHECK(passes_of(one.runner(device).plan()) ==
              (fuses ? "meter; bloom + tone map + vignette; " : "meter; bloom; tone map; vignette; "));
      }
      CHECK(worst_difference(pictures[0], pictures[1]) < 1e-6);
    }
  }
}

TEST_CASE_METHOD(TestDevice,
                 "bloom stays apart where its glow is kept, where light would be bent twice, and where the target is "
                 "cleared to a colour") {
  const Image picture = noise_picture(20, 20);
  const auto planned = [&](bool glow, bool twice, float clear) {
    PictureFrame one(picture);
    const TargetHandle glowing =
                           one.frame.target("glowing", {.format = Format::rgba32f, .clear_color = {clear, 0, 0, 0}}),
                       between = one.frame.target("between", {.format = Format::rgba32f});
    passes::Bloom bloom{.light = one.light, .color = glowing};
    if (glow) {
      bloom.glow = one.frame.target("glow", {.format = Format::rgba32f});
      one.frame.keep("glow");
    }
    one.frame.add(passes::bloom(bloom));
    one.frame.add(passes::tone_map({.light = glowing, .color = twice ? between : one.result}));
    if (twice) one.frame.add(passes::tone_map({.name = "again", .light = between, .color = one.result}));
    return passes_of(one.runner(device).plan());
  };
  CHECK(planned(false, false, 0) == "bloom + tone map; ");
  CHECK(planned(true, false, 0) == "bloom; tone map; ");
  CHECK(planned(false, true, 0) == "bloom + tone map; again; ");
  CHECK(planned(false, false, 0.5f) == "bloom; tone map; ");
}
