#include "scratch.h"
#include "window/virtual_display.h"

#include <algorithm>
#include <array>
#include <chrono>
#include <thread>

using namespace periscena;

namespace {

/// An example in its window, used by somebody.
class Used {
 public:
  /// @param frame  a file in examples/ that it takes
  Used(const std::string& name, const std::string& title, const std::string& frame = {})
      : scratch_(name),
        file_(scratch_ / "picture.png"),
        program_({PERISCENA_BINARY_FOLDER "/examples/example_" + name, file_.string(),
                  PERISCENA_SOURCE_FOLDER "/examples/" + frame}) {
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
  viewer.does("mousemove --sync 700 300 mouseup 1");
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
