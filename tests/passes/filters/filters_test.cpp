#include "passes/picture_pass.h"
#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/image/color.h>
#include <periscena/image/color_table.h>
#include <periscena/passes/filters.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/meter.h>
#include <periscena/passes/tone_map.h>

#include <fmt/format.h>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

template <class Options, class Make>
Image filtered(gl::Device& device, const Image& picture, Options options, Make make, double seconds = 0) {
  PictureFrame one(picture);
  options.from = one.light;
  options.color = one.result;
  one.frame.add(make(options, Place::here()));
  return one.run(device, seconds);
}

/// A table whose entries are as good as random.
std::string table_text(int dimensions, int size) {
  std::mt19937 random(11);
  std::uniform_real_distribution<float> even(0, 1);
  std::string text = fmt::format(
      "# made by a test\nTITLE \"dusk\"\nLUT_{}D_SIZE {}\nDOMAIN_MIN 0.1 0 0\nDOMAIN_MAX 0.9 1 2\n", dimensions, size);
  const int count = dimensions == 3 ? size * size * size : size;
  for (int i = 0; i < count; ++i)
    text += fmt::format("{:.6f} {:.6f} {:.6f}\n", even(random), even(random), even(random));
  return text;
}

double encoded(double light) {
  return linear_to_srgb(light);
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "a grade is its formula, and does nothing as it is") {
  const Image picture = noise_picture(31, 7);
  const Image same = filtered(device, picture, passes::Grade{}, passes::grade);
  const passes::Grade options{
      .lift = {0.1f, 0, -0.1f}, .gamma = {1.5f, 1, 0.7f}, .gain = {1.1f, 0.8f, 1}, .saturation = 0.4f};
  const Image graded = filtered(device, picture, options, passes::grade);
  const double share[] = {0.2126, 0.7152, 0.0722};
  for (int x = 0; x < 31; ++x) {
    const auto from = picture.at(x, 3), kept = same.at(x, 3), to = graded.at(x, 3);
    double changed[3], grey = 0;
    for (std::size_t i = 0; i < 3; ++i) {
      CHECK(kept[i] == Approx(from[i]).margin(2e-6));
      const double c = encoded(from[i]);
      const double bent =
          std::pow(std::max(0.0, options.gain[i] * (c + options.lift[i] * (1 - c))), 1.0 / options.gamma[i]);
      changed[i] = std::min(bent, 1.0);
      grey += share[i] * changed[i];
    }
    for (std::size_t i = 0; i < 3; ++i)
      CHECK(to[i] == Approx(srgb_to_linear(grey + 0.4f * (changed[i] - grey))).margin(1e-5));
  }
}

TEST_CASE_METHOD(TestDevice, "a colour table gives what exact interpolation gives, of one dimension and of three") {
  const Scratch scratch("tables");
  const Image picture = noise_picture(64, 16);
  for (const int dimensions : {1, 3}) {
    for (const bool of_light : {false, true}) {
      const auto file = scratch / fmt::format("{}.cube", dimensions);
      write_file(file, table_text(dimensions, dimensions == 3 ? 17 : 4999));
      const ColorTable table = read_color_table(file);
      CHECK(table.title == "dusk");
      const Image changed = filtered(
          device, picture, passes::ColorTablePass{.file = file.string(), .of_light = of_light}, passes::color_table);
      for (int y = 0; y < 16; ++y) {
        for (int x = 0; x < 64; ++x) {
          const auto from = picture.at(x, y);
          std::array<float, 3> color{};
          for (std::size_t i = 0; i < 3; ++i) color[i] = static_cast<float>(of_light ? from[i] : encoded(from[i]));
          const std::array<float, 3> exact = table.at(color);
          // A place along 4,998 steps in 24 bits.
          for (std::size_t i = 0; i < 3; ++i)
            REQUIRE(changed.at(x, y)[i] == Approx(of_light ? static_cast<double>(exact[i]) : srgb_to_linear(exact[i]))
                                               .margin(dimensions == 1 ? 3e-3 : 2e-5));
        }
      }
    }
  }
}

