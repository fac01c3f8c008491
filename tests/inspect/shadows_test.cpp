#include "gl/device.h"
#include "passes/white_things.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/inspect/shadows.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/shadow_map.h>

#include <algorithm>
#include <map>

using namespace periscena;

namespace {

constexpr int width = 1280, height = 720;

/// White things on a white floor, seen by one camera and lit by one light.
struct Stage {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  Stage(const Camera& camera, const Light& light) {
    scene->add_view({"front", camera});
    scene->add_light(light);
    scene->add_material({.name = "white", .base_color = Vec3::ones()});
    show("floor", shapes::plane(60, 60), {0, 0, 0});
  }

  void show(const std::string& name, Mesh mesh, const Vec3& at) { show_white(*scene, name, std::move(mesh), at); }

  FrameGraph frame(passes::ShadowMap map, int map_size, int layers = 0) const {
    FrameGraph frame;
    frame.target("map", {.format = Format::depth32f,
                         .size = TargetSize::pixels(map_size, map_size),
                         .layers = std::max(1, layers),
                         .shape = layers > 0 ? TargetShape::array : TargetShape::flat});
    map.scene = scene;
    map.light = scene->lights()[0].name;
    map.depth = "map";
    map.without_tags = {"ground"};
    frame.add(passes::shadow_map(map));
    frame.add(passes::forward({.scene = scene,
                               .view = "front",
                               .shadows = {"map"},
                               .color = frame.output(),
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    return frame;
  }
};

Camera looking(const Vec3& eye, const Vec3& target) {
  Camera camera;
  camera.eye = eye;
  camera.target = target;
  return camera;
}

/// What the measured aims ask for: leaks below half a percent, stripes below a thousandth, 1.5 texels.
void expect_sound(const inspect::MeasuredShadows& found, std::size_t least_points, std::size_t least_dark) {
  INFO(found.light << ": leaks " << 100 * found.errors.leaks << " %, stripes " << 100 * found.errors.stripes
                   << " %, detachment " << found.errors.detachment_texels << " texels, " << found.errors.lit << " lit, "
                   << found.errors.dark << " dark, jaggedness " << found.errors.jaggedness);
  CHECK(found.errors.points() > least_points);
  CHECK(found.errors.dark > least_dark);
  CHECK(found.errors.leaks < 0.005);
  CHECK(found.errors.stripes < 0.001);
  CHECK(found.errors.detachment_texels < 1.5f);
}

Stage fence(const Light& light) {
  Stage stage(looking({3, 2.2f, 7}, {0, 0.6f, 0}), light);
  for (int i = 0; i < 24; ++i)
    stage.show("pale " + std::to_string(i), shapes::box({0.03f, 1.1f, 0.02f}),
               {0.25f * static_cast<float>(i) - 3, 0.55f, 0});
  for (const float y : {0.3f, 0.9f})
    stage.show("rail " + std::to_string(y), shapes::box({6.2f, 0.05f, 0.02f}), {0, y, 0.02f});
  return stage;
}

Stage ball(const Light& light) {
  Stage stage(looking({2.5f, 2, 5}, {0, 0.5f, 0}), light);
  stage.show("ball", shapes::sphere(0.8f, 96), {0, 0.8f, 0});
  return stage;
}

Stage stair(const Light& light) {
  Stage stage(looking({5, 3, 6}, {0, 0.8f, -1}), light);
  for (int i = 0; i < 8; ++i) {
    const auto k = static_cast<float>(i);
    stage.show("step " + std::to_string(i), shapes::box({3, 0.2f, 0.3f}), {0, 0.1f + 0.2f * k, -0.3f * k});
  }
  return stage;
}

/// Smooth to the eye, but of few triangles: those are what casts.
Stage coarse_ball(const Light& light) {
  Stage stage(looking({2.5f, 2, 5}, {0, 0.5f, 0}), light);
  stage.show("ball", shapes::sphere(0.8f, 9), {0, 0.8f, 0});
  return stage;
}

const Light high_sun{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.5f, -1, -0.4f}}};
const Light grazing_sun{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {1, -0.14f, -0.25f}}};

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "a directional light's shadows are what rays say, at default settings, on three hard scenes") {
  for (const auto& [name, stage] : std::map<std::string, Stage>{{"fence", fence(high_sun)},
                                                                {"ball", ball(high_sun)},
                                                                {"coarse ball", coarse_ball(high_sun)},
                                                                {"stair at grazing light", stair(grazing_sun)}}) {
    INFO(name);
    expect_sound(inspect::measure_shadows(device, stage.frame({}, 2048), width, height).at(0), 20000,
                 name == "fence" ? 15 : 300);
  }
}

