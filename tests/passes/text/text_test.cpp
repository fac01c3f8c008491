#include "gl/device.h"
#include "passes/rendering.h"

#include <periscena/passes/world_text.h>
#include <periscena/scene/text_layout.h>

#include <cmath>

using namespace periscena;
using passes::Corner;
using passes::Text;
using passes::WorldText;

namespace {

constexpr int width = 200, height = 120;

FrameGraph frame_of(passes::Texts options) {
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
  frame.keep(color);
  options.color = color;
  frame.add(passes::text(options));
  return frame;
}

Image render(gl::Device& device, const passes::Texts& options) {
  gl::FrameRunner runner(device, frame_of(options).plan(width, height, device.limits()).value());
  runner.run(0);
  CHECK(runner.counts().draw_calls == 1);
  return runner.read("color");
}

double sum_of_alpha(const Image& image) {
  double sum = 0;
  for (int y = 0; y < image.height(); ++y) {
    for (int x = 0; x < image.width(); ++x) sum += image.at(x, y)[3];
  }
  return sum;
}

/// What a text makes of each pixel's alpha, put together from pictures of glyphs on the CPU.
std::vector<double> composed(const std::string& says, const TextStyle& style, const Vec2& upper_left, int times = 1) {
  const auto typeface = Typeface::built_in();
  const int across = times * width, down = times * height;
  std::vector<double> alpha(static_cast<std::size_t>(across * down));
  for (const PlacedGlyph& placed : lay_out(says, *typeface, style).glyphs) {
    const Vec2 pen = upper_left + placed.pen;
    const float quarters = std::floor(pen.x() * 4 + 0.5f), column = std::floor(quarters / 4);
    const GlyphPicture glyph = typeface->grey(placed.glyph, static_cast<int>(style.size), (quarters - 4 * column) / 4);
    for (int y = 0; y < glyph.height; ++y) {
      for (int x = 0; x < glyph.width; ++x) {
        const int px = static_cast<int>(column) + glyph.left + x;
        const int py = static_cast<int>(std::round(pen.y())) - glyph.top + y;
        if (px < 0 || py < 0 || px >= across || py >= down) continue;
        const double more = glyph.values[static_cast<std::size_t>(y * glyph.width + x)] / 255.0;
        double& below = alpha[static_cast<std::size_t>(py * across + px)];
        below = more + below * (1 - more);
      }
    }
  }
  return alpha;
}

/// A board that faces +z, seen from an eye.
struct Board {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  Board(const Vec3& eye, float thickness, float fov_y = radians(40), Vec3 place = Vec3::zero()) {
    Camera camera;
    camera.eye = eye + place;
    camera.target = place;
    camera.fov_y = fov_y;
    camera.near = 0.05f;
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 4, .direction = {0.3f, -0.4f, -1}}});
    const MeshHandle board = scene->add_mesh("board", shapes::box({2, 1, thickness}));
    const MaterialHandle black =
        scene->add_material({.name = "paint", .base_color = {0.7f, 0.3f, 0.1f}, .roughness = 0.8f});
    Node carrier;  // shows nothing itself, as hinges do
    carrier.name = "board";
    carrier.placement = Transform::translate(place);
    Node node;
    node.parent = scene->add_node(carrier);
    node.mesh = board;
    node.material = black;
    node.tags = {"board"};
    scene->add_node(node);
  }

  /// Ink alone is red; the board, where it is drawn, is green.
  Image render(gl::Device& device, const passes::WorldTexts& texts, bool with_board, int samples = 1) const {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f, .samples = samples});
    const TargetHandle depth = frame.target("depth", {.format = Format::depth32f});
    frame.keep(color);
    passes::Forward forward{.scene = scene, .view = "front", .color = color, .depth = depth};
    if (!with_board) forward.without_tags = {"board"};
    frame.add(passes::forward(forward));
    passes::WorldTexts own = texts;
    own.scene = scene;
    own.view = "front";
    own.color = color;
    own.depth = depth;
    frame.add(passes::world_text(own));
    gl::FrameRunner runner(device, frame.plan(160, 120, device.limits()).value());
    runner.run(0);
    return runner.read("color");
  }
};

passes::WorldTexts signs(float thickness, const std::string& says, float size) {
  passes::WorldTexts texts;
  texts.lit = false;
  texts.texts = {{.wording = {.says = says, .style = {.size = size}, .color = {50, 0, 0}},
                  .object = "board",
                  .origin = {0, 0, thickness / 2},
                  .anchor = WorldText::Anchor::middle}};
  return texts;
}

}  // namespace

