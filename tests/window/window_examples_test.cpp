#include "scratch.h"
#include "window/virtual_display.h"

#include <periscena/base/file.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <thread>

using namespace periscena;

namespace {

/// An example in its window, used by somebody.
class Used {
 public:
  /// @param frame  a file that it takes, from examples/
  Used(const std::string& name, const std::string& title, const std::string& frame = {})
      : scratch_(name),
        file_(scratch_ / "picture.png"),
        program_({PERISCENA_BINARY_FOLDER "/examples/example_" + name, file_.string(),
                  (std::filesystem::path(PERISCENA_SOURCE_FOLDER "/examples") / frame).string()}) {
    // Named before it is shown: one that is not shown yet can't have the keys.
    window_ = act("search --sync --onlyvisible --name '" + title + "'");
    act("windowmove " + window_ + " 100 50 windowfocus --sync " + window_);
  }

  /// Words of xdotool, with pointer positions in the screen: the window is at 100, 50.
  void does(const std::string& words) { act(words); }
  const std::string& window() const { return window_; }

  /// What the key s saves, once all that was done before is in it.
  Image picture() {
    Image last = saved();
    for (int i = 0; i < 50; ++i) {
      Image now = saved();
      if (now == last) return now;
      last = std::move(now);
    }
    FAIL("the picture does not come to rest");
    return last;
  }

  Image saved() {
    std::filesystem::remove(file_);
    act("key s");
    for (int i = 0; i < 600 && !std::filesystem::exists(file_); ++i) {
      REQUIRE_FALSE(program_.has_ended());
      std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    return read_png(file_.string());
  }

  int end() {
    act("key Escape");
    return program_.wait();
  }

 private:
  VirtualDisplay display_;
  Scratch scratch_;
  std::filesystem::path file_;
  Running program_;
  std::string window_;
};

/// Pixels of which this is true.
template <class Test>
int count(const Image& image, const Test& test) {
  int found = 0;
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x) found += test(image.at(x, y));
  return found;
}

bool is_brass(const std::array<double, 4>& pixel) {
  return pixel[0] > 50 && pixel[0] > 1.4 * pixel[2];
}

double mean(const Image& image) {
  double sum = 0;
  for (const std::byte byte : image.bytes()) sum += static_cast<double>(byte);
  return sum / static_cast<double>(image.bytes().size());
}

}  // namespace

TEST_CASE("example 36: dragging turns the cube, the wheel brings it nearer, and the picture follows the window") {
  Used cube("36_window", "36 Window");
  const Image before = cube.picture();
  REQUIRE(before.width() == 960);
  const int brass = count(before, is_brass);
  CHECK(brass > 5000);
  CHECK(is_brass(before.at(480, 290)));
  cube.does("mousemove --sync 500 300 mousedown 1");
  cube.does("mousemove --sync 700 320 mouseup 1");
  const Image turned = cube.picture();
  CHECK(turned != before);
  CHECK(is_brass(turned.at(480, 290)));
  // Without the button nothing turns.
  cube.does("mousemove --sync 300 300");
  CHECK(cube.picture() == turned);
  cube.does("click --repeat 4 --delay 30 4");
  CHECK(count(cube.picture(), is_brass) > 1.3 * count(turned, is_brass));
  cube.does("windowsize --sync " + cube.window() + " 400 700");
  const Image tall = cube.picture();
  CHECK(tall.width() == 400);
  CHECK(tall.height() == 700);
  CHECK(is_brass(tall.at(200, 340)));
  CHECK(cube.end() == 0);
}

TEST_CASE("example 37: pendulums swing, come and go, and lamps do, too") {
  Used row("37_pendulums", "37 Pendulums");
  CHECK(row.saved() != row.saved());  // they swing
  row.does("key space");
  const Image still = row.picture();
  const int five = count(still, is_brass);
  CHECK(five > 1000);
  row.does("key r key r");
  const int three = count(row.picture(), is_brass);
  CHECK(three < five);
  row.does("key r key r key r key r");
  CHECK(count(row.picture(), is_brass) < three / 10);
  row.does("key a key a key a key a key a key a key space");
  // Let them hang where they belong, then hold still: what is compared is the light alone.
  row.saved();
  row.does("key space key l");
  const double lit = mean(row.picture());
  row.does("key k key k");
  CHECK(mean(row.picture()) < lit);
  CHECK(row.end() == 0);
}

TEST_CASE("example 38: keys change filter, radius and light of shadows, and hide the map") {
  Used quay("38_shadow_settings", "38 Shadow settings", "15_first_shadow_map.toml");
  const Image before = quay.picture();
  REQUIRE(before.width() == 960);
  quay.does("key m");
  const Image whole = quay.picture();
  // The map took a corner of 0.35 of the height.
  const int side = 189;
  CHECK(whole.at(955, 535) != before.at(955, 535));
  for (int y = 0; y < 540; y += 7)
    for (int x = 0; x < 960; x += 7)
      if (x < 959 - side || y < 539 - side) REQUIRE(whole.at(x, y) == before.at(x, y));
  std::vector<Image> seen{whole};
  for (const char* key : {"Up", "3", "Up", "4", "1", "Right"}) {
    quay.does(std::string("key ") + key);
    const Image now = quay.picture();
    for (const Image& other : seen) CHECK(now != other);
    seen.push_back(now);
  }
  quay.does("key Left key 2 key Down key m");
  CHECK(quay.end() == 0);
}

