#include "gl/device.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/ambient_occlusion.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/geometry.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int width = 240, height = 180;
constexpr float wall_height = 0.4f;

/// A floor that meets a long wall at z = 0, seen from above and before.
struct Corner {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  Camera camera;

  explicit Corner(bool parallel, DepthOrder order, bool wall = true) {
    camera.eye = {0, 4, 5};
    camera.target = {0, 0, 0.8f};
    camera.fov_y = radians(24);
    camera.depth = order;
    camera.near = 0.5f;
    camera.far = 40;
    if (parallel) camera.parallel_height = 2.6f;
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.3f, -1, -0.5f}}});
    scene->add_light(AmbientLight{.name = "sky", .sky = {1, 1, 1}, .ground = {1, 1, 1}});
    show("floor", shapes::plane(40, 40), Transform::identity());
    if (wall) show("wall", shapes::box({40, wall_height, 1}), Transform::translate(Vec3(0, wall_height / 2, -0.5f)));
  }

  void show(const std::string& name, Mesh mesh, const Transform& at) {
    Node node;
    node.name = name;
    node.mesh = scene->add_mesh(name, std::move(mesh));
    node.material = scene->add_material(
        {.name = name, .shading = Material::Shading::blinn_phong, .base_color = {0.5f, 0.5f, 0.5f}});
    node.placement = at;
    scene->add_node(node);
  }

  FrameGraph frame(float radius, float strength = 1) const {
    FrameGraph frame;
    passes::Geometry buffer;
    buffer.scene = scene;
    buffer.view = "front";
    buffer.normal = frame.target("normal", {.format = Format::rgba16});
    buffer.base_color = frame.target("base_color", {.format = Format::rgba16});
    buffer.material = frame.target("material", {.format = Format::rgba8});
    buffer.position = frame.target("position", {.format = Format::rgba32f});
    buffer.depth = frame.target(
        "depth", {.format = Format::depth32f, .clear_depth = camera.depth == DepthOrder::reversed ? 0.0f : 1.0f});
    frame.add(passes::geometry(buffer));
    passes::AmbientOcclusion occlusion{.scene = scene, .view = "front", .radius = radius, .strength = strength};
    occlusion.depth = buffer.depth;
    occlusion.normal = buffer.normal;
    occlusion.occlusion = frame.target("free", {.format = Format::r32f});
    frame.add(passes::ambient_occlusion(occlusion));
    for (const bool occluded : {false, true}) {
      for (const bool sun : {false, true}) {
        passes::Deferred light{.name = std::string(occluded ? "occluded " : "open ") + (sun ? "sun" : "sky"),
                               .scene = scene,
                               .view = "front"};
        light.lights = ChosenNames{sun ? "sun" : "sky"};
        light.depth = buffer.depth;
        light.normal = buffer.normal;
        light.base_color = buffer.base_color;
        light.material = buffer.material;
        if (occluded) light.occlusion = occlusion.occlusion;
        light.color = frame.target(light.name, {.format = Format::rgba32f});
        frame.keep(light.color);
        frame.add(passes::deferred(light));
      }
    }
    for (const char* name : {"free", "position"}) frame.keep(name);
    return frame;
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "before a long wall, the free share of the sky is that of the closed form") {
  for (const bool parallel : {false, true}) {
    for (const DepthOrder order : {DepthOrder::reversed, DepthOrder::ordinary}) {
      const Corner corner(parallel, order);
      gl::FrameRunner runner(device, corner.frame(2).plan(width, height, device.limits()).value());
      runner.run(0);
      const Image free = runner.read("free"), position = runner.read("position");
      double worst = 0, darkest = 1, brightest = 0;
      int compared = 0;
      for (int y = 8; y < height - 8; ++y) {
        const int x = width / 2;
        const auto at = position.at(x, y);
        if (std::abs(at[1]) > 1e-3 || at[2] < 0.03 || at[2] > 0.8) continue;  // the floor, some way before the wall
        const double d = at[2];
        // What a patch of floor sees of an endless wall beside it: half of 1 - cos of the angle up to its top.
        const double expected = 1 - 0.5 * (1 - d / std::sqrt(d * d + wall_height * wall_height));
        const double found = free.at(x, y)[0];
        worst = std::max(worst, std::abs(found - expected));
        darkest = std::min(darkest, found);
        brightest = std::max(brightest, found);
        ++compared;
      }
      INFO("parallel " << parallel << ", order " << static_cast<int>(order) << ": off by " << worst << ", " << darkest
                       << " to " << brightest);
      CHECK(compared > 20);
      CHECK(worst < 0.08);
      CHECK(brightest - darkest > 0.25);
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a plane is free, strength 0 darkens nothing, and only light from around is dimmed") {
  const Corner plane(false, DepthOrder::reversed, false), corner(false, DepthOrder::reversed);
  gl::FrameRunner flat(device, plane.frame(2).plan(width, height, device.limits()).value());
  flat.run(0);
  gl::FrameRunner none(device, corner.frame(2, 0).plan(width, height, device.limits()).value());
  none.run(0);
  gl::FrameRunner some(device, corner.frame(2).plan(width, height, device.limits()).value());
  some.run(0);
  const Image open = flat.read("free"), all = none.read("free"), free = some.read("free"), sky = some.read("open sky"),
              dimmed = some.read("occluded sky");
  const Image sun = some.read("open sun"), same_sun = some.read("occluded sun");
  int off = 0, darker = 0, changed = 0, wrong = 0;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      off += open.at(x, y)[0] < 0.96 || all.at(x, y)[0] != 1;
      changed += sun.at(x, y)[0] != same_sun.at(x, y)[0];
      darker += dimmed.at(x, y)[0] < 0.9 * sky.at(x, y)[0];
      wrong += std::abs(dimmed.at(x, y)[0] - sky.at(x, y)[0] * free.at(x, y)[0]) > 1e-4;
    }
  }
  CHECK(off == 0);
  CHECK(changed == 0);
  CHECK(wrong == 0);
  CHECK(darker > 1000);
  CHECK(sun.at(width / 2, 20)[0] > 0.1);
}

