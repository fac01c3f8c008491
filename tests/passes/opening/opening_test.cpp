#include "gl/draws.h"
#include "passes/white_things.h"

#include <periscena/passes/forward.h>
#include <periscena/passes/opening.h>
#include <periscena/passes/tone_map.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int size = 64;

/// Sheets that face a parallel camera, so that which pixel shows what is counted on the fingers: 8 m are 64 pixels.
std::shared_ptr<Scene> sheets() {
  auto scene = std::make_shared<Scene>();
  Camera camera;
  camera.eye = {0, 0, 10};
  camera.near = 1;
  camera.far = 30;
  camera.parallel_height = 8;
  scene->add_view({"front", camera});
  return scene;
}

struct Sheet {
  const char* name;
  Vec3 color;  ///< of its own light
  float left, bottom, width, height, z;
  const char* tag;
};

std::shared_ptr<Scene> with(std::shared_ptr<Scene> scene, std::initializer_list<Sheet> list) {
  for (const Sheet& sheet : list) {
    Node node;
    node.name = sheet.name;
    node.mesh = scene->add_mesh(sheet.name, shapes::box({sheet.width, sheet.height, 0.01f}));
    node.material =
        scene->add_material({.name = sheet.name, .shading = Material::Shading::unlit, .base_color = sheet.color});
    node.placement = Transform::translate({sheet.left + sheet.width / 2, sheet.bottom + sheet.height / 2, sheet.z});
    node.tags = {sheet.tag};
    scene->add_node(node);
  }
  return scene;
}

struct Windows {
  FrameGraph frame;
  TargetHandle color, depth;

  explicit Windows(int samples = 1) {
    color = frame.target("color", {.format = Format::rgba32f, .samples = samples});
    depth = frame.target("depth", {.format = Format::depth32f_stencil8});
    frame.keep(color);
  }

  void draw(const char* name, const std::shared_ptr<const Scene>& scene, std::vector<Reference> without,
            const char* inside = "") {
    Pass pass = passes::forward({.name = name,
                                 .scene = scene,
                                 .view = "front",
                                 .lights = std::vector<Reference>{},
                                 .without_tags = std::move(without),
                                 .color = color,
                                 .depth = depth});
    pass.inside = inside;
    frame.add(std::move(pass));
  }

  void open(const char* name, const std::shared_ptr<const Scene>& scene, const char* tag, const char* inside = "") {
    Pass pass = passes::opening({.name = name, .scene = scene, .view = "front", .tags = {tag}, .depth = depth});
    pass.inside = inside;
    frame.add(std::move(pass));
  }

  Image run(gl::Device& device) {
    gl::FrameRunner runner(device, planned(frame, device, size, size));
    runner.run(0);
    return runner.read("color");
  }
};

bool in(int x, int y, float left, float bottom, float width, float height) {
  const float px = (static_cast<float>(x) + 0.5f) / 8 - 4, py = 4 - (static_cast<float>(y) + 0.5f) / 8;
  return px > left && px < left + width && py > bottom && py < bottom + height;
}

const Vec3 red(1, 0, 0), green(0, 1, 0), blue(0, 0, 1), white(1, 1, 1), grey(0.5f, 0.5f, 0.5f);

}  // namespace

TEST_CASE_METHOD(
    TestDevice,
    "elsewhere shows where the window is and nothing before it, to the pixel, and a window in it opens once more") {
  // A wall, a window in it, and a post before the window.
  const auto here = with(sheets(), {{"wall", grey, -4, -4, 8, 8, 0, "wall"},
                                    {"pane", white, -2, -2, 4, 4, 0.1f, "pane"},
                                    {"post", red, -0.5f, -4, 1, 8, 3, "post"}});
  // Larger than the window, with a window of its own, and nearer than the wall: what is behind the window is not hidden
  // by it.
  const auto there = with(sheets(), {{"floor", green, -4, -4, 8, 5, 2, "floor"},
                                     {"hole", white, 0, -3, 3, 2.5f, 2.5f, "hole"},
                                     {"lamp", white, 1, -1.5f, 0.5f, 0.5f, 4, "lamp"}});
  const auto beyond = with(sheets(), {{"sea", blue, -4, -4, 8, 3, -6, "sea"}});
  Windows windows;
  windows.draw("wall", here, {"pane"});
  windows.open("window", here, "pane");
  windows.draw("room", there, {"hole"}, "window");
  windows.open("hole", there, "hole", "window");
  windows.draw("sea", beyond, {}, "hole");
  const Image image = windows.run(device);
  int wrong = 0;
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) {
      Vec3 truth = grey;
      if (in(x, y, -2, -2, 4, 4)) {
        truth = Vec3::zero();  // nothing is drawn there, and what was cleared was the wall
        if (in(x, y, -4, -4, 8, 5)) truth = green;
        if (in(x, y, 0, -3, 3, 2.5f) && in(x, y, -4, -4, 8, 3)) truth = blue;
        if (in(x, y, 1, -1.5f, 0.5f, 0.5f)) truth = white;
        // Above the floor, the wall behind the pane is what was there.
        if (!in(x, y, -4, -4, 8, 5)) truth = grey;
        if (in(x, y, 0, -3, 3, 2.5f) && !in(x, y, -4, -4, 8, 3)) truth = green;
      }
      if (in(x, y, -0.5f, -4, 1, 8)) truth = red;
      const auto found = image.at(x, y);
      const bool same = std::abs(found[0] - static_cast<double>(truth[0])) < 1e-5 &&
                        std::abs(found[1] - static_cast<double>(truth[1])) < 1e-5 &&
                        std::abs(found[2] - static_cast<double>(truth[2])) < 1e-5;
      if (!same && wrong++ < 5) UNSCOPED_INFO(x << ", " << y << ": " << found[0] << " " << found[1] << " " << found[2]);
    }
  }
  CHECK(wrong == 0);
}

