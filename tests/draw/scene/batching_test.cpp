#include "draw/scene/scene_buffers.h"
#include "gl/device.h"
#include "passes/rendering.h"

#include <periscena/inspect/report.h>
#include <periscena/passes/shadow_map.h>

#include <nlohmann/json.hpp>

#include <cmath>

using namespace periscena;

namespace {

constexpr int size = 96;

/// A few hundred boxes and balls in two materials, one with a picture, some mirrored, some of glass, some moving.
struct Yard {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  Yard() {
    Camera camera;
    camera.eye = {0, 6, 14};
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
    const MeshHandle box = scene->add_mesh("box", shapes::box({0.5f, 0.5f, 0.5f})),
                     ball = scene->add_mesh("ball", shapes::sphere(0.3f, 12));
    auto image = std::make_shared<Image>(2, 2, Format::rgba8);
    for (int i = 0; i < 4; ++i) image->set(i % 2, i / 2, {255.0 * (i % 2), 128, 255, 255});
    const TextureHandle picture = scene->add_texture({.name = "picture", .image = image});
    Material plain{.name = "plain", .base_color = Vec3(0.6f, 0.5f, 0.4f)}, pictured{.name = "pictured"};
    pictured.base_color_map.texture = picture;
    const MaterialHandle materials[] = {scene->add_material(plain), scene->add_material(pictured),
                                        scene->add_material({.name = "glass",
                                                             .base_color = Vec3(0.2f, 0.5f, 0.3f),
                                                             .alpha = 0.4f,
                                                             .alpha_mode = Material::AlphaMode::blend})};
    for (int i = 0; i < 300; ++i) {
      Node node;
      node.mesh = i % 3 ? box : ball;
      node.material = materials[i % 20 == 7 ? 2 : i % 2];
      const Vec3 at(static_cast<float>(i % 20) - 9.5f, 0.3f * static_cast<float>(i % 7), -static_cast<float>(i / 20));
      node.placement = Transform::scale(i % 11 ? Vec3(1, 1, 1) : Vec3(-1, 1, 1)).then(Transform::translate(at));
      if (i % 13 == 0)
        node.motion = Motion{.kind = Motion::Kind::slide, .axis = Vec3::unit_x(), .from = 0, .to = 20, .period = 4};
      scene->add_node(node);
    }
  }