TEST_CASE("radius and strength that can't be, and parts of another buffer, are told") {
  const Corner corner(false, DepthOrder::reversed);
  const auto said = [&](float radius, float strength, bool swapped = false) {
    FrameGraph frame;
    passes::Geometry buffer{.scene = corner.scene, .view = "front"};
    buffer.normal = frame.target("normal", {.format = Format::rgba16});
    buffer.material = frame.target("material", {.format = Format::rgba8});
    buffer.depth = frame.target("depth", {.format = Format::depth32f});
    frame.add(passes::geometry(buffer));
    passes::AmbientOcclusion options{.scene = corner.scene, .view = "front", .radius = radius, .strength = strength};
    options.depth = buffer.depth;
    options.normal = swapped ? buffer.material : buffer.normal;
    options.occlusion = frame.target("free", {.format = Format::r8});
    frame.keep(options.occlusion);
    frame.add(passes::ambient_occlusion(options));
    return to_text(frame.plan(64, 48).diagnostics());
  };
  for (const float bad : {0.0f, -1.0f})
    CHECK_THAT(said(bad, 1), Catch::Contains("out-of-range") && Catch::Contains("radius"));
  for (const float bad : {std::nanf(""), std::numeric_limits<float>::infinity()})
    CHECK_THAT(said(bad, 1), Catch::Contains("not-finite"));
  CHECK_THAT(said(1, std::nanf("")), Catch::Contains("strength"));
  CHECK_THAT(said(1, 1, true), Catch::Contains("swapped-geometry"));
  CHECK(said(1, 1).find("error") == std::string::npos);
}

TEST_CASE_METHOD(TestDevice, "what is occluded is that of what was drawn in the same frame") {
  Corner corner(false, DepthOrder::reversed);
  const FrameGraph frame = corner.frame(0.6f);
  gl::FrameRunner runner(device, frame.plan(width, height, device.limits()).value());
  const NodeHandle wall = corner.scene->find_node("wall");
  const auto picture_at = [&](float back) {
    corner.scene->set_local_transform(wall, Transform::translate(Vec3(0, wall_height / 2, -back)));
    runner.run(0);
  };
  picture_at(0.5f);
  runner.run(0);
  const Image wanted = runner.read("free");
  for (int i = 0; i < 40; ++i) {
    // Nothing is read in between: the device may still be at work on the last frame.
    picture_at(1);
    picture_at(0.5f);
    REQUIRE(runner.read("free") == wanted);
  }
}