TEST_CASE("grey letters are what the typeface draws, at whole rows and quarters of columns, from every corner") {
  TestDevice test;
  const std::string says = "Über AV\nto 07";
  for (const Align align : {Align::left, Align::middle, Align::right}) {
    const TextStyle style{.size = 21, .width = 0, .align = align};
    const Vec2 block = lay_out(says, *Typeface::built_in(), style).size;
    for (const Corner corner : {Corner::upper_left, Corner::upper_right, Corner::lower_left, Corner::lower_right}) {
      const Vec2 at(13.4f, 7);
      const Image image = render(
          test.device, {.texts = {{.wording = {.says = says, .style = style, .color = {0.5f, 0.25f, 2}, .alpha = 0.5f},
                                   .at = at,
                                   .corner = corner}}});
      const Vec2 upper_left(passes::is_right(corner) ? width - at.x() - block.x() : at.x(),
                            passes::is_lower(corner) ? height - at.y() - block.y() : at.y());
      const std::vector<double> expected = composed(says, style, upper_left);
      double worst = 0;
      for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
          const double alpha = 0.5 * expected[static_cast<std::size_t>(y * width + x)];
          const auto found = image.at(x, y);
          const double wanted[] = {0.5 * alpha, 0.25 * alpha, 2 * alpha, alpha};
          for (std::size_t c = 0; c < 4; ++c) worst = std::max(worst, std::abs(found[c] - wanted[c]));
        }
      }
      // Glyphs that overlap by a pixel are blended one by one at half alpha, and expected at full alpha.
      CHECK(worst < 0.06);
      CHECK(sum_of_alpha(image) > 100);
    }
  }
}

TEST_CASE("letters from distances cover what letters from outlines cover, at any size") {
  TestDevice test;
  const std::string says = "Rg8";
  for (const float size : {16.0f, 24.0f, 60.0f}) {
    CAPTURE(size);
    const Image distance = render(
        test.device,
        {.texts = {{.wording = {.says = says, .style = {.size = size}}, .at = {10, 4}, .letters = Letters::distance}}});
    // So large that hinting is nothing, then averaged over squares of pixels.
    const int times = 256 / static_cast<int>(size);
    const auto scale = static_cast<float>(times);
    const std::vector<double> large = composed(says, {.size = size * scale}, scale * Vec2(10, 4), times);
    double apart = 0, covered = 0;
    for (int y = 0; y < height; ++y) {
      for (int x = 0; x < width; ++x) {
        double mean = 0;
        for (int k = 0; k < times * times; ++k) {
          const int row = y * times + k / times, column = x * times + k % times;
          mean += large[static_cast<std::size_t>(row * times * width + column)] / (times * times);
        }
        apart += std::abs(mean - distance.at(x, y)[3]);
        covered += mean;
      }
    }
    CHECK(covered > 100);
    // A stroke at 16 pixels is 3 to 4 texels of what is kept, whose ridge bilinear filtering cuts by up to half of one.
    CHECK(apart / covered < 0.12);
    CHECK(sum_of_alpha(distance) == Approx(covered).epsilon(size < 20 ? 0.06 : 0.03));
  }
  // Twenty times the size that distances are kept in: still filled inside and empty outside.
  const Image huge = render(test.device, {.texts = {{.wording = {.says = "█", .style = {.size = 2000}},
                                                     .at = {-300, -900},
                                                     .letters = Letters::distance}}});
  CHECK(huge.at(100, 60)[3] == 1);
}

TEST_CASE("texts of many sizes and typefaces are one call, and change with the time") {
  TestDevice test;
  passes::Texts options;
  options.typefaces = {{"mono", Typeface::read("/usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf")}};
  for (int i = 0; i < 40; ++i) {
    Text text{.wording = {.says = "size " + std::to_string(i), .style = {.size = 8.0f + static_cast<float>(i)}}};
    if (i % 2) text.wording.typeface = "mono";
    if (i % 3 == 0) text.letters = Letters::distance;
    options.texts.push_back(text);
  }
  options.texts.push_back(
      {.wording = {.changing = [](double seconds) { return std::string(static_cast<std::size_t>(seconds), 'x'); }},
       .at = {0, 60}});
  gl::FrameRunner runner(test.device, frame_of(options).plan(width, height, test.device.limits()).value());
  runner.run(3);
  CHECK(runner.counts().draw_calls == 1);
  const std::uint64_t triangles = runner.counts().triangles;
  const Image three = runner.read("color");
  runner.run(3);
  CHECK(runner.counts(0).bytes_sent == 0);
  runner.run(900);  // far more letters than there was room for
  CHECK(runner.counts().triangles == triangles + 2 * 897);
  runner.run(3);
  CHECK(runner.read("color") == three);
  runner.run(0);
  CHECK(runner.counts().triangles == triangles - 2 * 3);
}

