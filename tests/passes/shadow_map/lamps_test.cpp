#include "gl/device.h"
#include "passes/white_things.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/inspect/shadows.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/shadow_map.h>

using namespace periscena;

namespace {

constexpr int size = 160;

/// A floor with posts and lamps in rows; one post slides to and fro below the first lamp.
struct Yard {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  explicit Yard(int lamps, bool moves = false) {
    Camera camera;
    camera.eye = {0, 9, 12};
    scene->add_view({"front", camera});
    scene->add_material({.name = "white", .base_color = Vec3::ones()});
    show("floor", shapes::plane(80, 80), {0, 0, 0});
    for (int i = 0; i < lamps; ++i) {
      const Vec3 at(4 * static_cast<float>(i % 20) - 6, 2.2f, -4 * static_cast<float>(i / 20));
      scene->add_light(Light{.name = "lamp " + std::to_string(i),
                             .kind = i % 3 == 2 ? LightKind(SpotLight{.intensity = 30, .position = at, .range = 3})
                                                : LightKind(PointLight{.intensity = 30, .position = at, .range = 3}),
                             .tags = {"lamps"}});
      show("post " + std::to_string(i), shapes::box({0.2f, 1, 0.2f}), at + Vec3(0.6f, -1.7f, 0.4f));
    }
    if (moves) {
      Node node;
      node.name = "slider";
      node.mesh = scene->add_mesh("slider", shapes::box({0.3f, 0.8f, 0.3f}));
      node.material = MaterialHandle{0};
      node.placement = Transform::translate({-6.4f, 0.4f, 0.5f});
      node.motion = Motion{.kind = Motion::Kind::slide, .axis = Vec3::unit_x(), .from = 0, .to = 0.5f, .period = 4};
      scene->add_node(node);
    }
  }

  void show(const std::string& name, Mesh mesh, const Vec3& at) { show_white(*scene, name, std::move(mesh), at); }