TEST_CASE_METHOD(TestDevice, "what stands far behind a cascade, but within its square, is shaded by the next") {
  // Light from behind the eye: all that is seen lies in the square of the nearest part, and most of it behind its far
  // plane.
  Stage stage(looking({0, 2, 8}, {0, 1.5f, 0}),
              {.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.12f, -0.25f, -1}}});
  stage.show("wall", shapes::box({24, 8, 0.2f}), {0, 4, -24});
  for (int i = 0; i < 5; ++i)
    stage.show("bar " + std::to_string(i), shapes::box({1.8f, 1.8f, 0.2f}), {4 * static_cast<float>(i) - 8, 4.6f, -14});
  const auto found = inspect::measure_shadows(
                         device, stage.frame({.cascades = 3, .view = "front", .reach = 60}, 1024, 3), width, height)
                         .at(0);
  expect_sound(found, 20000, 300);
  // Most of them lie near edges, where the picture is no farther from the truth than a filter is wide.
  INFO("jaggedness " << found.errors.jaggedness);
  CHECK(found.errors.jaggedness < 0.05);
}

TEST_CASE_METHOD(TestDevice,
                 "a point light's shadows are what rays say, to all sides and across the edges of its faces") {
  Light lamp{.name = "lamp", .kind = PointLight{.intensity = 100, .position = {0.3f, 1.6f, 1.2f}, .range = 30}};
  for (const auto& [name, stage] :
       std::map<std::string, Stage>{{"fence", fence(lamp)}, {"ball", ball(lamp)}, {"stair", stair(lamp)}}) {
    INFO(name);
    expect_sound(inspect::measure_shadows(device, stage.frame({}, 2048, 6), width, height).at(0), 20000,
                 name == "fence" ? 15 : 300);
  }
}

TEST_CASE_METHOD(TestDevice, "a spot light's shadows are what rays say, from narrow cones to half of all sides") {
  for (const float degrees : {12.0f, 40.0f, 74.0f, 90.0f}) {
    INFO(degrees);
    const Light spot{.name = "spot",
                     .kind = SpotLight{.intensity = 100,
                                       .position = {-1.5f, 4, 2},
                                       .direction = {0.4f, -1, -0.55f},
                                       .inner_cone = 0,
                                       .outer_cone = radians(degrees)}};
    expect_sound(
        inspect::measure_shadows(device, ball(spot).frame({}, 1024, degrees > 75 ? 6 : 0), width, height).at(0), 500,
        100);
  }
}

TEST_CASE_METHOD(TestDevice,
                 "wide light makes edges as soft as rays say: nearer to the truth than filters of one width") {
  // A sun three degrees wide; a ball that lies on the floor, and a bar high above it.
  Stage stage = ball(high_sun);
  stage.show("bar", shapes::box({3, 0.12f, 0.12f}), {-0.5f, 2.6f, 1.2f});
  const auto jagged = [&](ShadowFilter filter, float radius) {
    passes::ShadowMap map;
    map.filter = filter;
    map.radius = radius;
    map.light_angle = radians(3);
    const auto found = inspect::measure_shadows(device, stage.frame(map, 1024), 640, 360).at(0);
    INFO(found.errors.leaks << " leaks, " << found.errors.stripes << " stripes");
    CHECK(found.errors.leaks < 0.005);
    CHECK(found.errors.stripes < 0.001);
    return found.errors.jaggedness;
  };
  const double soft = jagged(ShadowFilter::contact, 48), bell = jagged(ShadowFilter::gaussian, 2),
               disc = jagged(ShadowFilter::disc, 16);
  INFO("contact " << soft << ", bell " << bell << ", disc " << disc);
  CHECK(soft < 0.7 * bell);
  CHECK(soft < 0.7 * disc);
}