TEST_CASE_METHOD(TestDevice,
                 "windows beside each other show each its own, and where they overlap the first one opened") {
  const auto here =
      with(sheets(), {{"left", white, -3, -2, 4, 4, 0, "left"}, {"right", white, -1, -2, 4, 4, 1, "right"}});
  const auto one = with(sheets(), {{"one", green, -4, -4, 8, 8, 0, "one"}}),
             two = with(sheets(), {{"two", blue, -4, -4, 8, 8, 0, "two"}});
  Windows windows;
  windows.draw("nothing", here, {"left", "right"});
  windows.open("first", here, "left");
  windows.open("second", here, "right");
  windows.draw("one", one, {}, "first");
  windows.draw("two", two, {}, "second");
  const Image image = windows.run(device);
  for (int x = 0; x < size; ++x) {
    const bool first = in(x, size / 2, -3, -2, 4, 4), second = in(x, size / 2, -1, -2, 4, 4) && !first;
    CHECK(image.at(x, size / 2)[1] == (first ? 1.0 : 0.0));
    CHECK(image.at(x, size / 2)[2] == (second ? 1.0 : 0.0));
  }
}

TEST_CASE_METHOD(TestDevice,
                 "passes over the whole picture stay in their window, and its edge has as many samples as others") {
  const auto here = with(sheets(), {{"pane", white, -2.06f, -2, 4, 4, 0, "pane"}});
  Windows windows(4);
  windows.draw("nothing", here, {"pane"});
  windows.open("window", here, "pane");
  Pass full = fill("all of it", "vec4(0.0, 3.0, 0.0, 1.0)", {.target = windows.color});
  full.inside = "window";
  windows.frame.add(std::move(full));
  const Image image = windows.run(device);
  int halves = 0;
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) {
      const double found = image.at(x, y)[1];
      const double left = (x + 1) / 8.0 - 4, right = x / 8.0 - 4;
      const bool inside_x = left > -2.06 && right < 1.94;
      const bool rows = in(0, y, -4, -2, 8, 4);
      if (!rows || !inside_x) CHECK(found == 0);
      if (rows && right >= -2.06 && left <= 1.94) CHECK(found == 3);
      halves += found > 0 && found < 3;
    }
  }
  CHECK(halves == 64);  // two columns of 32 pixels
}

TEST_CASE("what is wrong with windows is told with its mend") {
  const auto scene = with(sheets(), {{"pane", white, -2, -2, 4, 4, 0, "pane"}});
  const auto told = [&](const std::function<void(Windows&)>& build, Format format = Format::depth32f_stencil8) {
    Windows windows;
    windows.depth = windows.frame.target("other depth", {.format = format});
    windows.draw("first", scene, {});
    build(windows);
    return to_text(windows.frame.plan(size, size).diagnostics());
  };
  CHECK_THAT(told([&](Windows& w) { w.open("window", scene, "pane"); }, Format::depth32f),
             Catch::Contains("no-stencil") && Catch::Contains("depth32f_stencil8"));
  CHECK_THAT(told([&](Windows& w) {
               w.draw("late", scene, {}, "window");
               w.open("window", scene, "pane");
             }),
             Catch::Contains("unknown-opening") && Catch::Contains("before it"));
  CHECK_THAT(told([&](Windows& w) {
               w.open("window", scene, "pane");
               w.draw("inner", scene, {}, "windov");
             }),
             Catch::Contains("did you mean \"window\"?"));
  CHECK_THAT(told([&](Windows& w) { w.draw("inner", scene, {}, "first"); }),
             Catch::Contains("no window: its kind is forward"));
  CHECK_THAT(told([&](Windows& w) {
               w.open("window", scene, "pane");
               w.depth = w.frame.target("third", {.format = Format::depth32f_stencil8});
               w.draw("inner", scene, {}, "window");
             }),
             Catch::Contains("other-depth"));
  CHECK_THAT(told([&](Windows& w) {
               w.open("window", scene, "pane");
               Pass copied =
                   passes::copy({.name = "copied", .from = {.target = w.color}, .to = {.target = w.frame.output()}});
               copied.inside = "window";
               w.frame.add(std::move(copied));
             }),
             Catch::Contains("not-drawn"));
  CHECK_THAT(told([&](Windows& w) {
               for (int i = 0; i < 128; ++i) w.open(("window " + std::to_string(i)).c_str(), scene, "pane");
             }),
             Catch::Contains("too-many-openings"));
}
