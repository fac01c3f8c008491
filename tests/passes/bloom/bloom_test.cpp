#include "passes/picture_pass.h"

#include <periscena/passes/bloom.h>
#include <periscena/passes/blur.h>
#include <periscena/passes/filters.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/tone_map.h>

#include <cmath>
#include <limits>

using namespace periscena;
using passes::Bloom;
using passes::BloomMethod;

namespace {

Image black_but_one(int width, int height, int at_x, int at_y, float value) {
  return picture_of(width, height,
                    [&](int x, int y) -> Vec3 { return Vec3::constant(x == at_x && y == at_y ? value : 0.0f); });
}

Image blurred(gl::Device& device, const Image& picture, const passes::Blur& options) {
  PictureFrame one(picture);
  passes::Blur with = options;
  with.from = one.light;
  with.color = one.result;
  one.frame.add(passes::blur(with));
  return one.run(device);
}

Image bloomed(gl::Device& device, const Image& picture, const Bloom& options) {
  PictureFrame one(picture);
  Bloom with = options;
  with.light = one.light;
  with.color = one.result;
  one.frame.add(passes::bloom(with));
  return one.run(device);
}

/// Share of a Gaussian of unit deviation below x.
double below(double x) {
  return 0.5 * std::erfc(-x / std::sqrt(2.0));
}

}  // namespace

TEST_CASE("a Gaussian's taps hold all of it, and pairs give what single pixels give") {
  for (const float deviation : {0.0f, 0.2f, 0.5f, 1.0f, 3.3f, 17.0f, 400.0f}) {
    const auto sum = [](const std::vector<passes::BlurTap>& taps, const auto& of) {
      double total = taps[0].weight * of(0.0);
      for (std::size_t i = 1; i < taps.size(); ++i)
        total += taps[i].weight * (of(taps[i].offset) + of(-taps[i].offset));
      return total;
    };
    const auto single = passes::gaussian_taps(deviation, false), paired = passes::gaussian_taps(deviation);
    for (const auto& taps : {single, paired}) CHECK(sum(taps, [](double) { return 1.0; }) == Approx(1).margin(1e-5));
    CHECK(paired.size() <= (single.size() + 2) / 2);
    // What is linear between pixels comes out the same.
    CHECK(sum(paired, [](double x) { return std::abs(x); }) ==
          Approx(sum(single, [](double x) { return std::abs(x); })).margin(1e-4));
    if (deviation >= 1)
      CHECK(std::sqrt(sum(single, [](double x) { return x * x; })) ==
            Approx(deviation).epsilon(0.02));  // the rest is cut off
  }
}

TEST_CASE_METHOD(TestDevice, "a blurred pixel is the Gaussian's closed form, and a blurred step its integral") {
  constexpr int size = 129;
  const float radius = 2 * 9.0f / size;  // nine pixels
  for (const int count : {1, 3}) {
    for (const bool paired : {true, false}) {
      INFO(count << " times, paired " << paired);
      const passes::Blur options{.radius = radius, .count = count, .paired = paired};
      const Image dot = blurred(device, black_but_one(size, size, 64, 64, 1000), options);
      // Halves keep eleven bits; a linear fetch may round its place to 1/256 of a pixel.
      const double peak = 1000 / (2 * 3.14159265 * 81);
      double worst = 0;
      for (int y = 40; y < 90; ++y) {
        for (int x = 40; x < 90; ++x)
          worst = std::max(
              worst, std::abs(dot.at(x, y)[0] - peak * std::exp(-((x - 64) * (x - 64) + (y - 64) * (y - 64)) / 162.0)));
      }
      CHECK(worst < 0.015 * peak);
      CHECK(mean_of(dot, 0) * size * size == Approx(1000).epsilon(1e-3));
      const Image step = blurred(
          device, picture_of(size, size, [](int x, int) -> Vec3 { return Vec3::constant(x < 64 ? 0.0f : 1.0f); }),
          options);
      for (int x = 36; x < 93; ++x) CHECK(step.at(x, 64)[0] == Approx(below((x - 63.5) / 9)).margin(0.004));
    }
  }
}

