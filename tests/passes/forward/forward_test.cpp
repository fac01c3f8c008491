#include "gl/device.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/forward.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int size = 64;

/// A scene that a parallel camera sees from +Z: the picture shows x and y from -2 to 2.
struct Stage {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  MeshHandle box = scene->add_mesh("box", shapes::box({1, 1, 1}));
  MaterialHandle grey = scene->add_material({.name = "grey",
                                             .shading = Material::Shading::blinn_phong,
                                             .base_color = Vec3(0.5f, 0.25f, 0.75f),
                                             .specular = Vec3::zero()});
  MaterialHandle lamp = scene->add_material({.name = "lamp", .base_color = Vec3::zero(), .emission = Vec3(2, 3, 4)});

  Stage() {
    Camera camera;
    camera.eye = {0, 0, 10};
    camera.far = 100;
    camera.parallel_height = 4;
    scene->add_view({"front", camera});
    camera.depth = DepthOrder::ordinary;
    scene->add_view({"front, ordinary depth", camera});
    scene->add_light(Light{.name = "sun",
                           .kind = DirectionalLight{.illuminance = 3, .direction = Vec3(0, 0, -2)},
                           .color = Vec3(1, 0.5f, 0.25f)});
    scene->add_light(
        Light{.name = "slanted", .kind = DirectionalLight{.illuminance = 3, .direction = Vec3(0, -1, -1)}});
    scene->add_light(AmbientLight{"sky", Vec3(0.1f, 0.2f, 0.3f), Vec3(0.3f, 0.2f, 0.1f)});
  }

  void add(MaterialHandle material, const Transform& placement) {
    Node node;
    node.mesh = box;
    node.material = material;
    node.placement = placement;
    scene->add_node(node);
  }
};

struct Rendered {
  Image color, depth;
  Vec3 rgb(int x, int y) const {
    const auto p = color.at(x, y);
    return DoubleVec3(p[0], p[1], p[2]).cast<float>();
  }
};

Rendered render(gl::Device& device, const Stage& stage, std::vector<Reference> lights, Reference view = "front",
                float clear_depth = 0) {
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
  const TargetHandle depth = frame.target("depth", {.format = Format::depth32f, .clear_depth = clear_depth});
  frame.keep(color);
  frame.keep(depth);
  frame.add(passes::forward(
      {.name = "forward", .scene = stage.scene, .view = view, .lights = lights, .color = color, .depth = depth}));
  gl::FrameRunner runner(device, frame.plan(size, size, device.limits()).value());
  runner.run(0);
  return {runner.read("color"), runner.read("depth")};
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "a surface sends back base colour × (E cos θ ÷ π + ambient), as Lambert has it") {
  Stage stage;
  stage.add(stage.grey, Transform::identity());
  const Vec3 base(0.5f, 0.25f, 0.75f), sky(0.1f, 0.2f, 0.3f), ground(0.3f, 0.2f, 0.1f);
  const Vec3 half = (sky + ground) / 2;  // the face looks sideways
  const Rendered straight = render(device, stage, {"sun", "sky"});
  REQUIRE(straight.rgb(32, 32).is_near(base.times(3 / pi * Vec3(1, 0.5f, 0.25f) + half), 1e-5f));
  const Rendered slanted = render(device, stage, {"slanted"});
  REQUIRE(slanted.rgb(32, 32).is_near(base * (3 / pi / std::sqrt(2.0f)), 1e-5f));
  REQUIRE(render(device, stage, {"sky"}).rgb(32, 32).is_near(base.times(half), 1e-5f));
  REQUIRE(render(device, stage, {}).rgb(32, 32).is_zero());
}

TEST_CASE_METHOD(TestDevice, "a box covers just the pixels that it should, and emission shines in the dark") {
  Stage stage;
  stage.add(stage.lamp, translate({0.5f, -0.5f, 0}));
  const Rendered picture = render(device, stage, {});
  // x from 0 to 1 m is pixels 32 to 47; y from -1 to 0 m is rows 32 to 47 from the top.
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) {
      const bool covered = x >= 32 && x < 48 && y >= 32 && y < 48;
      REQUIRE(picture.color.at(x, y) ==
              (covered ? std::array<double, 4>{2, 3, 4, 1} : std::array<double, 4>{0, 0, 0, 0}));
    }
  }
}

TEST_CASE_METHOD(TestDevice,
                 "what is nearer hides what is behind, in both depth orders, and depth is the lens' formula") {
  Stage stage;
  stage.add(stage.lamp, translate({0, 0, -3}));
  stage.add(stage.grey, translate({0.25f, 0, 2}));
  stage.add(stage.lamp, translate({0, 0, -5}));
  for (const char* view : {"front", "front, ordinary depth"}) {
    const bool reversed = std::string(view) == "front";
    const Rendered picture = render(device, stage, {}, view, reversed ? 0.0f : 1.0f);
    REQUIRE(picture.rgb(32, 32).is_zero());         // grey, in the dark
    REQUIRE(picture.rgb(26, 32) == Vec3(2, 3, 4));  // the lamp beside it
    const Projection lens = stage.scene->find_view(view)->camera.projection(1);
    REQUIRE(lens.distance_at(static_cast<float>(picture.depth.at(32, 32)[0])) == Approx(10 - 2.5).epsilon(1e-4));
    REQUIRE(picture.depth.at(0, 0)[0] == (reversed ? 0.0f : 1.0f));
  }
}