TEST_CASE("a colour table meets its entries, and is linear between them") {
  std::string text = "LUT_3D_SIZE 2\n";
  for (int i = 0; i < 8; ++i) text += fmt::format("{} {} {}\n", i & 1, (i >> 1) & 1, i >> 2);
  const ColorTable same = parse_color_table(text, "same.cube");
  for (const std::array<float, 3>& color :
       {std::array{0.0f, 0.0f, 0.0f}, std::array{0.25f, 0.5f, 0.75f}, std::array{1.0f, 0.1f, 0.9f}}) {
    for (std::size_t i = 0; i < 3; ++i) CHECK(same.at(color)[i] == Approx(color[i]).margin(1e-6));
  }
  CHECK(same.at({-1, 2, 0.5f}) == std::array{0.0f, 1.0f, 0.5f});
}

TEST_CASE("a spoilt colour table is told with its line") {
  const struct {
    std::string text;
    const char* told;
  } spoilt[] = {{"", "says no LUT_3D_SIZE"},
                {"LUT_3D_SIZE 1\n", "bad.cube:1:1: error[bad-table]: the colour table can't be read: its size is 1"},
                {"LUT_3D_SIZE 300\n", "its size is 300"},
                {"LUT_3D_SIZE 2.5\n", "its size is 2.5"},
                {"LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n", "its size twice"},
                {"LUT_1D_SIZE 2\n0 0 0\n", "holds 1 colours, and its size asks for 2"},
                {"LUT_1D_SIZE 2\n0 0 0\n1 1 1\n1 1 1\n",
                 "bad.cube:4:1: error[bad-table]: the colour table can't be read: it holds more colours"},
                {"LUT_1D_SIZE 2\n0 0\n", "2 numbers where three belong"},
                {"LUT_1D_SIZE 2\n0 0 nan\n", "\"nan\" is no finite number"},
                {"LUT_1D_SIZE 2\n0 0 1e99\n", "\"1e99\" is no finite number"},
                {"LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 1 2 2\n", "domain has no extent"},
                {"0 0 0\n", "colours come before its size"},
                {"GIF89a", "\"GIF89a\" is nothing that a .cube file says"}};
  for (const auto& one : spoilt) {
    const std::string told = thrown_text([&] { parse_color_table(one.text, "bad.cube"); });
    INFO(told);
    CHECK(told.find(one.told) != std::string::npos);
  }
  const std::string whole = table_text(3, 5);
  for (std::size_t length = 0; length + 2 < whole.size(); length += 37) {
    const std::string told = thrown_text([&] { parse_color_table(whole.substr(0, length), "cut.cube"); });
    CHECK((told.find("bad-table") != std::string::npos));
  }
}

TEST_CASE_METHOD(TestDevice, "a vignette leaves the middle, and takes its share of the corners") {
  const Image even = picture_of(81, 41, [](int, int) -> Vec3 { return Vec3::constant(0.8f); });
  const Image dark = filtered(device, even, passes::Vignette{.strength = 0.5f, .start = 0.2f}, passes::vignette);
  CHECK(dark.at(40, 20)[1] == 0.8f);
  CHECK(dark.at(0, 0)[1] == Approx(0.8 * (1 - 0.5)).epsilon(0.01));
  for (int y = 0; y < 41; ++y) {
    for (int x = 0; x < 81; ++x) REQUIRE(dark.at(x, y)[0] == Approx(dark.at(80 - x, 40 - y)[0]).margin(1e-6));
  }
}

