#include "gl/device.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/light_markers.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int size = 128;

/// A wall at z = 0, black, that a camera sees from +Z; a parallel one sees x and y from -4 to 4.
struct Night {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  Camera camera;

  explicit Night(DepthOrder order, bool parallel = true) {
    camera.eye = {0, 0, 10};
    camera.depth = order;
    camera.far = 50;
    if (parallel) camera.parallel_height = 8;
    scene->add_view({"front", camera});
    const MeshHandle plane = scene->add_mesh("wall", shapes::plane(6, 6));
    Node wall;
    wall.mesh = plane;
    wall.material = scene->add_material({.name = "black", .base_color = Vec3::zero()});
    wall.placement = Transform::rotate(Vec3::unit_x(), radians(90));
    scene->add_node(wall);
  }

  Image render(gl::Device& device, passes::LightMarkers options, bool with_depth = true) const {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    const TargetHandle depth = frame.target(
        "depth", {.format = Format::depth32f, .clear_depth = camera.depth == DepthOrder::reversed ? 0.0f : 1.0f});
    frame.keep(color);
    frame.add(passes::forward({.scene = scene,
                               .view = "front",
                               .lights = ChosenNames(std::vector<Reference>{}),
                               .color = color,
                               .depth = depth}));
    options.scene = scene;
    options.view = "front";
    options.color = color;
    if (with_depth) options.depth = depth;
    frame.add(passes::light_markers(options));
    gl::FrameRunner runner(device, frame.plan(size, size, device.limits()).value());
    runner.run(0);
    return runner.read("color");
  }
};

/// Where the middle of a pixel lies on the wall, metres.
Vec3 on_wall(int x, int y) {
  return {(static_cast<float>(x) + 0.5f) * 8 / size - 4, 4 - (static_cast<float>(y) + 0.5f) * 8 / size, 0};
}

