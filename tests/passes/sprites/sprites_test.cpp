#include "gl/device.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/image/color.h>
#include <periscena/passes/sprites.h>
#include <periscena/scene/sprite_sheet.h>

#include <cmath>
#include <random>

using namespace periscena;
using passes::Sprite;

namespace {

constexpr int width = 40, height = 30;

/// Pixels that all differ; the right column is half transparent.
SpriteSheet sheet_of(const std::string& name, int columns, int rows, int cell_width, int cell_height, int shade) {
  auto image = std::make_shared<Image>(columns * cell_width, rows * cell_height, Format::rgba8_srgb);
  for (int y = 0; y < image->height(); ++y) {
    for (int x = 0; x < image->width(); ++x) {
      const double alpha = x % cell_width == cell_width - 1 ? 128 : 255;
      image->set(x, y, {40.0 + 9 * x, 30.0 + 11 * y, static_cast<double>(shade), alpha});
    }
  }
  return SpriteSheet::grid(name, image, columns, rows);
}

struct Album {
  passes::Sprites options{.sheets = {sheet_of("birds", 4, 1, 5, 3, 200), sheet_of("bees", 1, 2, 2, 6, 90)},
                          .filter = Filter::nearest};

  FrameGraph frame() const {
    FrameGraph graph;
    const TargetHandle color = graph.target("color", {.format = Format::rgba32f});
    graph.keep(color);
    passes::Sprites own = options;
    own.color = color;
    graph.add(passes::sprites(own));
    return graph;
  }

  Image render(gl::Device& device, double seconds = 0) const {
    gl::FrameRunner runner(device, frame().plan(width, height, device.limits()).value());
    runner.run(seconds);
    return runner.read("color");
  }