  FrameGraph frame(batch::Batching batching) const {
    FrameGraph frame;
    const TargetHandle map = frame.target("map", {.format = Format::depth32f, .size = TargetSize::pixels(256, 256)});
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    frame.keep(color);
    frame.add(passes::shadow_map({.scene = scene, .light = "sun", .batching = batching, .depth = map}));
    frame.add(passes::forward({.scene = scene,
                               .view = "front",
                               .shadows = {map},
                               .batching = batching,
                               .color = color,
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    return frame;
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "however draws become calls, the picture is the same, and the counts say what was made") {
  const Yard yard;
  std::vector<std::byte> first[2];
  gl::Counts fewest;
  for (const batch::Batching batching : {batch::Batching::unmerged, batch::Batching::commands,
                                         batch::Batching::instances, batch::Batching::one_by_one}) {
    INFO(choices_of(batching)[static_cast<std::size_t>(batching)]);
    gl::FrameRunner runner(device, yard.frame(batching).plan(size, size, device.limits()).value());
    for (const int moment : {0, 1}) {
      runner.run(moment);
      const Image image = runner.read("color");
      if (first[moment].empty()) first[moment].assign(image.bytes().begin(), image.bytes().end());
      REQUIRE(std::equal(image.bytes().begin(), image.bytes().end(), first[moment].begin()));
    }
    const gl::Counts counts = runner.counts();
    if (batching == batch::Batching::unmerged) fewest = counts;
    REQUIRE(counts.instances == fewest.instances);
    REQUIRE(counts.triangles == fewest.triangles);
    REQUIRE(counts.culled == fewest.culled);
    REQUIRE(counts.draw_calls >= fewest.draw_calls);
    if (batching == batch::Batching::one_by_one) REQUIRE(counts.draw_calls == counts.instances);
    if (batching == batch::Batching::commands) REQUIRE(counts.commands == counts.instances);
    if (batching == batch::Batching::instances) REQUIRE(counts.draw_calls == counts.commands);
  }
  REQUIRE(first[0] != first[1]);
  // The shadow pass: one call. The other: two states, each also mirrored, and glass among them.
  REQUIRE(fewest.draw_calls < 12);
}

TEST_CASE_METHOD(TestDevice, "what stands still can be merged: fewer objects, and the same picture but for rounding") {
  const Yard yard;
  for (const double moment : {0.0, 1.0}) {
    const Image a = render_front(device, yard.scene, size, {}, moment);
    const Image b = render_front(device, yard.scene, size, {.batching = batch::Batching::merged}, moment);
    int covered = 0, differ = 0;
    for (int y = 0; y < size; ++y) {
      for (int x = 0; x < size; ++x) {
        covered += a.at(x, y)[3] > 0;
        differ += std::abs(a.at(x, y)[0] - b.at(x, y)[0]) > 5e-3 || std::abs(a.at(x, y)[3] - b.at(x, y)[3]) > 5e-3;
      }
    }
    REQUIRE(covered > size * size / 10);
    // Places are rounded once more, which moves edges over few pixels' middles.
    CHECK(differ <= covered / 500);
  }
  gl::FrameRunner apart(device, yard.frame(batch::Batching::unmerged).plan(size, size, device.limits()).value());
  gl::FrameRunner merged(device, yard.frame(batch::Batching::merged).plan(size, size, device.limits()).value());
  apart.run(0);
  merged.run(0);
  CHECK(merged.counts(0).instances * 4 < apart.counts(0).instances);
  CHECK(merged.counts(0).triangles == apart.counts(0).triangles);
}

TEST_CASE_METHOD(TestDevice,
                 "many small objects that stand still are merged without being asked, and the rest is not") {
  Yard yard;
  const MeshHandle slate = yard.scene->add_mesh("slate", shapes::plane(0.3f, 0.2f));
  for (int i = 0; i < 200; ++i) {
    Node node;
    node.mesh = slate;
    node.material = MaterialHandle{0};
    node.placement =
        Transform::rotate(Vec3(1, 0, 1), 0.4f)
            .then(Transform::translate({static_cast<float>(i % 20) - 9.5f, 2.5f, -static_cast<float>(i / 20)}));
    yard.scene->add_node(node);
  }
  gl::FrameRunner by_itself(device, yard.frame({}).plan(size, size, device.limits()).value());
  gl::FrameRunner apart(device, yard.frame(batch::Batching::commands).plan(size, size, device.limits()).value());
  by_itself.run(0);
  apart.run(0);
  // Boxes have 12 triangles, balls too many; mirrored boxes are merged with the others.
  CHECK(apart.counts(0).instances == 485);
  CHECK(by_itself.counts(0).instances < 200);
  CHECK(by_itself.counts(0).triangles == apart.counts(0).triangles);
  CHECK_THAT(by_itself.choices(1).at(1).way,
             Catch::Contains("objects of at most 16 triangles, 64 or more of a material, that stand still became"));
  CHECK(by_itself.choices(0).at(0).way == by_itself.choices(1).at(1).way);
  CHECK_THAT(apart.choices(1).at(1).way, Catch::Contains("none"));
  const Image a = by_itself.read("color"), b = apart.read("color");
  int differ = 0;
  for (int i = 0; i < size * size; ++i)
    differ += std::abs(a.at(i % size, i / size)[0] - b.at(i % size, i / size)[0]) > 5e-3;
  // Places are rounded once more, which moves edges over few pixels' middles.
  CHECK(differ <= size * size / 500);
}

TEST_CASE_METHOD(TestDevice, "what did not move is not sent again, and objects out of view are not drawn") {
  const Yard yard;
  gl::FrameRunner runner(device, yard.frame(batch::Batching::unmerged).plan(size, size, device.limits()).value());
  runner.run(0);
  const gl::Counts all = runner.counts();
  runner.run(0);
  const gl::Counts still = runner.counts();
  // The shadow map is left as it is.
  REQUIRE(runner.counts(0).draw_calls == 0);
  REQUIRE(still.draw_calls == all.draw_calls - 1);
  REQUIRE(still.culled == all.culled);
  // The frame's own block alone: its time.
  REQUIRE(still.bytes_sent <= 1024);
  REQUIRE(all.bytes_sent > 300 * sizeof(draw::ObjectBlock));
  runner.run(2);  // what slides is far to the right now, and some of it out of view
  REQUIRE(runner.counts().culled > all.culled);
  REQUIRE(runner.counts().bytes_sent < all.bytes_sent);
  // Shadow: 280 objects that are not of glass; the other pass: those in view.
  REQUIRE(runner.counts(0).instances == 285);
  REQUIRE(runner.counts(1).instances + runner.counts(1).culled == 300);
}

TEST_CASE_METHOD(TestDevice, "each batch says what it draws and why it is not one with the batch before it") {
  const Yard yard;
  gl::FrameRunner runner(device, yard.frame(batch::Batching::unmerged).plan(size, size, device.limits()).value());
  runner.run(0);
  REQUIRE(runner.batches(0).size() == 1);
  const std::vector<gl::Batch> batches = runner.batches(1);
  gl::Counts sum;
  for (const gl::Batch& batch : batches) sum += batch.counts;
  REQUIRE(sum.draw_calls == runner.counts(1).draw_calls);
  REQUIRE(sum.triangles == runner.counts(1).triangles);
  REQUIRE(batches[0].what == "\"plain\"");
  REQUIRE(batches[0].why_apart.empty());
  REQUIRE(batches[1].why_apart == "mirrored: front faces wind the other way");
  REQUIRE(batches[2].what == "\"pictured\"");
  REQUIRE(batches[2].why_apart == "base_color_map: 2 x 2 rgba8_srgb instead of no map");
  REQUIRE_THAT(batches[4].why_apart, Catch::Contains("blended"));

  const auto json = nlohmann::json::parse(inspect::batches_json(runner));
  REQUIRE(json["passes"].size() == 2);
  REQUIRE(json["passes"][1]["batches"].size() == batches.size());
  const auto counts = nlohmann::json::parse(inspect::counts_json(runner));
  REQUIRE(counts["frame"]["triangles"] == runner.counts().triangles);
  REQUIRE(counts["passes"][1]["pass"] == "forward");
  REQUIRE_THAT(inspect::counts_text(runner), Catch::Contains("the frame"));

  gl::FrameRunner single(device, yard.frame(batch::Batching::one_by_one).plan(size, size, device.limits()).value());
  single.run(0);
  REQUIRE(single.batches(1)[1].why_apart == "batching = \"one_by_one\"");
}

TEST_CASE_METHOD(TestDevice, "materials that one storage block does not hold lie in several, and draws split there") {
  auto scene = std::make_shared<Scene>();
  Camera camera;
  camera.eye = {0, 0, 9};
  scene->add_view({"front", camera});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.6f}}});
  const MeshHandle ball = scene->add_mesh("ball", shapes::sphere(0.4f, 12));
  for (int i = 0; i < 40; ++i) {
    const auto share = static_cast<float>(i) / 40;
    Node node;
    node.mesh = ball;
    node.material = scene->add_material(
        {.name = "material " + std::to_string(i), .base_color = Vec3(share, 1 - share, 0.3f), .roughness = share});
    node.placement = Transform::translate({static_cast<float>(i % 8) - 3.5f, static_cast<float>(i / 8) - 2, 0});
    scene->add_node(node);
  }
  const auto render = [&](gl::Device& on, std::vector<gl::Batch>& batches) {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    frame.keep(color);
    frame.add(passes::forward({.scene = scene,
                               .view = "front",
                               .color = color,
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    gl::FrameRunner runner(on, frame.plan(size, size, on.limits()).value());
    runner.run(0);
    batches = runner.batches(0);
    return runner.read("color");
  };
  std::vector<gl::Batch> whole, split;
  const Image expected = render(device, whole);
  REQUIRE(whole.size() == 1);
  {
    gl::Device lesser = gl::Device::headless({.most_block_bytes = 6000});  // 16 materials of 368 bytes
    CHECK(render(lesser, split) == expected);
    REQUIRE(split.size() == 3);
    CHECK(split[2].counts.instances == 8);
    CHECK(split[1].why_apart == "a storage block of this device holds 16 materials");
  }
}

TEST_CASE_METHOD(TestDevice, "objects beyond what one storage block holds lie in several") {
  const Yard yard;
  std::vector<Image> expected;
  gl::Counts counts;
  {
    gl::FrameRunner whole(device, yard.frame(batch::Batching::unmerged).plan(size, size, device.limits()).value());
    for (const int moment : {0, 2}) {
      whole.run(moment);
      expected.push_back(whole.read("color"));
      counts = whole.counts(0);
    }
    CHECK(counts.draw_calls == 1);
  }
  gl::Device lesser = gl::Device::headless({.most_block_bytes = 64 * sizeof(draw::ObjectBlock)});
  {
    gl::FrameRunner split(lesser, yard.frame(batch::Batching::unmerged).plan(size, size, lesser.limits()).value());
    for (const int moment : {0, 2}) {
      split.run(moment);
      CHECK(split.read("color") == expected[moment / 2]);
    }
    CHECK(split.counts(0).instances == counts.instances);
    CHECK(split.counts(0).draw_calls == 5);  // 300 objects
    CHECK(split.batches(0)[1].why_apart == "a storage block of this device holds no more objects");
  }
  // What needs them in one block says so.
  CHECK_THROWS_WITH(
      render_front(lesser, yard.scene, size,
                   {.batching = batch::Batching::unmerged, .culling = batch::Culling::device}),
      Catch::Contains("culling on the device wants all 300 objects of the scene in one storage block, and "
                      "one of this device holds 64"));
}

TEST_CASE_METHOD(TestDevice, "objects whose bounds are not finite are drawn, and told") {
  Yard yard;
  Node node;
  node.name = "stretched";
  node.mesh = yard.scene->add_mesh("long", shapes::box({4, 0.2f, 0.2f}));
  node.material = MaterialHandle{0};
  node.placement = Transform::scale(Vec3(3e38f, 1, 1));
  yard.scene->add_node(node);
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
  frame.keep(color);
  frame.add(
      passes::forward({.scene = yard.scene, .view = "front", .batching = batch::Batching::unmerged, .color = color}));
  gl::FrameRunner runner(device, frame.plan(size, size, device.limits()).value());
  CHECK(runner.diagnostics().size() == 0);
  runner.run(0);
  CHECK(runner.counts(0).instances + runner.counts(0).culled == 301);
  REQUIRE(runner.diagnostics().size() == 1);
  CHECK(runner.diagnostics()[0].slug == "bounds-not-finite");
  CHECK(runner.diagnostics()[0].message ==
        "1 object can't be told to be in view or not, and is always drawn: \"stretched\"");
}
