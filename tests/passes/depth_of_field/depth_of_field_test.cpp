#include "gl/draws.h"
#include "passes/picture_pass.h"

#include <periscena/passes/depth_of_field.h>

#include <fmt/format.h>

#include <cmath>
#include <limits>

using namespace periscena;
using passes::DepthOfField;

namespace {

/// A picture at hand, with a depth that GLSL says as a distance.
struct Lens : PictureFrame {
  Lens(const Image& picture, const std::string& distance, DepthOfField options) : PictureFrame(picture) {
    Camera camera;
    camera.eye = {0, 0, 0};
    camera.target = {0, 0, -1};
    camera.fov_y = radians(40);
    camera.near = 0.1f;
    camera.far = std::numeric_limits<float>::infinity();
    scene->add_view({"front", camera});
    const TargetHandle depth = frame.target("depth", {.format = Format::depth32f});
    passes::Fullscreen drawn;
    drawn.name = "depth";
    drawn.scene = scene;
    drawn.view = "front";
    drawn.shader = gl::ShaderText::from_text(
        "depth.frag",
        fmt::format(
            "#include \"periscena/fullscreen.glsl\"\n#include \"periscena/camera.glsl\"\nvoid main() {{ gl_FragDepth = "
            "camera.projection[3][2] / ({}) - camera.projection[2][2]; }}\n",
            distance),
        passes::pass_shaders());
    drawn.writes = {{.slot = "depth", .target = depth}};
    frame.add(passes::fullscreen(drawn));
    options.scene = scene;
    options.view = "front";
    options.light = light;
    options.depth = depth;
    options.color = result;
    frame.add(passes::depth_of_field(options));
  }

  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
};

constexpr int size = 121;

Image dot() {
  return picture_of(size, size,
                    [](int x, int y) -> Vec3 { return Vec3::constant(x == 60 && y == 60 ? 1000.0f : 0.0f); });
}

}  // namespace

TEST_CASE("discs are as large as the thin lens makes them") {
  const DepthOfField lens{.focus_distance = 2, .f_number = 2, .sensor_height = 0.024f};
  const float fov_y = 2 * std::atan(0.012f / 0.05f);  // of 50 mm
  // 25 mm of aperture: |d − s| / d of it, brought down by f / (s − f).
  CHECK(lens.disc_radius(4, fov_y) * 0.024f == Approx(0.5 * 0.025 * 0.5 * 0.05 / 1.95));
  CHECK(lens.disc_radius(2, fov_y) == 0);
  CHECK(lens.disc_radius(1, fov_y) * 0.024f == Approx(0.5 * 0.025 * 1 * 0.05 / 1.95));
  CHECK(lens.disc_radius(std::numeric_limits<float>::infinity(), fov_y) * 0.024f == Approx(0.5 * 0.025 * 0.05 / 1.95));
}

TEST_CASE_METHOD(TestDevice,
                 "a bright dot out of focus is a disc of the lens' size that holds its light, and in focus a dot") {
  const DepthOfField options{.focus_distance = 4, .f_number = 0.5f, .largest = 0.15f, .taps = 256};
  for (const float away : {2.5f, 8.0f, 4.0f}) {
    INFO(away << " m");
    Lens lens(dot(), fmt::format("{}", away), options);
    const Image image = lens.run(device);
    const double radius = std::min(options.disc_radius(away, radians(40)), options.largest) * size;
    double sum = 0, farthest = 0;
    for (int y = 0; y < size; ++y) {
      for (int x = 0; x < size; ++x) {
        const double here = image.at(x, y)[0];
        sum += here;
        if (here > 0) farthest = std::max(farthest, std::hypot(x - 60, y - 60));
      }
    }
    CHECK(farthest <= radius + 2);
    CHECK(farthest >= radius - 2);
    CHECK(sum == Approx(1000).epsilon(away == 4 ? 1e-5 : 0.2));  // as its taps meet the dot by chance
    if (away == 4) CHECK(image.at(60, 60)[0] == Approx(1000));
  }
}

TEST_CASE_METHOD(TestDevice,
                 "even light stays even, and what lies behind does not spill over what is sharp before it") {
  const Image even = picture_of(size, size, [](int, int) -> Vec3 { return Vec3::constant(3); });
  Lens plain(even, "1.0 + 20.0 * uv.x", {.focus_distance = 3, .f_number = 1});
  const Image same = plain.run(device);
  for (int x = 0; x < size; ++x) CHECK(same.at(x, 50)[0] == Approx(3).epsilon(1e-3));
  // Dark and sharp at the left, bright and far behind at the right.
  const Image halves = picture_of(size, size, [](int x, int) -> Vec3 { return Vec3::constant(x < 60 ? 0.0f : 50.0f); });
  Lens parted(halves, "uv.x < 60.0 / 121.0 ? 3.0 : 300.0", {.focus_distance = 3, .f_number = 0.7f, .largest = 0.1f});
  const Image sharp = parted.run(device);
  for (int x = 0; x < 59; ++x) CHECK(sharp.at(x, 60)[0] < 0.01);
  for (int x = 61; x < size; ++x) CHECK(sharp.at(x, 60)[0] == Approx(50).epsilon(0.01));
}

TEST_CASE_METHOD(TestDevice, "a pixel that is no number is not spread, and frames of one pixel have a lens, too") {
  const float strange = std::numeric_limits<float>::quiet_NaN();
  Lens lens(picture_of(17, 9, [&](int x, int y) -> Vec3 { return Vec3::constant(x == 8 && y == 4 ? strange : 1.0f); }),
            "9.0", {.focus_distance = 1, .f_number = 0.5f});
  const Image image = lens.run(device);
  for (int x = 0; x < 17; ++x) CHECK(std::isfinite(image.at(x, 4)[0]));
  Lens one(picture_of(1, 1, [](int, int) -> Vec3 { return Vec3::constant(2); }), "9.0",
           {.focus_distance = 1, .largest = 0});
  CHECK(one.run(device).at(0, 0)[0] == Approx(2));
}

TEST_CASE("a lens that can't be is told: parallel rays, focused within its focal length") {
  auto scene = std::make_shared<Scene>();
  Camera camera;
  scene->add_view({"front", camera});
  camera.parallel_height = 3;
  camera.far = 100;
  scene->add_view({"plan", camera});
  FrameGraph frame;
  const TargetHandle light = frame.target("light", {}), depth = frame.target("depth", {.format = Format::depth32f});
  frame.add({.name = "draw", .writes = {{.slot = "color", .target = light}, {.slot = "depth", .target = depth}}});
  for (const char* view : {"plan", "front"})
    frame.add(passes::depth_of_field({.name = view,
                                      .scene = scene,
                                      .view = view,
                                      .focus_distance = 0.01f,
                                      .light = light,
                                      .depth = depth,
                                      .color = frame.output()}));
  const std::string told = to_text(frame.plan(8, 8).diagnostics());
  INFO(told);
  CHECK(told.find("error[parallel-view]: pass \"plan\" looks through \"plan\", whose rays are parallel") !=
        std::string::npos);
  CHECK(told.find("error[too-near]: pass \"front\" is focused 0.01 m away") != std::string::npos);
}
