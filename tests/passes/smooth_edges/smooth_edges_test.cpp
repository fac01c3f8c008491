#include "passes/picture_pass.h"

#include <periscena/image/color.h>
#include <periscena/passes/shrink.h>
#include <periscena/passes/smooth_edges.h>

#include <cmath>

using namespace periscena;
using passes::EdgeWay;
using passes::ShrinkFilter;

namespace {

constexpr int size = 64;

/// Light on one side of a line through the middle, by how much of each pixel it covers; or all or nothing, by its
/// middle.
Image half_plane(double degrees, bool covered) {
  const double nx = std::cos(degrees * 3.14159265358979 / 180), ny = std::sin(degrees * 3.14159265358979 / 180);
  return picture_of(size, size, [&](int x, int y) -> Vec3 {
    const int fine = covered ? 16 : 1;
    int inside = 0;
    for (int v = 0; v < fine; ++v) {
      for (int u = 0; u < fine; ++u)
        inside += nx * (x + (u + 0.5) / fine - 31.7) + ny * (y + (v + 0.5) / fine - 32.2) > 0;
    }
    return Vec3::constant(static_cast<float>(inside) / static_cast<float>(fine * fine));
  });
}

Image smoothed(gl::Device& device, const Image& picture, passes::SmoothEdges options) {
  PictureFrame one(picture);
  options.from = one.light;
  options.color = one.result;
  one.frame.add(passes::smooth_edges(options));
  return one.run(device);
}

/// Root mean square of what differs, away from the picture's own edges.
double error(const Image& a, const Image& b) {
  double sum = 0;
  for (int y = 4; y < size - 4; ++y) {
    for (int x = 4; x < size - 4; ++x) sum += std::pow(a.at(x, y)[0] - b.at(x, y)[0], 2);
  }
  return std::sqrt(sum / ((size - 8) * (size - 8)));
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "edges come nearer to what they cover, at any angle, and most by their shapes") {
  for (const double degrees : {7.0, 20.0, 45.0, 63.0, 84.0, 200.0, 290.0}) {
    INFO(degrees << "°");
    const Image hard = half_plane(degrees, false), exact = half_plane(degrees, true);
    const double before = error(hard, exact);
    CHECK(error(smoothed(device, hard, {.way = EdgeWay::quick}), exact) < 0.85 * before);
    // How far a diagonal lies from its pixels' middles, its even steps do not tell.
    CHECK(error(smoothed(device, hard, {.way = EdgeWay::shapes}), exact) < (degrees == 45 ? 0.8 : 0.5) * before);
  }
}

TEST_CASE_METHOD(TestDevice, "straight edges along pixels, even parts and what differs too little stay as they are") {
  const Image upright = half_plane(0, false),
              even = picture_of(size, size, [](int, int) -> Vec3 { return Vec3::constant(0.3f); });
  const Image faint =
      picture_of(size, size, [](int x, int y) -> Vec3 { return Vec3::constant(x + y > 60 ? 0.3f : 0.29f); });
  const Image upright_smooth = smoothed(device, upright, {});
  for (int y = 20; y < 44; ++y) {
    for (int x = 4; x < size - 4; ++x) REQUIRE(upright_smooth.at(x, y)[0] == upright.at(x, y)[0]);
  }
  for (const EdgeWay way : {EdgeWay::quick, EdgeWay::shapes}) {
    CHECK(error(smoothed(device, even, {.way = way}), even) == 0);
    CHECK(error(smoothed(device, faint, {.way = way}), faint) == 0);
    const Image tiny =
        picture_of(17, 9, [](int x, int y) -> Vec3 { return Vec3::constant((x + y) % 2 ? 1.0f : 0.0f); });
    CHECK(std::isfinite(smoothed(device, tiny, {.way = way}).at(0, 0)[0]));
    CHECK(smoothed(device, picture_of(1, 1, [](int, int) -> Vec3 { return Vec3::constant(0.5f); }), {.way = way})
              .at(0, 0)[0] == 0.5f);
  }
}

TEST_CASE_METHOD(TestDevice, "a larger picture is brought down as the filter's formula says, by any factor") {
  for (const float scale : {2.0f, 3.0f, 2.5f, 1.0f}) {
    for (const ShrinkFilter filter :
         {ShrinkFilter::box, ShrinkFilter::tent, ShrinkFilter::mitchell, ShrinkFilter::lanczos}) {
      INFO(scale << " times, filter " << static_cast<int>(filter));
      const int large = static_cast<int>(20 * scale);
      const Image picture = picture_of(large, large, [](int x, int y) {
        return Vec3(static_cast<float>((x * 7 + y * 3) % 11) / 10, 1, static_cast<float>(x > y));
      });
      PictureFrame one(picture);
      FrameGraph frame;
      const TargetHandle from = frame.target(
          "light",
          {.format = Format::rgba32f, .size = TargetSize::pixels(large, large), .origin = Origin::outside_texture});
      const TargetHandle into = frame.target("result", {.format = Format::rgba32f});
      frame.keep(into);
      frame.add(passes::shrink({.filter = filter, .from = from, .color = into}));
      gl::Texture texture(large, large, Format::rgba32f, "large");
      texture.upload(picture);
      gl::FrameRunner runner(device, frame.plan(20, 20, device.limits()).value(),
                             {{.target = "light", .name = texture.name()}});
      runner.run(0);
      const Image small = runner.read("result");
      for (const auto& [px, py] : {std::pair{0, 0}, std::pair{7, 11}, std::pair{19, 10}}) {
        double sum = 0, weights = 0;
        for (int y = -20; y < large + 20; ++y) {
          for (int x = -20; x < large + 20; ++x) {
            const double weight = static_cast<double>(passes::shrink_weight(
                                      filter, (static_cast<float>(x) + 0.5f) / scale - static_cast<float>(px) - 0.5f)) *
                                  static_cast<double>(passes::shrink_weight(
                                      filter, (static_cast<float>(y) + 0.5f) / scale - static_cast<float>(py) - 0.5f));
            sum += weight * picture.at(std::clamp(x, 0, large - 1), std::clamp(y, 0, large - 1))[0];
            weights += weight;
          }
        }
        // What lies on a box' very edge may count or not.
        if (filter != ShrinkFilter::box || scale != 2.5f)
          CHECK(small.at(px, py)[0] == Approx(std::max(0.0, sum / weights)).margin(2e-5));
        CHECK(small.at(px, py)[1] == Approx(1));
      }
    }
  }
}
