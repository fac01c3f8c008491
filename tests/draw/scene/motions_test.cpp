#include "gl/device.h"
#include "passes/rendering.h"

#include "draw/scene/motions.h"
#include "draw/scene/scene_buffers.h"

#include <cmath>
#include <random>

using namespace periscena;

namespace {

constexpr int size = 160;
constexpr std::size_t large_block = 1 << 27;

/// Trees of moving things: each bar carries two, as deep as `depth`.
struct Grove {
  std::mt19937 dice{9};
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  MeshHandle bar;
  MaterialHandle material;

  Grove() {
    Camera camera;
    camera.eye = {0, 9, 19};
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
    bar = scene->add_mesh("bar", shapes::box({0.5f, 0.2f, 0.3f}));
    material = scene->add_material({.name = "white"});
  }

  float between(float from, float to) { return std::uniform_real_distribution<float>(from, to)(dice); }
  Vec3 direction() { return Vec3(between(-1, 1), between(-1, 1), between(0.1f, 1)); }

  Motion motion() {
    const auto kind = static_cast<Motion::Kind>(dice() % 3);
    return {.kind = kind,
            .axis = 3 * direction(),
            .pivot = 0.3f * direction(),
            .from = between(-1, 0),
            .to = between(0, kind == Motion::Kind::swing ? 4.0f : 0.5f),
            .period = between(0.5f, 9),
            .phase = between(0, 1),
            .hold_from = between(0, 0.4f),
            .hold_to = between(0, 0.4f)};
  }

  void grow(NodeHandle parent, int depth) {
    Node node;
    node.parent = parent;
    node.mesh = bar;
    node.material = material;
    node.placement =
        Transform::scale(Vec3(between(0.7f, 1.2f), 1, dice() % 4 ? 1.0f : -1.0f))
            .then(Transform::rotate(direction(), between(0, 3)))
            .then(Transform::translate(parent.valid() ? Vec3(0.4f, 0.3f, 0)
                                                      : Vec3(between(-12, 12), between(-3, 3), between(-12, 12))));
    if (dice() % 5) node.motion = motion();
    const NodeHandle self = scene->add_node(node);
    if (depth > 0) {
      grow(self, depth - 1);
      grow(self, depth - 1);
    }
  }

  Node bar_at_random() {
    Node node;
    node.mesh = bar;
    node.material = material;
    node.placement = Transform::translate({between(-12, 12), between(-3, 3), between(-12, 12)});
    return node;
  }

  void stand() { scene->add_node(bar_at_random()); }

  /// Something that moves by keys.
  void ride() {
    auto keys = std::make_shared<KeyedPlacement>();
    keys->translation_track.times = {0, 20};
    for (int i = 0; i < 2; ++i)
      keys->translation_track.values.push_back({between(-9, 9), between(-3, 3), between(-9, 9)});
    Node node = bar_at_random();
    node.keys = keys;
    scene->add_node(node);
  }