TEST_CASE_METHOD(TestDevice, "grain has its deviation, no mean, none in black and white, and changes with time alone") {
  const float middle = static_cast<float>(srgb_to_linear(0.5));
  const Image picture = picture_of(200, 200, [&](int x, int) -> Vec3 {
    return Vec3::constant(x < 10 ? 0.0f : x >= 190 ? 1.0f : middle);
  });
  const passes::Grain options{.strength = 0.05f, .rate = 10};
  const Image first = filtered(device, picture, options, passes::grain, 3.01),
              again = filtered(device, picture, options, passes::grain, 3.09),
              later = filtered(device, picture, options, passes::grain, 3.11);
  double sum = 0, squares = 0;
  int changed = 0;
  for (int y = 0; y < 200; ++y) {
    for (int x = 0; x < 200; ++x) {
      const double here = first.at(x, y)[0];
      REQUIRE(here == again.at(x, y)[0]);
      if (x < 10) REQUIRE(here == 0);
      if (x >= 190) REQUIRE(here == Approx(1).margin(1e-6));  // what a power rounds
      if (x < 10 || x >= 190) continue;
      const double off = encoded(here) - 0.5;
      sum += off;
      squares += off * off;
      changed += here != later.at(x, y)[0];
    }
  }
  CHECK(std::abs(sum / 36000) < 0.05 / std::sqrt(36000) * 4);
  CHECK(std::sqrt(squares / 36000) == Approx(0.05).epsilon(0.03));
  CHECK(changed > 35000);
}

TEST_CASE_METHOD(TestDevice, "cells have the mean of what is in them, those at the edge of what is left") {
  const Image picture = noise_picture(17, 9);
  const Image large = filtered(device, picture, passes::Pixelate{.cell = 4}, passes::pixelate);
  for (int y = 0; y < 9; ++y) {
    for (int x = 0; x < 17; ++x) {
      double sum = 0;
      int count = 0;
      for (int v = y / 4 * 4; v < std::min(9, y / 4 * 4 + 4); ++v) {
        for (int u = x / 4 * 4; u < std::min(17, x / 4 * 4 + 4); ++u, ++count) sum += picture.at(u, v)[2];
      }
      REQUIRE(large.at(x, y)[2] == Approx(sum / count).epsilon(1e-5));
    }
  }
  const Image one = filtered(device, noise_picture(1, 1), passes::Pixelate{.cell = 256}, passes::pixelate);
  CHECK(one.at(0, 0)[0] == Approx(noise_picture(1, 1).at(0, 0)[0]));
}

TEST_CASE_METHOD(TestDevice,
                 "sharpening leaves even parts and adds no rims, and a fringe leaves the middle and green") {
  const Image step = picture_of(40, 20, [](int x, int) -> Vec3 {
    return Vec3::constant(x < 20 ? 0.2f : x == 20 ? 0.4f : 0.8f);
  });
  const Image crisp = filtered(device, step, passes::Sharpen{.strength = 2}, passes::sharpen);
  for (int x = 0; x < 40; ++x) {
    if (std::abs(x - 20) > 1) CHECK(crisp.at(x, 10)[0] == Approx(step.at(x, 10)[0]).margin(1e-6));
    CHECK(crisp.at(x, 10)[0] >= 0.2f - 1e-6);
    CHECK(crisp.at(x, 10)[0] <= 0.8f + 1e-6);
  }
  CHECK(crisp.at(20, 10)[0] < 0.4f);
  const Image parted = filtered(
      device, picture_of(201, 101, [](int x, int) -> Vec3 { return Vec3::constant(static_cast<float>(x) / 200); }),
      passes::Fringe{.strength = 0.02f}, passes::fringe);
  CHECK(parted.at(100, 50)[0] == Approx(0.5).margin(2e-3));
  for (int x = 5; x < 196; x += 10) {
    CHECK(parted.at(x, 30)[1] == Approx(x / 200.0).margin(1e-5));
    CHECK(parted.at(x, 30)[0] == Approx(x / 200.0 - 0.02 * (x / 200.0 - 0.5)).margin(2e-3));
    CHECK(parted.at(x, 30)[2] == Approx(x / 200.0 + 0.02 * (x / 200.0 - 0.5)).margin(2e-3));
  }
}