TEST_CASE_METHOD(TestDevice, "radius 0 changes nothing, the widest leaves the mean, and frames of any size do") {
  for (const auto& [width, height] : {std::pair{1, 1}, std::pair{17, 9}, std::pair{64, 3}}) {
    const Image picture = picture_of(
        width, height, [](int x, int y) { return Vec3(static_cast<float>(x % 3), static_cast<float>(y % 2), 1); });
    const Image same = blurred(device, picture, {.radius = 0});
    for (int x = 0; x < width; ++x) CHECK(same.at(x, height / 2)[0] == picture.at(x, height / 2)[0]);
    CHECK(blurred(device, picture, {.radius = 1}).at(0, 0)[2] == Approx(1).epsilon(2e-3));
    for (const BloomMethod method : {BloomMethod::pyramid, BloomMethod::gaussian}) {
      for (const float radius : {0.0f, 0.3f, 1.0f})
        CHECK(bloomed(device, picture, {.method = method, .strength = 1, .radius = radius}).at(width - 1, 0)[2] ==
              Approx(1).epsilon(4e-3));
    }
  }
}

TEST_CASE_METHOD(TestDevice, "bloom keeps the picture's mean, and spreads evenly to all sides") {
  for (const auto& [width, height] : {std::pair{256, 256}, std::pair{251, 203}}) {
    const int x = width / 2, y = height / 2;
    const Image picture = black_but_one(width, height, x, y, 10000);
    for (const BloomMethod method : {BloomMethod::pyramid, BloomMethod::gaussian}) {
      for (const float threshold : {0.0f, 100.0f}) {
        INFO(width << " x " << height << ", method " << static_cast<int>(method) << ", threshold " << threshold);
        const Image glowing = bloomed(
            device, picture, {.method = method, .strength = 0.5f, .radius = 0.12f, .threshold_nits = threshold});
        CHECK(mean_of(glowing, 1) == Approx(mean_of(picture, 1)).epsilon(4e-3));
      }
    }
    // Of what is symmetric, the middle of what is spread lies where it was: no half pixel is lost on the way.
    const Image wide = bloomed(device, picture, {.strength = 1, .radius = 0.12f});
    double at_x = 0, at_y = 0, sum = 0;
    for (int v = 0; v < height; ++v) {
      for (int u = 0; u < width; ++u) {
        const double here = wide.at(u, v)[0];
        at_x += here * u;
        at_y += here * v;
        sum += here;
      }
    }
    CHECK(at_x / sum == Approx(x).margin(0.6));  // which of a pair of pixels it is, the next level does not know
    CHECK(at_y / sum == Approx(y).margin(0.6));
  }
}

TEST_CASE_METHOD(TestDevice, "what is symmetric glows symmetrically: no level of the pyramid is half a pixel off") {
  // The middle lies between pixels on every level, so there is nothing to round. Halves keep eleven bits.
  constexpr int size = 256;
  const Image dot = picture_of(size, size, [](int x, int y) -> Vec3 {
    return Vec3::constant((x == 127 || x == 128) && (y == 127 || y == 128) ? 4000.0f : 0.0f);
  });
  for (const float radius : {0.02f, 0.12f, 0.5f}) {
    INFO("radius " << radius);
    const Image wide = bloomed(device, dot, {.strength = 1, .radius = radius});
    const double peak = wide.at(127, 127)[0];
    double worst = 0;
    for (int y = 0; y < size; ++y) {
      for (int x = 0; x < size; ++x) {
        const double here = wide.at(x, y)[0];
        for (const double other : {wide.at(size - 1 - x, y)[0], wide.at(x, size - 1 - y)[0], wide.at(y, x)[0]})
          worst = std::max(worst, std::abs(other - here));
      }
    }
    CHECK(peak > 0);
    CHECK(worst < 0.004 * peak);
  }
}

TEST_CASE_METHOD(TestDevice, "a bright pixel that moves glows as brightly wherever it is") {
  double least = 1e9, most = 0;
  for (int step = 0; step < 16; ++step) {
    const Image glowing = bloomed(device, black_but_one(256, 256, 120 + step, 128, 5000),
                                  {.strength = 1, .radius = 0.2f, .threshold_nits = 1000});
    double sum = 0;
    for (int y = 0; y < 256; ++y) {
      for (int x = 0; x < 256; ++x) sum += glowing.at(x, y)[0];
    }
    least = std::min(least, sum);
    most = std::max(most, sum);
  }
  CHECK(most / least < 1.01);
}

TEST_CASE_METHOD(TestDevice, "what is below a threshold does not glow, and a picture of bright parts glows alone") {
  const Image dim = picture_of(64, 64, [](int x, int) -> Vec3 { return Vec3::constant(x < 32 ? 10.0f : 40.0f); });
  const Image same = bloomed(device, dim, {.strength = 1, .threshold_nits = 100});
  for (int x = 0; x < 64; ++x) CHECK(same.at(x, 20)[0] == dim.at(x, 20)[0]);
  PictureFrame one(dim);
  const TargetHandle bright = one.frame.target("bright", {.format = Format::rgba16f, .clear_color = {8, 8, 8, 1}});
  one.frame.add({.name = "nothing",
                 .writes = {{.slot = "color", .target = bright}},
                 .work = gl::raw_work([](gl::PassContext&) {}, gl::Touched::nothing)});
  one.frame.add(passes::bloom({.strength = 1, .light = one.light, .bright = bright, .color = one.result}));
  const Image even = one.run(device);
  for (int x = 0; x < 64; ++x) CHECK(even.at(x, 20)[0] == Approx(dim.at(x, 20)[0]).epsilon(1e-3));
}

