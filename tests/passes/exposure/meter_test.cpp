#include "passes/picture_pass.h"

#include <periscena/passes/meter.h>
#include <periscena/passes/tone_map.h>

#include <cmath>
#include <limits>

using namespace periscena;

namespace {

struct Metered : PictureFrame {
  explicit Metered(const Image& picture, passes::Meter options = {}) : PictureFrame(picture) {
    exposure = frame.target("exposure", {.format = Format::rgba32f, .size = TargetSize::pixels(1, 1)});
    frame.keep(exposure);
    options.light = light;
    options.exposure = exposure;
    frame.add(passes::meter(options));
    frame.add(
        passes::tone_map({.curve = passes::ToneCurve::clip, .light = light, .exposure = exposure, .color = result}));
  }

  /// EV100 kept and measured.
  std::pair<double, double> at(gl::Device& device, double seconds) {
    runner(device).run(seconds);
    const auto kept = runner(device).read("exposure").at(0, 0);
    return {kept[0], kept[1]};
  }

  TargetHandle exposure;
};

Image even(float nits) {
  return picture_of(70, 50, [&](int, int) -> Vec3 { return Vec3::constant(nits); });
}

double ev_of(double nits) {
  return std::log2(nits * 100 / 12.5);
}

constexpr double step = 24.0 / 256;  // of the histogram, EV

}  // namespace

TEST_CASE_METHOD(TestDevice, "the first frame's exposure is what a light meter reads") {
  for (const float nits : {0.02f, 1.0f, 40.0f, 4000.0f}) {
    Metered metered(even(nits));
    const auto [kept, measured] = metered.at(device, 5);
    CHECK(kept == Approx(ev_of(nits)).margin(step));
    CHECK(measured == kept);
    // Middle grey comes out as 12.5 / (1.2 * 100) of white.
    CHECK(metered.runner(device).read("result").at(9, 9)[1] == Approx(12.5 / 120).epsilon(std::exp2(step) - 1));
  }
}

TEST_CASE_METHOD(TestDevice, "the darkest and the brightest are left out, and so is what is no number") {
  const Image picture = picture_of(100, 100, [](int, int y) -> Vec3 {
    if (y < 20) return Vec3::constant(1e-4f);
    if (y >= 96)
      return Vec3::constant(y == 97   ? std::numeric_limits<float>::quiet_NaN()
                            : y == 98 ? std::numeric_limits<float>::infinity()
                                      : 1e5f);
    return Vec3::constant(10);
  });
  Metered metered(picture, {.leave_out_dark = 0.25f, .leave_out_bright = 0.1f});
  CHECK(metered.at(device, 0).second == Approx(ev_of(10)).margin(step));
}

TEST_CASE_METHOD(TestDevice, "exposure follows a change of light as time passes, whatever the frame rate") {
  for (const int rate : {5, 20}) {
    Metered metered(even(1));
    const double from = metered.at(device, 0).first;
    metered.show(even(256));
    std::pair<double, double> now;
    for (int i = 1; i <= rate; ++i) now = metered.at(device, i / static_cast<double>(rate));
    const double high = now.second - (now.second - from) * std::exp(-3.0);
    CHECK(now.second == Approx(from + 8).margin(step));
    CHECK(now.first == Approx(high).margin(1e-3));
    metered.show(even(1));
    for (int i = 1; i <= rate; ++i) now = metered.at(device, 1 + i / static_cast<double>(rate));
    CHECK(now.first == Approx(from + (high - from) * std::exp(-1.0)).margin(1e-3));
    // Back in time is a cut.
    CHECK(metered.at(device, 0.5).first == Approx(from));
  }
}

