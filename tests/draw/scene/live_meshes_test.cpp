#include "draw/scene/scene_meshes.h"
#include "gl/device.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

#include <cmath>

using namespace periscena;

namespace {

/// A sheet of cloth in the XY plane, some waves along.
Mesh cloth(float phase, bool colored) {
  constexpr int side = 12;
  std::vector<Vec3> positions, normals;
  std::vector<Vec2> uv;
  std::vector<Vec4> colors;
  for (int y = 0; y <= side; ++y) {
    for (int x = 0; x <= side; ++x) {
      const float u = static_cast<float>(x) / side, v = static_cast<float>(y) / side, angle = 9 * u + phase;
      positions.push_back({2 * u - 1, 2 * v - 1, 0.3f * std::sin(angle)});
      normals.push_back(Vec3(-1.35f * std::cos(angle), 0, 1).normalized());
      uv.push_back({u, 1 - v});
      colors.push_back({0.5f + 0.5f * std::sin(angle), v, u, 1});
    }
  }
  static const Stream<std::uint32_t> indices = [] {
    std::vector<std::uint32_t> made;
    for (std::uint32_t y = 0; y < side; ++y) {
      for (std::uint32_t x = 0; x < side; ++x) {
        const std::uint32_t at = y * (side + 1) + x;
        for (const std::uint32_t step : {0u, 1u, side + 2u, 0u, side + 2u, side + 1u}) made.push_back(at + step);
      }
    }
    return Stream<std::uint32_t>(std::move(made));
  }();
  Mesh mesh{.positions = positions, .normals = normals, .uv = uv, .indices = indices};
  if (colored) mesh.colors = colors;
  return mesh;
}

Mesh rope(float phase) {
  std::vector<Vec3> positions;
  std::vector<std::uint32_t> indices;
  for (std::uint32_t i = 0; i < 20; ++i) {
    const float along = static_cast<float>(i) / 10 - 1;
    positions.push_back({along, 1.2f + 0.2f * std::sin(5 * along + phase), 0});
    if (i > 0) indices.insert(indices.end(), {i - 1, i});
  }
  return {.primitive = Primitive::lines, .positions = positions, .indices = indices};
}

std::shared_ptr<Scene> quay() {
  auto scene = std::make_shared<Scene>();
  const MaterialHandle linen = scene->add_material({.name = "linen", .double_sided = true}),
                       stone = scene->add_material({.name = "stone", .base_color = {0.4f, 0.4f, 0.5f}});
  const MeshHandle box = scene->add_mesh("box", shapes::box({0.3f, 0.3f, 0.3f}));
  const MeshHandle plain = scene->add_mesh("plain", cloth(0, false)),
                   colored = scene->add_mesh("colored", cloth(0, true)), line = scene->add_mesh("rope", rope(0));
  for (int i = 0; i < 80; ++i) {
    const Vec3 at(0.35f * static_cast<float>(i % 16) - 2.5f, -1.6f, -0.4f * static_cast<float>(i / 16));
    scene->add_node({.mesh = box, .material = stone, .placement = Transform::translate(at)});
  }
  scene->add_node({.name = "left", .mesh = plain, .material = linen, .placement = Transform::translate({-1.2f, 0, 0})});
  scene->add_node(
      {.name = "right", .mesh = colored, .material = linen, .placement = Transform::translate({1.2f, 0, 0})});
  Node turning{.name = "turning", .mesh = plain, .material = linen};
  turning.placement = Transform::scale(0.4f).then(Transform::translate({0, 0, 1}));
  turning.motion = Motion{};
  turning.motion->kind = Motion::Kind::spin;
  scene->add_node(turning);
  scene->add_node({.name = "rope", .mesh = line, .material = linen});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{3, {-0.3f, -1, -0.6f}}});
  scene->add_light(Light{.name = "lamp", .kind = PointLight{4, {0, 1.5f, 1.5f}, 6}});
  scene->add_light(AmbientLight{.name = "room", .sky = {0.2f, 0.2f, 0.3f}, .ground = {0.1f, 0.1f, 0.1f}});
  scene->add_view({"front", {.eye = {0, 1, 6}}});
  return scene;
}