bool lit(const Image& image, int x, int y) {
  return image.at(x, y)[0] > 0.02;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "a line on the wall shows where a light ends: its range, or where it gives so many lux") {
  for (const DepthOrder order : {DepthOrder::reversed, DepthOrder::ordinary}) {
    for (const bool has_range : {true, false}) {
      Night night(order);
      // 1.5 m before the wall: a sphere of 2.5 m cuts it in a circle of 2 m.
      PointLight lamp{.intensity = 12.5f, .position = {0.3f, -0.2f, 1.5f}};
      if (has_range) lamp.range = 2.5f;
      night.scene->add_light(Light{.name = "lamp", .kind = lamp});
      const Image picture = night.render(device, {.reach_lux = has_range ? 0.001f : 2});
      int on_line = 0;
      for (int y = 0; y < size; ++y) {
        for (int x = 0; x < size; ++x) {
          const Vec3 place = on_wall(x, y);
          const float off = std::abs((place - Vec3(0.3f, -0.2f, 0)).norm() - 2);
          const bool star = (place - Vec3(0.3f, -0.2f, 0)).norm() < 1.2f;
          if (std::max(std::abs(place.x()), std::abs(place.y())) > 2.9f || star) continue;
          CAPTURE(x, y, off);
          if (off < 0.04f) REQUIRE(lit(picture, x, y));
          if (off > 0.16f) REQUIRE_FALSE(lit(picture, x, y));
          on_line += off < 0.04f;
        }
      }
      REQUIRE(on_line > 50);
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a spot light's line is where its cone meets the wall") {
  Night night(DepthOrder::reversed);
  night.scene->add_light(Light{
      .name = "spot",
      .kind = SpotLight{.intensity = 100, .position = {0, 0, 2}, .direction = {0, 0, -1}, .outer_cone = radians(40)}});
  const Image picture = night.render(device, {});
  const float radius = 2 * std::tan(radians(40));
  for (int x = 0; x < size; ++x) {
    const Vec3 place = on_wall(x, size / 2 + 9);  // clear of the cone's own lines, which lie behind the wall
    const float off = std::abs(place.norm() - radius);
    if (off < 0.04f) REQUIRE(picture.at(x, size / 2 + 9)[0] > 0.5);
  }
}

TEST_CASE_METHOD(TestDevice, "what the scene hides is faint, what is switched off is not there") {
  Night night(DepthOrder::reversed);
  night.scene->add_light(Light{.name = "behind", .kind = PointLight{.intensity = 1, .position = {1, 1, -0.5f}}});
  night.scene->add_light(Light{.name = "before", .kind = PointLight{.intensity = 1, .position = {-1, 1, 0.5f}}});
  const Image picture = night.render(device, {.reach_lux = 1000});
  const int y = size * 3 / 8, behind = size * 5 / 8, before = size * 3 / 8;
  REQUIRE(picture.at(before, y)[0] > 0.9);
  REQUIRE(lit(picture, behind, y));
  REQUIRE(picture.at(behind, y)[0] < 0.4);  // four faint strokes cross here
  const Image off = night.render(device, {.show = false});
  const Image one = night.render(device, {.lights = {"behind"}, .reach_lux = 1000});
  for (int k = 0; k < size; ++k) REQUIRE_FALSE(lit(off, k, y));
  REQUIRE_FALSE(lit(one, before, y));
}

TEST_CASE_METHOD(TestDevice, "without depth, circles show the reach, what lies behind the eye is left out") {
  Night night(DepthOrder::reversed, false);
  night.scene->add_light(Light{.name = "lamp", .kind = PointLight{.position = {0, 0, 4}, .range = 20}});
  night.scene->add_light(Light{.name = "behind the eye", .kind = PointLight{.position = {0, 0, 30}, .range = 1}});
  night.scene->add_light(Light{.name = "sun"});
  for (const bool all : {true, false}) {
    passes::LightMarkers options{.reach_lux = 0.01f};
    if (!all) options.lights = {"behind the eye"};
    const Image picture = night.render(device, options, false);
    int count = 0;
    for (int y = 0; y < size; ++y) {
      for (int x = 0; x < size; ++x) {
        REQUIRE(std::isfinite(picture.at(x, y)[0]));
        count += lit(picture, x, y);
      }
    }
    REQUIRE((all ? count > 100 : count == 0));
  }
}

TEST_CASE("a marker's reach is where the inverse square falls to the bound, or the range") {
  Light light{.name = "l", .kind = PointLight{.intensity = 100}};
  REQUIRE(passes::reach_of(light, 4) == Approx(5));
  REQUIRE(light.strength() * light_falloff(5, light.range()) == Approx(4));
  light.kind = PointLight{.intensity = 100, .range = 3};
  REQUIRE(passes::reach_of(light, 4) == Approx(3));
  light.kind = DirectionalLight{.illuminance = 100};
  REQUIRE(std::isinf(passes::reach_of(light, 4)));
}

TEST_CASE("markers say what is wrong with them, in the plan") {
  Night night(DepthOrder::reversed);
  FrameGraph frame;
  passes::LightMarkers options{.scene = night.scene, .view = "front", .width = 0, .reach_lux = NAN};
  options.lights = {"lmap"};
  options.color = frame.output();
  frame.add(passes::light_markers(options));
  std::vector<std::string> found;
  for (const Diagnostic& one : frame.plan(8, 8).diagnostics()) found.push_back(one.slug);
  REQUIRE(found == std::vector<std::string>{"out-of-range", "not-finite", "unknown-light"});
  FrameGraph confused;
  const TargetHandle light = confused.target("light", {.format = Format::rgba16f});
  confused.add(passes::forward({.scene = night.scene, .view = "front", .color = light}));
  confused.add(
      passes::light_markers({.scene = night.scene, .view = "front", .color = confused.output(), .depth = light}));
  REQUIRE(confused.plan(8, 8).diagnostics()[0].slug == "sampler-type");
}