TEST_CASE_METHOD(TestDevice,
                 "what is wrong with shadows is seen: stripes without a lift, light under what casts with too much") {
  passes::ShadowMap bare;
  bare.normal_bias = 0;
  const auto stripes =
      inspect::measure_shadows(device, stair(grazing_sun).frame(bare, 512), width, height).at(0).errors;
  CHECK(stripes.stripes > 0.02);
  passes::ShadowMap floating;
  floating.bias = 0.4f;
  const auto loose =
      inspect::measure_shadows(device, fence(high_sun).frame(floating, 2048), width, height).at(0).errors;
  CHECK(loose.detachment > 0.3f);
  CHECK(loose.detachment < 0.45f);
  CHECK(loose.leaks > 0);
  // Sharper maps have smoother edges.
  const auto edges = [&](int size) {
    return inspect::measure_shadows(device, ball(high_sun).frame({}, size), width, height).at(0).errors.jaggedness;
  };
  CHECK(edges(2048) < edges(256));
}

TEST_CASE_METHOD(TestDevice,
                 "over a flight of 120 frames hardly a point changes between lit and dark while the sun stands still") {
  Stage stage = fence(high_sun);
  // What the cascades follow flies along the fence and turns; the points are those of a view that stands still.
  Node carrier;
  carrier.name = "carrier";
  carrier.motion =
      Motion{.kind = Motion::Kind::slide, .axis = Vec3(1, 0.1f, -0.4f).normalized(), .from = 0, .to = 6, .period = 8};
  const NodeHandle node = stage.scene->add_node(carrier);
  View flight{"flight", looking({-4, 1.7f, 6}, {0, 0.5f, 0})};
  flight.node = node;
  stage.scene->add_view(flight);
  for (const auto& [cascades, map_size] : {std::pair(1, 2048), {4, 2048}, {3, 1024}}) {
    INFO(cascades << " cascades of " << map_size);
    FrameGraph frame;
    frame.target("map", {.format = Format::depth32f,
                         .size = TargetSize::pixels(map_size, map_size),
                         .layers = cascades,
                         .shape = TargetShape::array});
    const TargetHandle facts = frame.target("facts", {.format = Format::rgba32f});
    frame.keep(facts);
    frame.add(passes::shadow_map(
        {.scene = stage.scene, .light = "sun", .depth = "map", .cascades = cascades, .view = "flight", .reach = 30}));
    frame.add(passes::forward({.scene = stage.scene,
                               .view = "front",
                               .shadows = {"map"},
                               .facts_of = "sun",
                               .color = facts,
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    gl::FrameRunner runner(device, frame.plan(320, 180, device.limits()).value());
    std::vector<float> before;
    std::vector<bool> seen(320 * 180), changed(320 * 180);
    for (int k = 0; k < 120; ++k) {
      runner.run(k / 60.0);
      const Image image = runner.read("facts");
      const auto* now = reinterpret_cast<const float*>(image.bytes().data());
      for (std::size_t i = 0; i < before.size(); i += 4) {
        if (before[i + 3] < 0.5f || now[i + 3] < 0.5f) continue;
        seen[i / 4] = true;
        changed[i / 4] = changed[i / 4] || (before[i] > 0.5f) != (now[i] > 0.5f);
      }
      before.assign(now, now + 4 * 320 * 180);
    }
    const auto points = std::count(seen.begin(), seen.end(), true),
               changes = std::count(changed.begin(), changed.end(), true);
    CHECK(points > 30000);
    // In at least one of the 120 frames.
    CHECK(static_cast<double>(changes) <= 0.002 * static_cast<double>(points));
  }
}

TEST_CASE_METHOD(TestDevice, "what can't be measured is told") {
  const Stage stage = ball(high_sun);
  CHECK(thrown_slug([&] { inspect::measure_shadows(device, stage.frame({}, 64), 64, 64, {.lights = {"snu"}}); }) ==
        "unknown-light");
  CHECK(thrown_slug([&] { inspect::measure_shadows(device, stage.frame({}, 64), 64, 64, {.step = 0}); }) == "bad-step");
  FrameGraph plain;
  plain.add(passes::forward({.scene = stage.scene, .view = "front", .color = plain.output()}));
  CHECK(thrown_slug([&] { inspect::measure_shadows(device, plain, 64, 64); }) == "no-shadows");
}
