#include "gl/device.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/geometry.h>
#include <periscena/passes/heat.h>
#include <periscena/passes/overdraw.h>

#include <fmt/format.h>

using namespace periscena;

namespace {

/// Three plates, one behind the other, each larger than the one before it, and lamps that reach part of them.
std::shared_ptr<Scene> plates() {
  auto scene = std::make_shared<Scene>();
  scene->add_view({"front", {.eye = {0, 0, 10}, .target = {0, 0, 0}, .far = 50, .parallel_height = 8}});
  const MaterialHandle grey = scene->add_material({.name = "grey"});
  for (int i = 0; i < 3; ++i) {
    Node node;
    node.name = fmt::format("plate {}", i);
    const float size = 2.0f + 2.0f * static_cast<float>(i);
    node.mesh = scene->add_mesh(node.name, shapes::box({size, size, 0.1f}));
    node.material = grey;
    node.placement = Transform::translate(Vec3(0, 0, -static_cast<float>(i)));
    scene->add_node(node);
  }
  for (int i = 0; i < 9; ++i) {
    scene->add_light(Light{
        .name = fmt::format("lamp {}", i),
        .kind = PointLight{.intensity = 3, .position = {0.1f * static_cast<float>(i) - 2.9f, 0, -1.5f}, .range = 1}});
  }
  return scene;
}

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "overdraw counts surfaces one behind the other, and with depth those that are not hidden yet") {
  const auto scene = plates();
  FrameGraph frame;
  passes::Overdraw all{.name = "all", .scene = scene, .view = "front"};
  all.count = frame.target("all", {.format = Format::r16f});
  passes::Overdraw shown{.name = "shown", .scene = scene, .view = "front"};
  shown.count = frame.target("shown", {.format = Format::r16f});
  shown.depth = frame.target("depth", {.format = Format::depth32f});
  frame.keep("all");
  frame.keep("shown");
  frame.add(passes::overdraw(all));
  frame.add(passes::overdraw(shown));
  gl::FrameRunner runner(device, frame.plan(80, 80, device.limits()).value());
  runner.run(0);
  const Image counts = runner.read("all"), with_depth = runner.read("shown");
  // 10 pixels a metre: plates reach to 10, 20 and 30 pixels from the middle.
  CHECK(counts.at(40, 40)[0] == 3);
  CHECK(counts.at(55, 40)[0] == 2);
  CHECK(counts.at(65, 40)[0] == 1);
  CHECK(counts.at(75, 40)[0] == 0);
  for (const int x : {40, 55, 65}) {
    CHECK(with_depth.at(x, 40)[0] >= 1);
    CHECK(with_depth.at(x, 40)[0] <= counts.at(x, 40)[0]);
  }
  CHECK(with_depth.at(75, 40)[0] == 0);
}

TEST_CASE_METHOD(TestDevice, "a deferred pass counts the lights that its pixels ask, and heat shows more as hotter") {
  const auto scene = plates();
  FrameGraph frame;
  passes::Geometry buffer{.scene = scene, .view = "front"};
  buffer.normal = frame.target("normal", {.format = Format::rgba16});
  buffer.base_color = frame.target("base_color", {.format = Format::rgba8});
  buffer.material = frame.target("material", {.format = Format::rgba8});
  buffer.depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::geometry(buffer));
  for (const auto bounds : {batch::LightBounds::none, batch::LightBounds::tiles, batch::LightBounds::quads}) {
    const std::string name = fmt::format("{}", static_cast<int>(bounds));
    passes::Deferred light{.name = "light " + name, .scene = scene, .view = "front"};
    light.light_bounds = bounds;
    light.depth = buffer.depth;
    light.normal = buffer.normal;
    light.base_color = buffer.base_color;
    light.material = buffer.material;
    light.color = frame.target("color " + name, {.format = Format::rgba16f});
    light.light_count = frame.target("count " + name, {.format = Format::r16f});
    frame.keep(light.light_count);
    frame.add(passes::deferred(light));
  }
  passes::Heat heat{.most = 9};
  heat.amount = "count 3";
  heat.color = frame.target("heat", {.format = Format::rgba32f});
  frame.keep(heat.color);
  frame.add(passes::heat(heat));
  gl::FrameRunner runner(device, frame.plan(160, 160, device.limits()).value());
  runner.run(0);
  const Image none = runner.read("count 1"), tiles = runner.read("count 3"), quads = runner.read("count 2"),
              hot = runner.read("heat");
  CHECK(none.at(80, 80)[0] == 9);
  CHECK(none.at(155, 80)[0] == 0);  // nothing is there
  // Lamps lie left of the middle, and reach a metre: 20 pixels.
  CHECK(tiles.at(120, 80)[0] == 0);
  CHECK(tiles.at(34, 80)[0] > 4);
  for (int y = 0; y < 160; ++y) {
    for (int x = 0; x < 160; ++x) {
      CHECK_FALSE(tiles.at(x, y)[0] > none.at(x, y)[0]);
      CHECK_FALSE(quads.at(x, y)[0] > none.at(x, y)[0]);
    }
  }
  CHECK(hot.at(34, 80)[0] > hot.at(120, 80)[0] + 0.3);
  CHECK(hot.at(120, 80)[0] == 0);
  // The strip below goes from cold to hot.
  CHECK(hot.at(2, 158)[2] > hot.at(2, 158)[0]);
  CHECK(hot.at(150, 158)[0] > 0.8);
}

TEST_CASE(
    "counts in whole numbers are told before anything is drawn, where they are written and where they are shown") {
  const auto scene = plates();
  FrameGraph frame;
  passes::Geometry buffer{.scene = scene, .view = "front"};
  buffer.normal = frame.target("normal", {.format = Format::rgba16});
  buffer.base_color = frame.target("base_color", {.format = Format::rgba8});
  buffer.material = frame.target("material", {.format = Format::rgba8});
  buffer.depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::geometry(buffer));
  passes::Deferred light{.scene = scene, .view = "front"};
  light.depth = buffer.depth;
  light.normal = buffer.normal;
  light.base_color = buffer.base_color;
  light.material = buffer.material;
  light.color = frame.target("light", {.format = Format::rgba16f});
  light.light_count = frame.target("counts", {.format = Format::r32ui});
  frame.add(passes::deferred(light));
  passes::Heat heat;
  heat.amount = light.light_count;
  heat.color = frame.output();
  frame.add(passes::heat(heat));
  CHECK_THAT(to_text(frame.plan(64, 48).diagnostics()),
             Catch::Contains("output-type") && Catch::Contains("sampler-type"));
}
