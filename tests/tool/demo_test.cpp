#include "scratch.h"
#include "tool/process.h"

#include <periscena/base/file.h>
#include <periscena/frame/frame_file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/image/files.h>
#include <periscena/model/gltf.h>

#include <catch2/catch.hpp>

#include <cmath>

using namespace periscena;

namespace {

/// Where a point of the demo's picture is, in pixels from the upper left.
Vec2 pixel_of(const Camera& camera, const Vec3& world, int width, int height) {
  const Mat4 matrix =
      camera.projection(static_cast<float>(width) / static_cast<float>(height)).matrix() * camera.view().matrix();
  const Vec4 clip = matrix * Vec4(world.x(), world.y(), world.z(), 1);
  return {(clip.x() / clip.w() * 0.5f + 0.5f) * static_cast<float>(width),
          (0.5f - clip.y() / clip.w() * 0.5f) * static_cast<float>(height)};
}

/// Which share of two pictures' values differ by more than 2 of 255. Interpolation and transcendental functions of
/// drivers may differ in their last bits, which can tip a sample over an edge here and there.
double share_apart(const Image& a, const Image& b) {
  REQUIRE(a.bytes().size() == b.bytes().size());
  std::size_t apart = 0;
  for (std::size_t i = 0; i < a.bytes().size(); ++i) {
    apart += std::abs(static_cast<int>(a.bytes()[i]) - static_cast<int>(b.bytes()[i])) > 2;
  }
  return static_cast<double>(apart) / static_cast<double>(a.bytes().size());
}

}  // namespace

TEST_CASE("the generator gives the same files twice: a whole lock of 30 to 60 thousand triangles, and three skies") {
  const Scratch scratch("generator");
  REQUIRE(run_process({PERISCENA_BINARY_FOLDER "/osier_lock", (scratch / "made").string()}).exit_code == 0);
  for (const char* file : {"osier_lock.glb", "osier_bed.glb", "dusk.hdr", "day.hdr", "night.hdr", "dragonfly.json",
                           "dragonfly.png", "leaves.json", "leaves.png"})
    REQUIRE(read_bytes(scratch / "made" / file) ==
            read_bytes(std::string(PERISCENA_SOURCE_FOLDER "/demo/generated/") + file));
  const Scene scene = read_scene_file(scratch / "made/osier_lock.glb");
  REQUIRE(scene.triangle_count() > 30000);
  REQUIRE(scene.triangle_count() < 60000);
  for (const char* material : {"brick", "stone0", "cabin_green", "iron", "water", "glass", "brass"})
    REQUIRE(scene.find_material(material).valid());
  REQUIRE(encode_glb(scene) == read_bytes(scratch / "made/osier_lock.glb"));
  REQUIRE(run_process({PERISCENA_BINARY_FOLDER "/osier_lock", "/nonexistent/lock"}).exit_code == 3);
  REQUIRE(run_process({PERISCENA_BINARY_FOLDER "/osier_lock"}).exit_code == 2);
}