  FrameGraph frame(passes::ShadowMap map, int side, int layers) const {
    FrameGraph frame;
    frame.target("map", {.format = Format::depth32f,
                         .size = TargetSize::pixels(side, side),
                         .layers = layers,
                         .shape = TargetShape::array});
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    frame.keep(color);
    map.scene = scene;
    if (map.light.empty()) map.lights = {"lamps"};
    map.without_tags = {"ground"};
    map.batching = batch::Batching::unmerged;
    map.depth = "map";
    frame.add(passes::shadow_map(map));
    frame.add(passes::forward({.scene = scene,
                               .view = "front",
                               .shadows = {"map"},
                               .color = color,
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    return frame;
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "lamps in tiles of one target shadow what the rays say, each as if it were alone") {
  const Yard yard(5);
  const auto found = inspect::measure_shadows(device, yard.frame({}, 512, 6), 640, 480,
                                              {.lights = {"lamp 0", "lamp 1", "lamp 2", "lamp 3", "lamp 4"}});
  REQUIRE(found.size() == 5);
  for (const auto& one : found) {
    INFO(one.light << ": " << one.errors.lit << " lit, " << one.errors.dark << " dark");
    CHECK(one.errors.lit + one.errors.edges > 100);
    CHECK(one.errors.leaks < 0.005);
    CHECK(one.errors.stripes < 0.001);
  }
}

TEST_CASE_METHOD(TestDevice, "maps of what did not move are kept, and only lamps near what moves are drawn again") {
  const Yard still(3), moving(4, true);
  {
    gl::FrameRunner runner(device, still.frame({}, 256, 6).plan(size, size, device.limits()).value());
    runner.run(0);
    const Image first = runner.read("color");
    CHECK(runner.counts(0).draw_calls == 6);  // for each light one to clear, and one
    runner.run(1);
    CHECK(runner.counts(0).draw_calls == 0);
    CHECK(runner.read("color") == first);
    runner.draw_all_anew();
    runner.run(2);
    CHECK(runner.counts(0).draw_calls == 6);
    CHECK(runner.read("color") == first);
  }
  gl::FrameRunner runner(device, moving.frame({}, 256, 6).plan(size, size, device.limits()).value());
  runner.run(0);
  CHECK(runner.counts(0).draw_calls == 8);
  runner.run(1);
  CHECK(runner.counts(0).draw_calls == 2);
  const Image kept = runner.read("color");
  runner.run(1);
  CHECK(runner.counts(0).draw_calls == 0);
  gl::FrameRunner anew(device, moving.frame({}, 256, 6).plan(size, size, device.limits()).value());
  anew.run(1);
  CHECK(anew.read("color") == kept);
}

TEST_CASE_METHOD(TestDevice, "the map of a sun that stands still is drawn once, until something that casts moves") {
  for (const bool moves : {false, true}) {
    Yard yard(0, moves);
    yard.show("block", shapes::box({1, 1, 1}), {0, 0.5f, 0});
    yard.scene->add_light(
        Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
    passes::ShadowMap map;
    map.light = "sun";
    gl::FrameRunner runner(device, yard.frame(map, 256, 1).plan(size, size, device.limits()).value());
    runner.run(0);
    CHECK(runner.counts(0).draw_calls == 1);
    const Image first = runner.read("color");
    runner.run(1);
    CHECK(runner.counts(0).draw_calls == (moves ? 1 : 0));
    CHECK((runner.read("color") == first) != moves);
    // With targets of another size, what was kept is drawn again.
    runner.use(yard.frame(map, 128, 1).plan(size, size, device.limits()).value());
    runner.run(1);
    CHECK(runner.counts(0).draw_calls == 1);
  }
}

TEST_CASE_METHOD(
    TestDevice,
    "a map of several samples is kept with all of them, and one whose history is read is drawn in each frame") {
  Yard yard(0);
  yard.show("block", shapes::box({1, 1, 1}), {0, 0.5f, 0});
  yard.scene->add_light(
      Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
  for (const bool history : {false, true}) {
    FrameGraph frame;
    frame.target("map", {.format = Format::depth32f, .size = TargetSize::pixels(128, 128), .samples = history ? 1 : 4});
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    frame.keep(color);
    frame.add(passes::shadow_map({.scene = yard.scene, .light = "sun", .without_tags = {"ground"}, .depth = "map"}));
    passes::Forward lit{.scene = yard.scene, .view = "front", .shadows = {"map"}, .color = color};
    lit.depth = frame.target("depth", {.format = Format::depth32f});
    frame.add(passes::forward(lit));
    if (history) {
      const TargetHandle before = frame.target("before", {.format = Format::r32f});
      frame.keep(before);
      frame.add({.name = "before",
                 .reads = {{.slot = "map", .target = "map", .history = 1}},
                 .writes = {{"color", before}},
                 .work = gl::raw_work([](gl::PassContext&) {})});
    }
    gl::FrameRunner runner(device, frame.plan(size, size, device.limits()).value());
    CHECK(runner.plan().targets()[*runner.plan().find_target("map")].lasts);
    runner.run(0);
    const Image first = runner.read("color");
    const auto map_draws = [&] {
      for (std::size_t i = 0; i < runner.plan().passes().size(); ++i) {
        if (runner.plan().passes()[i].kind == "shadow_map") return runner.counts(i).draw_calls;
      }
      return std::uint64_t{99};
    };
    for (int i = 1; i < 4; ++i) {
      runner.run(i);
      CHECK(map_draws() == (history ? 1 : 0));
      CHECK(runner.read("color") == first);
    }
  }
}

TEST_CASE_METHOD(TestDevice,
                 "two hundred lamps: those that matter least cast nothing, which is told, and none is lost") {
  const Yard yard(200);
  passes::ShadowMap map;
  map.view = "front";
  const FrameGraph frame = yard.frame(map, 512, 4);
  const PlanResult planned = frame.plan(size, size, device.limits());
  REQUIRE(planned.ok());
  REQUIRE(planned.diagnostics().size() == 1);
  CHECK(planned.diagnostics()[0].slug == "too-few-tiles");
  CHECK_THAT(planned.diagnostics()[0].mend, Catch::Contains("layers = "));
  gl::FrameRunner runner(device, planned.value());
  runner.run(0);
  std::size_t none = 0, mapped = 0;
  for (const gl::Choice& choice : runner.choices(0)) {
    if (!choice.of.starts_with("map of")) continue;
    ++(choice.way.starts_with("none") ? none : mapped);
  }
  CHECK(none + mapped == 200);
  CHECK(mapped >= 256 / 6);
  CHECK(runner.read("color").at(size / 2, size / 2)[0] > 0);
}

TEST_CASE_METHOD(
    TestDevice,
    "a target over the device's limit is made as large as it can be where a shadow map may, with a warning") {
  const Yard yard(1);
  passes::ShadowMap map;
  map.light = "lamp 0";
  FrameGraph frame = yard.frame(map, 1 << 20, 6);
  DeviceLimits limits = device.limits();
  limits.largest_size = 256;
  const PlanResult planned = frame.plan(size, size, limits);
  REQUIRE(planned.ok());
  CHECK(planned.diagnostics()[0].slug == "size-lowered");
  gl::FrameRunner runner(device, planned.value());
  runner.run(0);
  CHECK(runner.plan().targets()[*runner.plan().find_target("map")].width == 256);
}

TEST_CASE_METHOD(TestDevice, "parts of a map can be seen as tints, and mistakes about it are told") {
  const Yard yard(2);
  const auto render = [&](const Reference& parts_of, Diagnostics* problems = nullptr) {
    FrameGraph frame;
    frame.target(
        "map",
        {.format = Format::depth32f, .size = TargetSize::pixels(256, 256), .layers = 6, .shape = TargetShape::array});
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    frame.keep(color);
    frame.add(passes::shadow_map({.scene = yard.scene, .light = "lamp 0", .depth = "map"}));
    frame.add(passes::forward({.scene = yard.scene,
                               .view = "front",
                               .lights = {"lamp 0"},
                               .shadows = {"map"},
                               .parts_of = parts_of,
                               .color = color}));
    const PlanResult planned = frame.plan(size, size, device.limits());
    if (problems) *problems = planned.diagnostics();
    if (!planned.ok()) return Image();
    gl::FrameRunner runner(device, planned.value());
    runner.run(0);
    return runner.read("color");
  };
  const Image plain = render({}), tinted = render("lamp 0");
  int changed = 0, grey = 0;
  for (int i = 0; i < size * size; ++i) {
    const auto a = plain.at(i % size, i / size), b = tinted.at(i % size, i / size);
    changed += a != b;
    grey += a[0] > 0 && b[0] == b[1] && b[1] == b[2];
  }
  CHECK(changed > 300);
  CHECK(grey == 0);
  Diagnostics problems;
  render("lamp 1", &problems);
  CHECK(problems[0].slug == "unknown-light");
}