TEST_CASE("example 39: two cubes show a picture of its own, and the lens follows the pointer") {
  Scratch glsl("lens");
  const auto lens = glsl / "lens.frag";
  std::filesystem::copy_file(PERISCENA_SOURCE_FOLDER "/examples/shaders/39_lens.frag", lens);
  Used cubes("39_screens_and_lens", "39 Screens and lens", lens.string());
  CHECK(cubes.saved() != cubes.saved());  // they turn
  cubes.does("key space mousemove --sync 340 300");
  const Image left = cubes.picture();
  const auto is_green = [](const auto& pixel) { return pixel[1] > 1.3 * pixel[0] && pixel[1] > 1.2 * pixel[2]; };
  CHECK(count(left, is_green) > 10000);
  cubes.does("mousemove --sync 840 300");
  const Image right = cubes.picture();
  // All that differs lies within the lens: 110 pixels around the pointer, and the window is at 100, 50.
  int within[2] = {0, 0};
  for (int y = 0; y < 600; ++y) {
    for (int x = 0; x < 960; ++x) {
      if (left.at(x, y) == right.at(x, y)) continue;
      const int side = x > 490;
      REQUIRE(std::hypot(x - (side ? 740 : 240), y - 250) < 114);
      ++within[side];
    }
  }
  CHECK(std::min(within[0], within[1]) > 3000);
  cubes.does("click --repeat 4 --delay 30 5");
  const Image weaker = cubes.picture();
  CHECK(weaker != right);
  // Its file is read again: one with a mistake leaves the lens as it was.
  write_file(lens, std::string_view("out vec4 color;\nvoid main() { color = vec3(1); }\n"));
  cubes.does("key r");
  CHECK(cubes.picture() == weaker);
  write_file(lens,
             std::string_view("uniform sampler2D picture;\nuniform vec2 center;\nuniform float radius, strength;\n"
                              "out vec4 color;\nvoid main() {\n  vec4 own = texelFetch(picture, "
                              "ivec2(gl_FragCoord.xy), 0);\n  color = own.bgra + 1e-6 * strength * vec4(center, "
                              "radius, 0);\n}\n"));
  cubes.does("key r");
  const Image blue = cubes.picture();
  CHECK(blue.at(5, 5)[0] > blue.at(5, 5)[2]);
  CHECK(cubes.end() == 0);
}

TEST_CASE("example 40: a hundred lanterns move, and a click picks the stone that is under it") {
  Used stones("40_moving_lights", "40 Moving lights");
  CHECK(stones.saved() != stones.saved());  // they move
  stones.does("key space");
  const Image before = stones.picture();
  const auto is_white = [](const auto& pixel) { return pixel[0] > 225 && pixel[1] > 225 && pixel[2] > 225; };
  const auto pick = [&](const char* at, const std::string& title) {
    stones.does("mousemove --sync " + std::string(at) + " click 1");
    // The answer comes some frames later.
    for (int i = 0; i < 200 && act("getwindowname " + stones.window()) != title; ++i)
      std::this_thread::sleep_for(std::chrono::milliseconds(50));
    CHECK(act("getwindowname " + stones.window()) == title);
  };
  pick("580 377", "40 Moving lights: stone 31");
  const Image picked = stones.picture();
  CHECK(is_white(picked.at(480, 327)));
  CHECK(count(picked, is_white) > count(before, is_white) + 500);
  // What shone is as it was.
  pick("580 90", "40 Moving lights: nothing picked");
  CHECK(stones.picture() == before);
  CHECK(stones.end() == 0);
}

TEST_CASE("example 41: leaves fall, and the pointer catches them") {
  Used leaves("41_falling_leaves", "41 Falling leaves", "../demo/generated");
  const auto caught = [&] { return std::stoi(act("getwindowname " + leaves.window()).substr(18)); };
  for (int i = 0; i < 200 && caught() == 0; ++i)
    leaves.does("mousemove --sync " + std::to_string(150 + 40 * (i % 21)) + " 300");
  CHECK(caught() > 0);
  leaves.does("mousemove --sync 1300 900 key space");
  const Image held = leaves.picture();
  const auto is_leaf = [](const auto& pixel) { return pixel[1] > 1.3 * pixel[2]; };
  CHECK(count(held, is_leaf) > 5000);
  // The score, 44 pixels high, in the corner.
  int white = 0;
  for (int y = 16; y < 70; ++y)
    for (int x = 860; x < 960; ++x) white += held.at(x, y)[2] == 255;
  CHECK(white > 50);
  leaves.does("key r");
  CHECK(leaves.picture() != held);
  CHECK(caught() == 0);
  CHECK(leaves.end() == 0);
}