TEST_CASE_METHOD(TestDevice, "mirrored objects show their front, with the right normals") {
  Stage plain, mirrored;
  plain.add(plain.grey, Transform::rotate(Vec3(1, 1, 0), 0.6f));
  // The box is its own mirror image, so the picture must be the same.
  mirrored.add(mirrored.grey, Transform::scale(Vec3(-1, 1, 1)).then(rotate(Vec3(1, 1, 0), 0.6f)));
  const Rendered a = render(device, plain, {"slanted", "sky"}), b = render(device, mirrored, {"slanted", "sky"});
  // Pixels that an edge runs through may fall to either side.
  int different = 0;
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) different += (a.rgb(x, y) - b.rgb(x, y)).abs().largest() > 1e-5f;
  }
  REQUIRE(different <= 4);
  REQUIRE_FALSE(a.rgb(32, 32).is_zero());
}

TEST_CASE_METHOD(TestDevice, "scaled unevenly, normals still answer the light by the surface's slope") {
  Stage stage;
  // A box turned by 45° and flattened to half its depth: its faces' normals are (±1, 0, 2)/√5.
  stage.add(stage.grey, Transform::rotate(Vec3::unit_y(), radians(45)).then(scale(Vec3(1, 1, 0.5f))));
  const Rendered picture = render(device, stage, {"sun"});
  REQUIRE(picture.rgb(28, 32).x() == Approx(0.5 * 3 / pi * 2 / std::sqrt(5.0)).epsilon(1e-4));
}

TEST_CASE_METHOD(TestDevice,
                 "moving objects are where their motion says, also when time goes back, and still ones stay") {
  Stage stage;
  stage.add(stage.lamp, translate({-1.5f, 1.5f, 0}));
  Node mover;
  mover.mesh = stage.box;
  mover.material = stage.lamp;
  mover.motion = Motion{Motion::Kind::slide, Vec3::unit_x(), Vec3::zero(), -1, 1, 2, 0};
  stage.scene->add_node(mover);
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
  frame.keep(color);
  frame.add(passes::forward({.scene = stage.scene, .view = "front", .color = color}));
  gl::FrameRunner runner(device, frame.plan(size, size).value());
  const auto lit_at = [&](double t, int x, int y) {
    runner.run(t);
    return runner.read("color").at(x, y)[0] > 0;
  };
  REQUIRE(lit_at(0, 16, 32));
  REQUIRE_FALSE(lit_at(0, 48, 32));
  REQUIRE(lit_at(1, 48, 32));
  REQUIRE(lit_at(1, 8, 8));
  REQUIRE_FALSE(lit_at(1, 16, 32));
  runner.run(0);
  const Image again = runner.read("color");
  runner.run(1);
  runner.run(0);
  REQUIRE(runner.read("color") == again);
}

TEST_CASE_METHOD(TestDevice, "an empty scene, and one that is wholly out of view, draw nothing and break nothing") {
  Stage empty;
  REQUIRE(render(device, empty, {"sun", "sky"}).rgb(32, 32).is_zero());
  Stage away;
  away.add(away.lamp, translate({500, 0, 0}));
  REQUIRE(render(device, away, {"sun", "sky"}).rgb(32, 32).is_zero());
  auto bare = std::make_shared<Scene>();
  bare->add_view({"front", {}});
  Stage stage;
  stage.scene = bare;
  REQUIRE(render(device, stage, {}).rgb(1, 1).is_zero());
}

TEST_CASE("views, lights and the like that are not there are told by plan() with the line that named them") {
  const Stage stage;
  const auto mends = [&](passes::Forward options) {
    FrameGraph frame;
    options.scene = stage.scene;
    options.color = frame.output();
    frame.add(passes::forward(options));
    std::string text;
    for (const Diagnostic& found : frame.plan(8, 8).diagnostics()) text += found.slug + ": " + found.mend + "\n";
    return text;
  };
  REQUIRE(mends({.view = "fornt"}) == "unknown-view: did you mean \"front\"?\n");
  REQUIRE(mends({.view = "front", .lights = {"sum", "sun"}}) == "unknown-light: did you mean \"sun\"?\n");
  REQUIRE(mends({.view = "front", .environment = "dusk", .fog = "haze"}) ==
          "unknown-environment: declare it: [environment.\"dusk\"]\nunknown-fog: declare it: [fog.\"haze\"]\n");
  REQUIRE(mends({.view = "front", .tags = {"boat"}, .variant = "night"}) ==
          "unknown-tag: give an object tags = [\"boat\"]\nunknown-variant: declare it: [variant.\"night\"]\n");
  FrameGraph frame;
  frame.add(passes::forward({.view = "front", .color = frame.output()}));
  REQUIRE(frame.plan(8, 8).diagnostics()[0].slug == "no-scene");
  // What is not there is missed where the pass is.
  FrameGraph blind;
  blind.add(passes::forward({.name = "blind", .scene = stage.scene, .color = blind.output()}));
  const Diagnostic missed = blind.plan(8, 8).diagnostics()[0];
  REQUIRE(missed.message == "pass \"blind\" has no view");
  REQUIRE(missed.place.line == __LINE__ - 3);
  REQUIRE_THAT(to_text(missed), Catch::Contains("forward_test.cpp:"));
}