TEST_CASE_METHOD(TestDevice, "a picture with nothing to measure, and one of one pixel, are metered") {
  Metered nothing(
      picture_of(1, 1, [](int, int) -> Vec3 { return Vec3::constant(std::numeric_limits<float>::quiet_NaN()); }));
  CHECK(nothing.at(device, 0).first == Approx(6));
  CHECK(std::isfinite(nothing.runner(device).read("result").at(0, 0)[0]));
  Metered black(picture_of(17, 9, [](int, int) -> Vec3 { return Vec3::zero(); }));
  CHECK(black.at(device, 0).first == Approx(-6).margin(step));
}

TEST_CASE("a meter that measures nothing, or keeps it in a target that is no pixel, is refused") {
  FrameGraph frame;
  const TargetHandle light = frame.target("light", {});
  const TargetHandle wrong = frame.target("exposure", {.format = Format::rgba16f});
  frame.keep(wrong);
  frame.add({.name = "draw", .writes = {{.slot = "color", .target = light}}});
  frame.add(passes::meter({.lowest_ev100 = 5, .highest_ev100 = 5, .light = light, .exposure = wrong}));
  const std::string told = to_text(frame.plan(8, 8).diagnostics());
  INFO(told);
  CHECK(told.find("error[nothing-measured]") != std::string::npos);
  CHECK(told.find(
            "error[exposure-target]: pass \"meter\" keeps its exposure in \"exposure\", which is 8 x 8 and rgba16f") !=
        std::string::npos);
}

TEST_CASE_METHOD(TestDevice, "curves keep black, reach white where they say, and never fall") {
  using passes::ToneCurve;
  for (std::size_t i = 0; i < passes::choices_of(ToneCurve{}).size(); ++i) {
    const auto curve = static_cast<ToneCurve>(i);
    INFO(passes::choices_of(curve)[i]);
    CHECK(passes::tone_curve(curve, Vec3::zero(), 6) == Vec3::zero());
    CHECK(passes::tone_curve(curve, Vec3::constant(1e5f), 6).smallest() > 1 - 0.5 / 255);
    if (curve == ToneCurve::reinhard || curve == ToneCurve::hable || curve == ToneCurve::lottes)
      CHECK(passes::tone_curve(curve, Vec3::constant(6), 6)[1] == Approx(1).epsilon(1e-5));
    float before = 0;
    for (float light = 0; light < 40; light += 0.01f) {
      const float now = passes::tone_curve(curve, Vec3::constant(light), 6)[0];
      REQUIRE(now >= before - 1e-6f);
      before = now;
    }
  }
}

TEST_CASE_METHOD(TestDevice, "dither rounds right on average, and leaves black and white as they are") {
  const Image ramp = picture_of(256, 64, [](int x, int) -> Vec3 {
    return Vec3::constant(x < 8 ? 0.0f : x >= 248 ? 1.0f : 0.2f + 0.00001f * static_cast<float>(x));
  });
  PictureFrame one(ramp);
  one.frame.add(passes::tone_map({.light = one.light, .color = one.result}));
  one.frame.add(passes::tone_map({.name = "dithered",
                                  .exposure_ev100 = -std::log2(1.2f),
                                  .curve = passes::ToneCurve::clip,
                                  .dither = true,
                                  .light = one.light,
                                  .color = one.frame.output()}));
  one.runner(device).run(0);
  const Image shown = one.runner(device).read("output");
  int values = 0;
  double sum = 0, exact = 0;
  for (int y = 0; y < 64; ++y) {
    for (int x = 0; x < 256; ++x) {
      const double here = shown.at(x, y)[0];
      if (x < 8) REQUIRE(here == 0);
      if (x >= 248) REQUIRE(here == 255);
      if (x < 8 || x >= 248) continue;
      const double light = ramp.at(x, y)[0];
      const double encoded = 255 * (1.055 * std::pow(light, 1 / 2.4) - 0.055);
      sum += here;
      exact += encoded;
      values += std::abs(here - encoded) < 2 ? 0 : 1;
    }
  }
  CHECK(values == 0);
  CHECK(sum / (240 * 64) ==
        Approx(exact / (240 * 64)).margin(0.03));  // ± 0.5 of a step without; noise of 15,360 pixels: 0.006
}