  /// The same as it stands at a time, without anything that moves.
  std::shared_ptr<Scene> frozen(double seconds) const {
    auto still = std::make_shared<Scene>();
    still->add_view(scene->views()[0]);
    still->add_light(scene->lights()[0]);
    still->add_mesh("bar", scene->meshes()[0]);
    still->add_material(scene->materials()[0]);
    std::vector<Transform> worlds(scene->nodes().size(), Transform::identity());
    scene->world_transforms(seconds, worlds);
    for (const Transform& world : worlds) {
      Node node;
      node.mesh = bar;
      node.material = material;
      node.placement = world;
      still->add_node(node);
    }
    return still;
  }
};

/// What the device moves stands where the same formulas on the CPU say. @param most_bytes  that a frame sends
void expect_in_place(gl::Device& device, const Grove& grove, std::uint64_t most_bytes) {
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
  frame.keep(color);
  frame.add(passes::forward({.scene = grove.scene,
                             .view = "front",
                             .color = color,
                             .depth = frame.target("depth", {.format = Format::depth32f})}));
  gl::FrameRunner runner(device, frame.plan(size, size, device.limits()).value());
  const Image* before = nullptr;
  Image kept;
  for (const double seconds : {0.0, 1.7, 12.25, 86400.5}) {
    runner.run(seconds);
    const Image moved = runner.read("color"), expected = render_front(device, grove.frozen(seconds), size);
    int differ = 0, covered = 0;
    for (int y = 0; y < size; ++y) {
      for (int x = 0; x < size; ++x) {
        covered += expected.at(x, y)[3] > 0;
        differ += std::abs(moved.at(x, y)[0] - expected.at(x, y)[0]) > 2e-3;
      }
    }
    INFO("at " << seconds << " s, " << covered << " pixels covered");
    REQUIRE(covered > 4000);
    // A place that is off by a rounding step moves an edge over few pixels' middles.
    CHECK(differ <= covered / 1000);
    if (before) REQUIRE_FALSE(std::equal(moved.bytes().begin(), moved.bytes().end(), before->bytes().begin()));
    kept = moved;
    before = &kept;
    if (seconds > 0) REQUIRE(runner.counts().bytes_sent <= most_bytes);
  }
  runner.run(12.25);
  const Image again = runner.read("color");
  runner.run(3);
  runner.run(12.25);
  REQUIRE(std::equal(again.bytes().begin(), again.bytes().end(), runner.read("color").bytes().begin()));
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "thousands of things that the device moves stand where the same formulas on the CPU say") {
  Grove grove;
  for (int i = 0; i < 100; ++i) grove.grow({}, 3);
  REQUIRE(grove.scene->nodes().size() == 1500);
  // Nothing is sent but the frame's time: the CPU has no part in it.
  expect_in_place(device, grove, 1024);
}

TEST_CASE_METHOD(TestDevice, "the device moves things between those that the CPU moves, and that stand still") {
  Grove grove;
  for (int i = 0; i < 100; ++i) {
    grove.grow({}, 3);
    for (int still = 0; still < (i % 10 == 3 ? 70 : 1); ++still) grove.stand();
    if (i % 7 == 0) grove.ride();
  }
  const std::size_t nodes = grove.scene->nodes().size();
  REQUIRE(nodes == 1500 + 90 + 700 + 15);
  const draw::Motions motions(device, *grove.scene, large_block);
  REQUIRE(std::count(motions.moved_here().begin(), motions.moved_here().end(), true) > 1024);
  // What the CPU moves, and who is in view, is sent as well.
  expect_in_place(device, grove, 1024 + 15 * sizeof(draw::ObjectBlock) + 4 * nodes);
}

TEST_CASE("bounds of what moves on the device hold it at all times, and are not much too large") {
  Grove grove;
  for (int i = 0; i < 40; ++i) grove.grow({}, 2);
  const Scene& scene = *grove.scene;
  const float radius = scene.meshes()[0].bounds().sphere().radius;
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  std::vector<float> farthest(worlds.size(), 0);
  std::vector<Sphere> bounds;
  for (std::uint32_t i = 0; i < worlds.size(); ++i)
    bounds.push_back(draw::swept_bounds(scene, i, {Vec3::zero(), radius}));
  for (int step = 0; step < 400; ++step) {
    scene.world_transforms(0.0913 * step, worlds);
    for (std::size_t i = 0; i < worlds.size(); ++i) {
      for (const Vec3& position : scene.meshes()[0].positions) {
        const float distance = (worlds[i].apply_to_point(position) - bounds[i].center).norm();
        REQUIRE(distance <= bounds[i].radius * 1.0001f);
        farthest[i] = std::max(farthest[i], distance);
      }
    }
  }
  double used = 0;
  for (std::size_t i = 0; i < worlds.size(); ++i) used += farthest[i] / bounds[i].radius;
  REQUIRE(used / static_cast<double>(worlds.size()) > 0.6);
}

TEST_CASE_METHOD(TestDevice,
                 "what moves by keys, or in a tree with a light, is moved by the CPU, and so are few things") {
  Grove grove;
  for (int i = 0; i < 100; ++i) grove.grow({}, 3);
  const auto count = [](const draw::Motions& motions) {
    return std::count(motions.moved_here().begin(), motions.moved_here().end(), true);
  };
  const auto moving = grove.scene->moving_nodes();
  const auto all = std::count(moving.begin(), moving.end(), true);
  REQUIRE(count(draw::Motions(device, *grove.scene, large_block)) == all);
  // A light deep in the first tree: the whole tree that moves with it is left to the CPU.
  Light lamp{.name = "lamp", .kind = PointLight{}};
  lamp.node = NodeHandle{3};
  grove.scene->add_light(lamp);
  const draw::Motions with_lamp(device, *grove.scene, large_block);
  REQUIRE(count(with_lamp) < all);
  REQUIRE(count(with_lamp) >= all - 15);
  for (std::size_t i = 0; i < 4; ++i) REQUIRE_FALSE(with_lamp.moved_here()[i]);
  Grove few;
  for (int i = 0; i < 20; ++i) few.grow({}, 3);
  REQUIRE(count(draw::Motions(device, *few.scene, large_block)) == 0);
  REQUIRE(count(draw::Motions(device, *grove.scene, 65536)) == 0);
}
