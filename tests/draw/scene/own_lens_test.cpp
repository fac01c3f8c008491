#include "gl/device.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

#include <algorithm>
#include <cmath>

using namespace periscena;

namespace {

/// The lens of a camera that sees a part of what it sees: the picture is `parts` times as wide and high.
Projection part_of(const Camera& camera, float aspect, int column, int row, int parts) {
  const Projection whole = camera.projection(aspect);
  Mat4 matrix = whole.matrix();
  const auto n = static_cast<float>(parts);
  const float x = n - 1 - 2 * static_cast<float>(column), y = n - 1 - 2 * static_cast<float>(parts - 1 - row);
  // Clip space is spread, and moved by so many halves of the small picture.
  for (int k = 0; k < 4; ++k) {
    matrix(0, k) = n * whole.matrix()(0, k) + x * whole.matrix()(3, k);
    matrix(1, k) = n * whole.matrix()(1, k) + y * whole.matrix()(3, k);
  }
  return Projection::of_matrix(matrix, ClipDepth::from_zero);
}

/// Lists of lights, a sky, markers, shadows: what works by where pixels are seen.
struct Stage {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  FrameGraph frame;
  ViewHandle view;
  Camera camera{.eye = {0.5f, 2, 6}, .target = {0, 0.5f, 0}, .fov_y = radians(55), .far = 60};

  Stage(bool deferred, bool parallel) {
    if (parallel) camera.parallel_height = 7;
    const MaterialHandle stone =
        scene->add_material({.name = "stone", .base_color = {0.6f, 0.6f, 0.5f}, .roughness = 0.4f});
    const MeshHandle box = scene->add_mesh("box", shapes::box({0.7f, 0.7f, 0.7f})),
                     floor = scene->add_mesh("floor", shapes::plane(30, 30));
    scene->add_node({.mesh = floor, .material = stone});
    for (int i = 0; i < 24; ++i) {
      const Vec3 at(1.2f * static_cast<float>(i % 6) - 3, 0.4f, -1.3f * static_cast<float>(i / 6) + 1.5f);
      scene->add_node(
          {.mesh = box,
           .material = stone,
           .placement =
               Transform::rotate(Vec3::unit_y(), 0.3f * static_cast<float>(i)).then(Transform::translate(at))});
    }
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{2, {-0.4f, -1, -0.3f}}});
    for (int i = 0; i < 6; ++i) {
      Light lamp{
          .name = fmt("lamp", i),
          .kind = PointLight{3, {1.3f * static_cast<float>(i) - 3, 1, 0.8f - 0.4f * static_cast<float>(i)}, 2.5f}};
      lamp.tags = {"lamps"};
      scene->add_light(lamp);
    }
    scene->add_environment(
        {.name = "sky", .images = {gradient_sky({0.2f, 0.4f, 0.9f}, {0.8f, 0.7f, 0.6f}, {0.2f, 0.2f, 0.2f})}});
    view = scene->add_view({"front", camera});
    const auto light = frame.target("light", {.format = Format::rgba16f});
    const auto depth = frame.target("depth", {.format = Format::depth32f});
    const auto sun = frame.target("sun", {.format = Format::depth32f, .size = {512, 512}});
    passes::ShadowMap map{.name = "sun map", .scene = scene, .light = "sun"};
    map.depth = sun;
    frame.add(passes::shadow_map(map));
    frame.add(passes::sky(
        {.name = "sky", .scene = scene, .view = "front", .environment = "sky", .color = light, .cache = ""}));
    const std::vector<Reference> lights{"sun", "lamps"};
    if (deferred) {
      const auto base = frame.target("base", {.format = Format::rgba8});
      const auto material = frame.target("material", {.format = Format::rgba8});
      const auto normal = frame.target("normal", {.format = Format::rgba16f});
      passes::Geometry geometry{.name = "geometry", .scene = scene, .view = "front"};
      geometry.base_color = base;
      geometry.material = material;
      geometry.normal = normal;
      geometry.depth = depth;
      frame.add(passes::geometry(geometry));
      passes::Deferred pass{.name = "lit", .scene = scene, .view = "front", .lights = lights};
      pass.base_color = base;
      pass.material = material;
      pass.normal = normal;
      pass.depth = depth;
      pass.shadows = {sun};
      pass.light_bounds = batch::LightBounds::tiles;
      pass.color = light;
      frame.add(passes::deferred(pass));
    } else {
      passes::Forward pass{.name = "picture", .scene = scene, .view = "front", .lights = lights};
      pass.light_bounds = batch::LightBounds::clusters;
      pass.shadows = {sun};
      pass.color = light;
      pass.depth = depth;
      frame.add(passes::forward(pass));
    }
    frame.add(
        passes::light_markers({.name = "markers", .scene = scene, .view = "front", .color = light, .depth = depth}));
    frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
  }

  static std::string fmt(const char* what, int number) { return std::string(what) + " " + std::to_string(number); }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "a lens of the program's own that sees a part of a picture draws that part") {
  constexpr int width = 120, height = 80;
  for (const bool deferred : {false, true}) {
    for (const bool parallel : {false, true}) {
      Stage stage(deferred, parallel);
      const auto plan = [&](int w, int h) { return stage.frame.plan(w, h, device.limits()).value(); };
      gl::FrameRunner runner(device, plan(2 * width, 2 * height));
      runner.run(0);
      const Image whole = runner.read("output");
      runner.use(plan(width, height));
      for (int part = 0; part < 4; ++part) {
        const int column = part % 2, row = part / 2;
        Camera camera = stage.camera;
        camera.lens = part_of(stage.camera, 1.5f, column, row, 2);
        stage.scene->set_camera(stage.view, camera);
        runner.run(0);
        const Image seen = runner.read("output");
        int others = 0, lit = 0;
        for (int y = 0; y < height; ++y) {
          for (int x = 0; x < width; ++x) {
            const auto a = seen.at(x, y), b = whole.at(x + column * width, y + row * height);
            const double apart = std::max({std::abs(a[0] - b[0]), std::abs(a[1] - b[1]), std::abs(a[2] - b[2])});
            others += apart > 2;
            lit += a[0] + a[1] + a[2] > 30;
          }
        }
        INFO("deferred " << deferred << ", parallel " << parallel << ", part " << part);
        CHECK(lit > width * height / 2);
        CHECK(others <= width * height / 100);  // edges, by rounding
      }
      // Without it, the camera's own numbers count again.
      stage.scene->set_camera(stage.view, stage.camera);
      runner.use(plan(2 * width, 2 * height));
      runner.run(0);
      CHECK(runner.read("output") == whole);
    }
  }
}

TEST_CASE("a lens of another depth order than its camera is refused") {
  Scene scene;
  const ViewHandle view = scene.add_view({"front", {}});
  Camera camera;
  camera.lens = Projection::perspective(Perspective{.depth = DepthOrder::ordinary});
  CHECK(thrown_slug([&] { scene.set_camera(view, camera); }) == "bad-projection");
  CHECK(thrown_slug([&] { scene.add_view({"side", camera}); }) == "bad-projection");
  CHECK(thrown_slug([&] { CameraFit(camera, 1); }) == "bad-projection");
  camera.depth = DepthOrder::ordinary;
  scene.set_camera(view, camera);
  CHECK(scene.at(view).camera.projection(3) == *camera.lens);
}