TEST_CASE("example 42: waves of plain GL calls and the scene hide each other, from all sides") {
  Used waves("42_own_calls", "42 Own calls");
  const Image first = waves.saved();
  CHECK(first != waves.saved());
  const auto is_red = [](const auto& pixel) { return pixel[0] > 2 * pixel[1] && pixel[0] > 80; };
  const auto is_water = [](const auto& pixel) { return pixel[2] > 1.15 * pixel[0] && pixel[1] > 1.1 * pixel[0]; };
  const int red = count(first, is_red);
  CHECK(red > 5000);
  CHECK(count(first, is_water) > 100000);
  // From nearly above, the upper halves of the balls are all there is of them.
  waves.does("mousemove --sync 500 200 mousedown 1");
  waves.does("mousemove --sync 500 420");
  waves.saved();  // it sees the move while the button is held
  waves.does("mouseup 1");
  const Image above = waves.saved();
  CHECK(count(above, is_red) != red);
  CHECK(count(above, is_red) > 5000);
  CHECK(waves.end() == 0);
}

TEST_CASE("example 43: a model in a window is fitted, changes its dress, and goes") {
  Used viewer("43_model_viewer", "43 Model viewer", "../demo/generated/narrowboat.glb");
  const Image before = viewer.picture();
  REQUIRE(before.width() == 960);
  const auto is_red = [](const auto& pixel) { return pixel[0] > 3 * pixel[1] && pixel[0] > 60; };
  const auto is_gold = [](const auto& pixel) {
    return pixel[0] > 60 && pixel[1] > 0.5 * pixel[0] && pixel[2] < 0.5 * pixel[1];
  };
  const int red = count(before, is_red);
  CHECK(red > 2000);
  viewer.does("key v");
  const Image gold = viewer.picture();
  CHECK(count(gold, is_red) < red / 20);
  CHECK(count(gold, is_gold) > red / 2);
  viewer.does("key v");
  CHECK(viewer.picture() == before);
  // Turned and fitted again, she fills the picture: something of hers is near two opposite sides.
  viewer.does("mousemove --sync 500 300 mousedown 1");
  viewer.does("mousemove --sync 700 300");
  viewer.saved();  // it sees the move while the button is held
  viewer.does("mouseup 1");
  viewer.does("key f");
  const Image turned = viewer.picture();
  CHECK(turned != before);
  viewer.does("key Delete");
  const Image bare = viewer.picture();
  std::array<int, 2> first{960, 600}, last{-1, -1};
  for (int x = 0; x < 960; ++x) {
    for (int y = 0; y < 600; ++y) {
      // Beyond the noise of a step that hides bands.
      if (std::abs(turned.at(x, y)[0] - bare.at(x, y)[0]) <= 12) continue;
      first = {std::min(first[0], x), std::min(first[1], y)};
      last = {std::max(last[0], x), std::max(last[1], y)};
    }
  }
  // The margin is 30 pixels.
  const int left = first[0], right = 959 - last[0], above = first[1], below = 599 - last[1];
  INFO(left << " " << right << " " << above << " " << below);
  CHECK(std::min({left, right, above, below}) > 25);
  CHECK(((left < 36 && right < 36) || (above < 36 && below < 36)));
  CHECK(viewer.end() == 0);
}

TEST_CASE("example 44: a flag waves, the pointer paints, and a lens of its own shows the left half") {
  Used flag("44_flag_and_brush", "44 Flag and brush");
  const auto is_blue = [](const auto& pixel) { return pixel[2] > 120 && pixel[0] < 60 && pixel[1] < 90; };
  const auto is_red = [](const auto& pixel) { return pixel[0] > 60 && pixel[1] < 0.6 * pixel[0]; };
  // It never rests: what was done before is in the second picture from then on.
  const auto seen = [&] {
    flag.saved();
    return flag.saved();
  };
  const Image first = seen();
  CHECK(first != flag.saved());  // it waves
  CHECK(count(first, is_red) > 20000);
  CHECK(count(first, is_blue) == 0);
  // The window is at 100, 50; the board is right of its middle.
  flag.does("mousemove --sync 780 300");
  flag.does("mousemove --sync 840 380");
  const Image painted = seen();
  // Two dabs of 9 x 9 of 128 x 128 pixels, on a board of 330 x 330.
  const int dabs = count(painted, is_blue);
  CHECK(dabs > 2 * 20 * 20);
  CHECK(dabs < 2 * 24 * 24);
  CHECK(is_blue(painted.at(680, 250)));
  CHECK_FALSE(is_blue(painted.at(720, 290)));
  flag.does("key l");
  const Image half = seen();
  CHECK(count(half, is_red) > 1.5 * count(painted, is_red));
  CHECK(count(half, is_blue) == 0);
  flag.does("key l");
  CHECK(count(seen(), is_blue) == dabs);
  CHECK(flag.end() == 0);
}