TEST_CASE_METHOD(TestDevice, "a pixel that is no number stays where it is, and is told") {
  const float nothing = std::numeric_limits<float>::quiet_NaN(), endless = std::numeric_limits<float>::infinity();
  for (const float strange : {nothing, endless}) {
    const Image picture =
        picture_of(64, 64, [&](int x, int y) -> Vec3 { return Vec3::constant(x == 20 && y == 30 ? strange : 1.0f); });
    for (const BloomMethod method : {BloomMethod::pyramid, BloomMethod::gaussian}) {
      PictureFrame one(picture);
      one.frame.add(passes::bloom({.method = method, .light = one.light, .color = one.result}));
      const Image glowing = one.run(device);
      for (int y = 0; y < 64; ++y) {
        for (int x = 0; x < 64; ++x) REQUIRE(std::isfinite(glowing.at(x, y)[0]));
      }
      if (strange != endless) CHECK(glowing.at(40, 30)[0] == Approx(1).epsilon(0.01));
      const std::string told = to_text(one.runner(device).diagnostics());
      CHECK(told.find("warning[not-finite-pixels]: pass \"bloom\" reads light that is no finite number, such as at "
                      "pixel 20, 33 from the lower left") != std::string::npos);
    }
    const Image soft = blurred(device, picture, {.radius = 0.1f});
    CHECK(std::isfinite(soft.at(20, 30)[0]));
    if (strange != endless) CHECK(soft.at(30, 40)[0] == Approx(1).epsilon(1e-3));
  }
}

TEST_CASE("bloom and blur tell what is out of range or missing, in C++ too") {
  FrameGraph frame;
  const TargetHandle light = frame.target("light", {});
  frame.add(passes::bloom({.strength = 2,
                           .radius = std::numeric_limits<float>::quiet_NaN(),
                           .count = 0,
                           .light = light,
                           .color = frame.output()}));
  frame.add(passes::blur({.radius = 10000, .from = light}));
  const std::string told = to_text(frame.plan(8, 8).diagnostics());
  for (const char* part :
       {"\"strength\" is 2, out of its range", "\"radius\" is nan, which is no finite number",
        "\"count\" is 0, out of its range", "\"radius\" is 10000, out of its range", "pass \"blur\" writes no color"}) {
    INFO(told);
    CHECK(told.find(part) != std::string::npos);
  }
}

TEST_CASE("passes after the scene say what light they take, so that a wrong order is told") {
  auto scene = std::make_shared<Scene>();
  scene->add_view({"front", Camera()});
  FrameGraph frame;
  const auto target = [&](const char* name) { return frame.target(name, {.format = Format::rgba16f}); };
  const TargetHandle light = target("light"), graded = target("graded"), toned = target("toned"), soft = target("soft"),
                     glowing = target("glowing");
  frame.keep(graded);
  frame.keep(glowing);
  frame.add(passes::forward({.name = "lock", .scene = scene, .view = "front", .color = light}));
  frame.add(passes::grade({.name = "look", .from = light, .color = graded}));
  frame.add(passes::tone_map({.name = "develop", .light = light, .color = toned}));
  frame.add(passes::blur({.from = toned, .color = soft}));
  frame.add(passes::bloom({.name = "glow", .light = soft, .color = glowing}));
  frame.add(passes::tone_map({.name = "develop again", .light = toned, .color = frame.output()}));
  const std::string told = to_text(frame.plan(8, 8).diagnostics());
  INFO(told);
  CHECK(told.find("warning[not-toned]: pass \"look\" takes colours of 0 to 1, as for a screen, but \"light\", which it "
                  "reads, is as bright as the scene, from pass \"lock\"") != std::string::npos);
  CHECK(told.find("warning[toned-before]: pass \"glow\" takes light as bright as it is in the scene, but pass "
                  "\"develop\" has bent \"soft\"") != std::string::npos);
  CHECK(told.find("warning[toned-twice]: pass \"develop again\" bends light into the range of a screen, but pass "
                  "\"develop\" has done so to \"toned\" already") != std::string::npos);
}