TEST_CASE("what a typeface lacks is told once, before the frame runs or while it does") {
  TestDevice test;
  passes::Texts options{
      .texts = {{.wording = {.says = "a\U0001FAE8\U0001FAE8b"}}, {.wording = {.says = "\U0001FAE8"}}}};
  const auto planned = frame_of(options).plan(width, height, test.device.limits());
  REQUIRE(planned.diagnostics().size() == 1);
  CHECK(planned.diagnostics()[0].slug == "missing-glyph");
  CHECK(planned.diagnostics()[0].message == "pass \"text\" writes what its typeface lacks: U+1FAE8");
  CHECK(sum_of_alpha(render(test.device, {.texts = {{.wording = {.says = "\U0001FAE8"}}}})) > 20);

  options.texts = {{.wording = {.changing = [](double seconds) { return seconds < 1 ? "a" : "\U0001FAE8"; }}}};
  gl::FrameRunner runner(test.device, frame_of(options).plan(width, height, test.device.limits()).value());
  runner.run(0);
  CHECK(runner.diagnostics().size() == 0);
  runner.run(1);
  runner.run(2);
  REQUIRE(runner.diagnostics().size() == 1);
  CHECK(runner.diagnostics()[0].slug == "missing-glyph");
}

TEST_CASE("letters on a surface are never eaten by it, from near and far and aslant") {
  TestDevice test;
  for (const float away : {0.4f, 3.0f, 40.0f, 900.0f}) {
    for (const float degrees : {0.0f, 50.0f, 80.0f, 86.0f}) {
      for (const Vec3& place : {Vec3(0, 0, 0), Vec3(431.7f, 20.3f, -977.1f)}) {
        CAPTURE(away, degrees, place.x());
        const float angle = radians(degrees), fov = 2 * std::atan(0.7f / std::max(1.0f, away));
        const Vec3 eye = away * Vec3(std::sin(angle), 0.05f, std::cos(angle));
        const Board board(eye, 0.02f, fov, place);
        const passes::WorldTexts texts = signs(0.02f, "osier\n█ lock", 0.3f);
        const Image with = board.render(test.device, texts, true), without = board.render(test.device, texts, false);
        double apart = 0, inked = 0;
        for (int y = 0; y < 120; ++y) {
          for (int x = 0; x < 160; ++x) {
            // The board's own red is at most 1: what the letters cover shows in proportion.
            apart = std::max(apart, (without.at(x, y)[0] - with.at(x, y)[0]) / 50);
            inked += without.at(x, y)[0] / 50;
          }
        }
        CHECK(inked > 30);
        CHECK(apart < 1e-3);
      }
    }
  }
}

TEST_CASE("letters do not show through what is before them") {
  TestDevice test;
  for (const float away : {0.5f, 3.0f, 30.0f}) {
    CAPTURE(away);
    const float thickness = 0.004f * away;  // a hair of what one sees
    const Board board(away * Vec3(0.3f, 0.1f, -1), thickness, 2 * std::atan(0.7f / std::max(1.0f, away)));
    const Image behind = board.render(test.device, signs(thickness, "█ osier █", 0.3f), true);
    double most = 0;
    for (int y = 0; y < 120; ++y) {
      for (int x = 0; x < 160; ++x) most = std::max(most, behind.at(x, y)[0]);
    }
    CHECK(most < 2);  // the ink has 50
  }
}

TEST_CASE("paint on a surface is lit as the surface is") {
  TestDevice test;
  Board board(Vec3(0.4f, 0.3f, 3), 0.02f);
  passes::WorldTexts texts = signs(0.02f, "█", 0.9f);
  texts.lit = true;
  texts.texts[0].wording.color = {0.7f, 0.3f, 0.1f};
  const Image painted = board.render(test.device, texts, true, 4);
  texts.texts[0].wording.alpha = 0;
  const Image bare = board.render(test.device, texts, true, 4);
  int lit = 0;
  for (int y = 40; y < 80; ++y) {
    for (int x = 40; x < 120; ++x) {
      lit += bare.at(x, y)[0] > 0.1;
      for (std::size_t c = 0; c < 3; ++c) CHECK(painted.at(x, y)[c] == Approx(bare.at(x, y)[c]).epsilon(1e-3));
    }
  }
  CHECK(lit > 1000);
}