  /// What a pixel of a sheet becomes on nothing.
  static std::array<double, 4> shown(const SpriteSheet& sheet, std::size_t cell, int x, int y) {
    const auto pixel = sheet.image->at(sheet.cells[cell].x + x, sheet.cells[cell].y + y);
    const double alpha = pixel[3] / 255;
    return {srgb_to_linear(pixel[0] / 255) * alpha, srgb_to_linear(pixel[1] / 255) * alpha,
            srgb_to_linear(pixel[2] / 255) * alpha, alpha};
  }
};

/// Sheets are kept in half floats.
bool near(const std::array<double, 4>& a, const std::array<double, 4>& b) {
  for (std::size_t i = 0; i < 4; ++i) {
    if (std::abs(a[i] - b[i]) > 1e-3) return false;
  }
  return true;
}

bool has(const Diagnostics& diagnostics, const std::string& slug) {
  return std::any_of(diagnostics.begin(), diagnostics.end(),
                     [&](const Diagnostic& found) { return found.slug == slug; });
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "sprites lie pixel by pixel where they were put, from any corner, mirrored, turned") {
  const auto sprite = [](passes::Corner corner, bool across, bool up, float degrees) {
    Sprite made;
    made.sheet = "birds";
    made.cell = "2";
    made.at = {3, 4};
    made.corner = corner;
    made.flip_across = across;
    made.flip_up = up;
    made.rotation = radians(degrees);
    return made;
  };
  const struct {
    Sprite sprite;
    int x, y;  ///< of its upper left pixel, as it lies
    bool across, up;
  } cases[] = {{sprite(passes::Corner::upper_left, false, false, 0), 3, 4, false, false},
               {sprite(passes::Corner::upper_right, false, false, 0), width - 3 - 5, 4, false, false},
               {sprite(passes::Corner::lower_left, true, false, 0), 3, height - 4 - 3, true, false},
               {sprite(passes::Corner::lower_right, true, true, 0), width - 3 - 5, height - 4 - 3, true, true},
               // Half a turn is both mirrored.
               {sprite(passes::Corner::upper_left, false, false, 180), 3, 4, true, true}};
  for (const auto& one : cases) {
    INFO("corner " << static_cast<int>(one.sprite.corner) << ", turned " << one.sprite.rotation);
    Album album;
    album.options.sprites = {one.sprite};
    const Image image = album.render(device);
    for (int y = 0; y < height; ++y) {
      for (int x = 0; x < width; ++x) {
        const int u = x - one.x, v = y - one.y;
        const bool inside = u >= 0 && v >= 0 && u < 5 && v < 3;
        const auto expected = inside
                                  ? Album::shown(album.options.sheets[0], 2, one.across ? 4 - u : u, one.up ? 2 - v : v)
                                  : std::array<double, 4>{0, 0, 0, 0};
        INFO("pixel " << x << ", " << y);
        REQUIRE(near(image.at(x, y), expected));
      }
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a quarter turn goes counter-clockwise, a width keeps the aspect, a tint multiplies") {
  Album album;
  Sprite sprite;
  sprite.sheet = "bees";
  sprite.at = {10, 10};
  sprite.rotation = radians(90);
  sprite.tint = {0.5f, 1, 0};
  sprite.alpha = 0.5f;
  sprite.width = 4;  // twice as large: 4 x 12, turned about its middle: 12 x 4 from 6, 14
  album.options.sprites = {sprite};
  const Image image = album.render(device);
  // Its upper edge is on the left now: the cell's pixel 0, 0 at the lower left.
  const auto corner = Album::shown(album.options.sheets[1], 0, 0, 0);
  const std::array<double, 4> tinted{corner[0] * 0.25, corner[1] * 0.5, 0, corner[3] * 0.5};
  REQUIRE(near(image.at(6, 17), tinted));
  REQUIRE(near(image.at(7, 16), tinted));
  REQUIRE(image.at(5, 16)[3] == 0);
  REQUIRE(image.at(6, 18)[3] == 0);
  REQUIRE(image.at(17, 14)[3] > 0);
  REQUIRE(image.at(18, 14)[3] == 0);
}

TEST_CASE_METHOD(TestDevice, "cells are run through by the time, forward and backward, and round again") {
  Album album;
  Sprite sprite;
  sprite.sheet = "birds";
  sprite.cell = "1";
  sprite.cells = 3;
  for (const float rate : {2.0f, -2.0f}) {
    sprite.cells_a_second = rate;
    album.options.sprites = {sprite};
    for (int half = 0; half < 7; ++half) {
      const std::size_t expected = 1 + static_cast<std::size_t>(((rate > 0 ? half : -half - 1) % 3 + 3) % 3);
      INFO("half second " << half << " at " << rate);
      REQUIRE(
          near(album.render(device, 0.5 * half + 0.1).at(0, 0), Album::shown(album.options.sheets[0], expected, 0, 0)));
    }
  }
}

TEST_CASE_METHOD(TestDevice, "order decides who lies on top, alpha blends, and a least alpha cuts") {
  Album album;
  Sprite below, above;
  below.sheet = "birds";
  above.sheet = "bees";
  above.order = -1;
  album.options.sprites = {below, above};
  const auto bird = Album::shown(album.options.sheets[0], 0, 0, 0),
             bee = Album::shown(album.options.sheets[1], 0, 0, 0),
             edge = Album::shown(album.options.sheets[1], 0, 1, 0),
             under = Album::shown(album.options.sheets[0], 0, 1, 0);
  REQUIRE(near(album.render(device).at(0, 0), bird));
  album.options.sprites[1].order = 0;
  const Image image = album.render(device);
  REQUIRE(near(image.at(0, 0), bee));
  // The bee's right column is half there.
  std::array<double, 4> mixed{};
  for (std::size_t i = 0; i < 4; ++i) mixed[i] = edge[i] + (1 - edge[3]) * under[i];
  REQUIRE(near(image.at(1, 0), mixed));
  album.options.least_alpha = 0.6f;
  REQUIRE(near(album.render(device).at(1, 0), under));
  album.options.least_alpha = 0.4f;
  REQUIRE(album.render(device).at(1, 0)[3] == 1);
}

TEST_CASE_METHOD(TestDevice,
                 "ten thousand sprites of two sheets are one draw call, and nothing is sent for them again") {
  Album album;
  std::mt19937 dice(1);
  for (int i = 0; i < 10000; ++i) {
    Sprite sprite;
    sprite.sheet = i % 2 ? "birds" : "bees";
    sprite.at = {static_cast<float>(dice() % width), static_cast<float>(dice() % height)};
    sprite.order = static_cast<int>(dice() % 5);
    album.options.sprites.push_back(sprite);
  }
  gl::FrameRunner runner(device, album.frame().plan(width, height, device.limits()).value());
  runner.run(0);
  runner.run(1);
  REQUIRE(runner.counts().draw_calls == 1);
  REQUIRE(runner.counts().triangles == 20000);
  REQUIRE(runner.counts().bytes_sent <= 1024);
  REQUIRE(runner.batches(0).size() == 1);
}

TEST_CASE_METHOD(TestDevice, "filtered sprites take nothing from the cells beside theirs") {
  auto image = std::make_shared<Image>(16, 8, Format::rgba8_srgb);
  for (int y = 0; y < 8; ++y)
    for (int x = 0; x < 16; ++x) image->set(x, y, {x < 8 ? 0.0 : 255.0, x < 8 ? 255.0 : 0.0, 0, 255});
  passes::Sprites options{.sheets = {SpriteSheet::grid("two", image, 2, 1)}};
  Sprite sprite;
  sprite.width = 29;
  options.sprites = {sprite};
  Album album;
  album.options = options;
  const Image shown = album.render(device);
  for (int x = 0; x < 29; ++x) REQUIRE(shown.at(x, 10)[0] == 0);
  REQUIRE(shown.at(28, 10)[1] == Approx(1).margin(1e-3));
}

TEST_CASE("sprites that can't be drawn are told before anything runs") {
  const auto told = [](const std::function<void(passes::Sprites&)>& change) {
    Album album;
    Sprite sprite;
    sprite.sheet = "birds";
    album.options.sprites = {sprite};
    change(album.options);
    return album.frame().plan(width, height).diagnostics();
  };
  REQUIRE(told([](passes::Sprites&) {}).empty());
  REQUIRE(has(told([](passes::Sprites& o) { o.sprites[0].sheet = "brids"; }), "unknown-sheet"));
  REQUIRE(has(told([](passes::Sprites& o) { o.sprites[0].sheet = {}; }), "unknown-sheet"));
  REQUIRE(has(told([](passes::Sprites& o) { o.sprites[0].cell = "9"; }), "unknown-cell"));
  REQUIRE(has(told([](passes::Sprites& o) { o.sprites[0].cells = 5; }), "out-of-range"));
  REQUIRE(has(told([](passes::Sprites& o) { o.sprites[0].cells = 0; }), "out-of-range"));
  REQUIRE(has(told([](passes::Sprites& o) { o.sprites[0].at.x() = NAN; }), "not-finite"));
  REQUIRE(has(told([](passes::Sprites& o) { o.sprites[0].width = -1; }), "out-of-range"));
  REQUIRE(has(told([](passes::Sprites& o) { o.sheets = {}; }), "no-sprites"));
  REQUIRE(has(told([](passes::Sprites& o) { o.sheets[0].cells[0].width = 99; }), "bad-sheet"));
  REQUIRE(has(told([](passes::Sprites& o) { o.least_alpha = 2; }), "out-of-range"));
}