FrameGraph frame_of(const std::shared_ptr<Scene>& scene, batch::Batching batching, batch::Culling culling) {
  FrameGraph frame;
  const auto sun = frame.target("sun", {.format = Format::depth32f, .size = {128, 128}});
  const auto lamp =
      frame.target("lamp", {.format = Format::depth32f, .size = {128, 128}, .layers = 6, .shape = TargetShape::array});
  const auto light = frame.target("light", {.format = Format::rgba16f});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  passes::ShadowMap sun_map{.name = "sun map", .scene = scene, .light = "sun"};
  sun_map.depth = sun;
  frame.add(passes::shadow_map(sun_map));
  passes::ShadowMap lamp_map{.name = "lamp map", .scene = scene, .light = "lamp"};
  lamp_map.depth = lamp;
  frame.add(passes::shadow_map(lamp_map));
  passes::Forward forward{.name = "picture", .scene = scene, .view = "front", .lights = {"sun", "lamp", "room"}};
  forward.batching = batching;
  forward.culling = culling;
  forward.shadows = {sun, lamp};
  forward.color = light;
  forward.depth = depth;
  frame.add(passes::forward(forward));
  frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
  return frame;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "meshes whose vertices the program changes draw as meshes that were made so") {
  using batch::Batching, batch::Culling;
  for (const auto& [batching, culling] :
       {std::pair{Batching::automatic, Culling::host}, std::pair{Batching::automatic, Culling::device},
        std::pair{Batching::merged, Culling::host}, std::pair{Batching::unmerged, Culling::host}}) {
    const std::shared_ptr<Scene> scene = quay();
    const auto mesh = [&](const char* name) { return scene->find_mesh(name); };
    const FrameGraph frame = frame_of(scene, batching, culling);
    gl::FrameRunner runner(device, frame.plan(96, 64, device.limits()).value());
    runner.run(0);
    const Image first = runner.read("output");
    std::uint64_t structure = 0;
    for (int step = 1; step < 8; ++step) {
      const float phase = 0.7f * static_cast<float>(step);
      const double seconds = 0.1 * (step / 3);  // some frames are of the same time
      Mesh plain = cloth(phase, false);
      if (step == 5) {  // far out of what it was bounded by
        std::vector<Vec3> positions = plain.positions.copy();
        for (Vec3& position : positions) position = 2 * position + Vec3(0, 0.6f, 0.5f);
        plain.positions = std::move(positions);
      }
      scene->change_mesh(mesh("plain"), plain);
      if (step % 2) scene->change_mesh(mesh("colored"), cloth(phase, true));
      if (step % 3 == 1) scene->change_mesh(mesh("rope"), rope(phase));
      if (step == 4) scene->set_local_transform(scene->find_node("left"), Transform::translate({-1, 0.2f, 0.2f}));
      runner.run(seconds);
      const Image now = runner.read("output");
      CHECK(now != first);
      gl::FrameRunner anew(device, frame.plan(96, 64, device.limits()).value());
      anew.run(seconds);
      INFO("step " << step << ", batching " << static_cast<int>(batching) << ", culling " << static_cast<int>(culling));
      REQUIRE(now == anew.read("output"));
      if (step == 1) structure = scene->versions().structure;
      if (step < 4) CHECK(scene->versions().structure == structure);
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a mesh that changes sends its vertices, and nothing else") {
  const std::shared_ptr<Scene> scene = quay();
  const MeshHandle plain = scene->find_mesh("plain");
  FrameGraph frame = frame_of(scene, batch::Batching::automatic, batch::Culling::host);
  gl::FrameRunner runner(device, frame.plan(96, 64, device.limits()).value());
  scene->change_mesh(plain, cloth(1, false));
  runner.run(0);
  runner.run(0);
  const auto sent = [&] {
    runner.run(0);
    return runner.counts().bytes_sent;
  };
  const auto still = sent();
  scene->change_mesh(plain, cloth(2, false));
  const auto changed = sent();
  // 169 corners of a position, a normal and a place in the texture.
  const std::uint64_t vertices = 169 * (12 + 12 + 8);
  CHECK(changed >= still + vertices);
  CHECK(changed <= still + vertices + 4096);  // maps are fitted again, and lists of what is in view
}

TEST_CASE_METHOD(TestDevice, "meshes that come take the room of those that went, and only they are sent") {
  const std::shared_ptr<Scene> scene = quay();
  const FrameGraph frame = frame_of(scene, batch::Batching::automatic, batch::Culling::host);
  gl::FrameRunner runner(device, frame.plan(96, 64, device.limits()).value());
  runner.run(0);
  draw::SceneMeshes meshes(*scene);
  struct Guest {
    NodeHandle node;
    MeshHandle mesh;
  };
  std::vector<Guest> guests;
  for (int round = 0; round < 30; ++round) {
    const std::size_t before = meshes.bytes_sent();
    std::size_t wanted = 0;
    if (round % 3 != 2) {
      Mesh mesh = shapes::sphere(0.3f, 6 + 2 * (round % 7));
      if (round % 4 == 1) mesh.colors = std::vector<Vec4>(mesh.positions.size(), {1, 0.2f, 0.1f, 1});
      wanted = mesh.positions.size() * (12 + 12 + 16 + 8) + mesh.colors.size() * 16 + mesh.indices.size() * 2;
      const MeshHandle made = scene->add_mesh("guest " + std::to_string(round), std::move(mesh));
      const Vec3 at(0.4f * static_cast<float>(round % 9) - 1.6f, 0.3f * static_cast<float>(round % 4), 1.2f);
      guests.push_back(
          {scene->add_node(
               {.mesh = made, .material = scene->find_material("stone"), .placement = Transform::translate(at)}),
           made});
    } else {
      const std::size_t which = static_cast<std::size_t>(round) * 5 % guests.size();
      scene->remove(guests[which].node);
      scene->remove(guests[which].mesh);
      guests.erase(guests.begin() + static_cast<std::ptrdiff_t>(which));
    }
    REQUIRE(meshes.fits(*scene));
    meshes.take(*scene);
    CHECK(meshes.bytes_sent() - before == wanted);
    runner.run(0);
    gl::FrameRunner made_so(device, frame.plan(96, 64, device.limits()).value());
    made_so.run(0);
    INFO("round " << round);
    REQUIRE(runner.read("output") == made_so.read("output"));
  }
  // One whose indices take 32 bits needs others; and so does one that leaves mostly holes.
  scene->add_mesh("large", shapes::plane(1, 1, 260));
  CHECK_FALSE(meshes.fits(*scene));
  CHECK_FALSE(draw::SceneMeshes(*scene).fits(*quay()));
}