TEST_CASE("gates swing on their heel posts, carry beams and gear, and come back after a cycle") {
  const Scene scene = read_scene_file(PERISCENA_SOURCE_FOLDER "/demo/generated/osier_lock.glb");
  const auto world = [&](const char* name, double t) {
    std::vector<Transform> all(scene.nodes().size(), Transform::identity());
    scene.world_transforms(t, all);
    return all[scene.find_node(name).index];
  };
  const Vec3 mitre(2.62f, 0, 0);
  for (const char* side : {"left", "right"}) {
    const std::string gate = std::string("lower ") + side + " gate";
    const float sign = side == std::string("left") ? -1.0f : 1.0f;
    // The heel post stays; shut, the leaves meet in the middle; open, they lie along the wall.
    for (const double t : {0.0, 9.0, 12.0}) {
      REQUIRE((world(gate.c_str(), t).apply_to_point(Vec3::zero()) - Vec3(sign * 2.62f, 0, 11)).norm() < 1e-3f);
    }
    REQUIRE(std::abs(world(gate.c_str(), 0).apply_to_point(mitre).x()) < 0.15f);
    REQUIRE(std::abs(world(gate.c_str(), 12).apply_to_point(mitre).x()) > 2.2f);
    REQUIRE((world(gate.c_str(), 24).matrix() - world(gate.c_str(), 0).matrix()).abs().largest() < 1e-4f);
  }
  // The other pair is open when this one is shut.
  REQUIRE(std::abs(world("upper left gate", 0).apply_to_point(mitre).x()) > 2.2f);
  REQUIRE(std::abs(world("upper left gate", 12).apply_to_point(mitre).x()) < 0.15f);
  // Water moves only while both pairs are shut.
  for (double t = 0; t < 24; t += 0.25) {
    const bool moving =
        std::abs(world("water level", t + 0.01).matrix()(1, 3) - world("water level", t).matrix()(1, 3)) > 1e-5f;
    const bool lower_shut = std::abs(world("lower left gate", t).apply_to_point(mitre).x()) < 0.15f;
    const bool upper_shut = std::abs(world("upper left gate", t).apply_to_point(mitre).x()) < 0.15f;
    if (moving) REQUIRE((lower_shut && upper_shut));
  }
  // The wheel of the paddle gear goes along with its gate and turns on it.
  const Transform wheel_on_gate = world("lower left gate wheel", 5.5).then(world("lower left gate", 5.5).inverse());
  const Transform wheel_before = world("lower left gate wheel", 0).then(world("lower left gate", 0).inverse());
  REQUIRE((wheel_on_gate.apply_to_point(Vec3::zero()) - wheel_before.apply_to_point(Vec3::zero())).norm() < 1e-3f);
  REQUIRE((wheel_on_gate.apply_to_direction(Vec3::unit_x()) - wheel_before.apply_to_direction(Vec3::unit_x())).norm() >
          0.3f);
  REQUIRE(scene.triangle_count() > 30000);
}

TEST_CASE("a second driver stack draws the same demo picture") {
  const Scratch scratch("second");
  const std::string one = (scratch / "one.png").string(), two = (scratch / "two.png").string();
  const std::vector<std::string> zink{"MESA_LOADER_DRIVER_OVERRIDE=zink", "LIBGL_ALWAYS_SOFTWARE=1",
                                      "ASAN_OPTIONS=detect_leaks=0"};
  const Answer device = periscena_command({"device"}, zink);
  INFO(device.error);
  REQUIRE_THAT(device.out, Catch::StartsWith("renderer  zink"));
  REQUIRE(periscena_command({"render", "demo/lock.toml", "-o", one, "--size", "320x180", "--time", "9"}).exit_code ==
          0);
  REQUIRE(
      periscena_command({"render", "demo/lock.toml", "-o", two, "--size", "320x180", "--time", "9"}, zink).exit_code ==
      0);
  REQUIRE(share_apart(read_png(one), read_png(two)) < 0.001);
}

TEST_CASE("the demo picture is the one that was looked at") {
  // tests/pictures/lock.png is made anew by scripts/screenshots, and then looked at, when the picture is meant to
  // change.
  const Scratch scratch("looked-at");
  const std::string now = (scratch / "now.png").string();
  REQUIRE(periscena_command({"render", "demo/lock.toml", "-o", now, "--size", "320x180", "--time", "9"}).exit_code ==
          0);
  REQUIRE(share_apart(read_png(now), read_png(PERISCENA_SOURCE_FOLDER "/tests/pictures/lock.png")) < 0.001);
}

TEST_CASE("the demo picture shows what is there: bright lamps, a lit path, sky above") {
  const Scratch scratch("demo");
  const std::string picture = (scratch / "lock.png").string();
  const Answer answer = periscena_command({"render", "demo/lock.toml", "-o", picture, "--size", "640x360"});
  INFO(answer.error);
  REQUIRE(answer.exit_code == 0);
  REQUIRE(answer.error.empty());
  const Image image = read_png(picture);
  const Scene scene = read_scene_file(PERISCENA_SOURCE_FOLDER "/demo/generated/osier_lock.glb");
  const auto color_at = [&](const Vec3& world) {
    const Vec2 at = pixel_of(scene.find_view("towpath")->camera, world, 640, 360);
    return image.at(static_cast<int>(at.x()), static_cast<int>(at.y()));
  };
  const auto lamp = color_at({6.55f, 3.83f, 8.0f});
  REQUIRE(lamp[0] > 240);
  const auto path = color_at({4.9f, 1, 14});
  REQUIRE(path[0] > path[2] + 20);  // warm
  REQUIRE(path[0] > 100);
  const auto sky = image.at(320, 4);
  REQUIRE(sky[2] > sky[1]);  // violet
  const auto beam = color_at({5.2f, 1.5f, 11.9f});
  REQUIRE(beam[0] < 0.65 * path[0]);  // tarred
}
