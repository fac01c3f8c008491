#include <periscena/batch/merge.h>

#include <catch2/catch.hpp>

#include <map>
#include <random>

using namespace periscena;

namespace {

/// Posts and balls that stand still, below others, mirrored, tagged; and what must not be merged.
struct Site {
  Scene scene;
  MaterialHandle oak, iron, glass;

  Site() {
    std::mt19937 dice(4);
    const auto between = [&](float low, float high) { return std::uniform_real_distribution<float>(low, high)(dice); };
    oak = scene.add_material({.name = "oak"});
    iron = scene.add_material({.name = "iron"});
    glass = scene.add_material({.name = "glass", .alpha = 0.5f, .alpha_mode = Material::AlphaMode::blend});
    const MeshHandle meshes[] = {scene.add_mesh("post", shapes::cylinder(0.2f, 2, 8)),
                                 scene.add_mesh("ball", shapes::sphere(0.5f, 8))};
    for (int i = 0; i < 300; ++i) {
      Node node;
      node.name = "thing " + std::to_string(i);
      node.mesh = meshes[i % 2];
      node.material = i % 29 == 3 ? glass : i % 3 ? oak : iron;
      node.placement = Transform::scale(Vec3(1, between(0.5f, 2), i % 7 ? 1.0f : -1.0f))
                           .then(Transform::rotate(Vec3(1, 2, 0), between(0, 3)))
                           .then(Transform::translate({between(-50, 50), between(0, 3), between(-50, 50)}));
      if (i % 5 == 0) node.tags = {"left bank"};
      if (i % 23 == 0) node.motion = Motion{.axis = {0, 1, 0}, .to = 1};
      if (i > 100 && i % 4 == 1) node.parent = NodeHandle{static_cast<std::uint32_t>(i - 100)};
      scene.add_node(node);
    }
    Variant night{"night", {}, {{oak, iron}}, {{NodeHandle{31}, iron}}};
    scene.add_variant(night);
    scene.add_view({"rider", {}, NodeHandle{8}});
  }
};

/// By material: square metres in view of a choice, at a time.
std::map<std::string, double> areas(const Scene& scene, const Selection& selection, const Variant* variant,
                                    double seconds) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(seconds, worlds);
  const auto chosen = scene.chosen(selection);
  const auto materials = scene.materials_of_nodes(variant);
  std::map<std::string, double> sums;
  for (std::size_t i = 0; i < worlds.size(); ++i) {
    const Node& node = scene.nodes()[i];
    if (!node.mesh.valid() || !chosen[i]) continue;
    MeshBuilder placed;
    placed.append(scene.meshes()[node.mesh.index], worlds[i]);
    sums[scene.materials()[materials[i].index].name] += placed.build().area();
  }
  return sums;
}

std::size_t shown(const Scene& scene) {
  std::size_t count = 0;
  for (const Node& node : scene.nodes()) count += node.mesh.valid();
  return count;
}

}  // namespace

TEST_CASE("a merged scene shows the same, in far fewer objects, whatever is chosen of it") {
  const Site site;
  const Scene merged = batch::merged(site.scene).scene.value();
  CHECK(shown(site.scene) == 300);
  CHECK(shown(merged) < 80);
  CHECK(merged.triangle_count() == site.scene.triangle_count());
  for (const Selection& selection :
       {Selection{}, Selection{std::vector<std::string>{"left bank"}, {}}, Selection{{}, {"left bank"}}}) {
    for (const char* variant : {"", "night"}) {
      for (const double seconds : {0.0, 0.3}) {
        const auto expected = areas(site.scene, selection, site.scene.find_variant(variant), seconds);
        const auto found = areas(merged, selection, merged.find_variant(variant), seconds);
        REQUIRE(found.size() == expected.size());
        for (const auto& [material, area] : expected) CHECK(found.at(material) == Approx(area).epsilon(1e-5));
      }
    }
  }
}

TEST_CASE("merged meshes are sound, look outward, and lie where their parts lay") {
  const Site site;
  const Scene merged = batch::merged(site.scene).scene.value();
  double volume = 0, expected = 0;
  std::vector<Transform> worlds(300, Transform::identity());
  site.scene.world_transforms(0, worlds);
  for (std::size_t i = 0; i < 300; ++i) {
    MeshBuilder placed;
    placed.append(site.scene.meshes()[site.scene.nodes()[i].mesh.index], worlds[i]);
    if (!merged.nodes()[i].mesh.valid()) expected += placed.build().volume();
  }
  for (std::size_t i = 300; i < merged.nodes().size(); ++i) {
    const Mesh& mesh = merged.meshes()[merged.nodes()[i].mesh.index];
    CHECK_NOTHROW(mesh.expect_sound("merged"));
    volume += mesh.volume();
    CHECK(merged.nodes()[i].placement.matrix() == Mat4::identity());
  }
  CHECK(expected > 10);
  CHECK(volume == Approx(expected).epsilon(1e-3));
}

TEST_CASE("what moves, is blended, or is chosen singly is not merged, and all names stay") {
  const Site site;
  const Scene merged = batch::merged(site.scene).scene.value();
  const std::vector<bool> moves = site.scene.moving_nodes();
  REQUIRE(merged.nodes().size() > 300);
  for (std::uint32_t i = 0; i < 300; ++i) {
    const Node &before = site.scene.nodes()[i], &after = merged.nodes()[i];
    CHECK(after.name == before.name);
    CHECK(after.placement.matrix() == before.placement.matrix());
    const bool apart = moves[i] || before.material == site.glass || i == 31;
    if (apart) CHECK(after.mesh.valid());
  }
  CHECK(merged.find_view("rider")->node == NodeHandle{8});
  CHECK_FALSE(batch::merged(Scene()).scene);
}

TEST_CASE("only small objects of which there are many are merged where that is the rule") {
  Site site;
  const MeshHandle plate = site.scene.add_mesh("plate", shapes::plane(1, 1)),
                   box = site.scene.add_mesh("box", shapes::box({1, 1, 1}));
  const auto add = [&](int count, MeshHandle mesh, MaterialHandle material) {
    for (int i = 0; i < count; ++i) {
      Node node;
      node.mesh = mesh;
      node.material = material;
      node.placement = Transform::translate({static_cast<float>(i), 0, 0});
      site.scene.add_node(node);
    }
  };
  add(40, plate, site.oak);
  add(60, box, site.oak);
  add(63, box, site.iron);
  const batch::Merge merge = batch::merged(site.scene, batch::MergeLimits::where_it_pays());
  // Posts and balls have more triangles than pays, and there are too few boxes of iron.
  CHECK(merge.objects == 100);
  CHECK(merge.meshes == 1);
  CHECK(shown(*merge.scene) == shown(site.scene) - 99);
  CHECK(merge.scene->triangle_count() == site.scene.triangle_count());
  CHECK(batch::merged(Scene(), batch::MergeLimits::where_it_pays()).objects == 0);
}

TEST_CASE("nothing is merged of more triangles than the limit, and those that stay apart do not count") {
  Site site;
  const MeshHandle plate = site.scene.add_mesh("plate", shapes::plane(1, 1));
  for (int i = 0; i < 50; ++i) {
    Node node;
    node.mesh = plate;
    node.material = site.oak;
    site.scene.add_node(node);
  }
  batch::MergeLimits limits{.triangles_each = 2, .triangles_in_all = 99};
  CHECK_FALSE(batch::merged(site.scene, limits).scene);
  CHECK(batch::merged(site.scene, limits).too_many == 100);
  limits.triangles_in_all = 100;
  CHECK(batch::merged(site.scene, limits).objects == 50);
  CHECK(batch::merged(site.scene, limits).too_many == 0);
  limits = {.triangles_each = 2, .fewest = 51, .triangles_in_all = 0};
  CHECK(batch::merged(site.scene, limits).too_many == 0);
}

TEST_CASE("merged meshes are split by space where they would be too large") {
  const Site site;
  batch::MergeLimits limits;
  limits.triangles = 600;
  const Scene merged = batch::merged(site.scene, limits).scene.value();
  std::size_t meshes = 0;
  for (std::size_t i = 300; i < merged.nodes().size(); ++i, ++meshes)
    CHECK(merged.meshes()[merged.nodes()[i].mesh.index].triangle_count() <= 600);
  CHECK(meshes > 20);
  // All of oak without tags: parts of it do not reach over all of the site.
  double extent = 0;
  for (std::size_t i = 300; i < merged.nodes().size(); ++i)
    extent += merged.meshes()[merged.nodes()[i].mesh.index].bounds().size().norm() / static_cast<double>(meshes);
  CHECK(extent < 80);
  limits.vertices = 10;  // less than any object has: nothing can be merged
  CHECK_FALSE(batch::merged(site.scene, limits).scene);
}

TEST_CASE("what is merged again after changes is what is merged from nothing") {
  Site site;
  Scene& scene = site.scene;
  std::mt19937 random(6);
  const auto dice = [&](std::size_t count) { return static_cast<std::uint32_t>(random() % count); };
  batch::MergeLimits limits;
  limits.triangles = 512;
  batch::Merger merger(limits);
  std::size_t taken_again = 0;
  const Vec3* before = nullptr;
  for (int round = 0; round < 60; ++round) {
    const NodeHandle node = scene.node_handle(dice(scene.nodes().size()));
    switch (round == 0 ? 9 : dice(7)) {
      case 0: scene.add_node({.mesh = MeshHandle{dice(2)}, .material = site.oak}); break;
      case 1:
        if (node.valid()) scene.set_visible(node, dice(2) == 0);
        break;
      case 2:
        if (node.valid()) scene.set_local_transform(node, Transform::translate({1, 2, 3}));
        if (node.valid() && dice(2) == 0) scene.release(node);
        break;
      case 3:
        if (node.valid()) scene.set_tags(node, {"right bank"});
        break;
      case 4: scene.change_mesh(MeshHandle{0}, shapes::cylinder(0.3f, 1 + 0.01f * static_cast<float>(round), 9)); break;
      case 5:
        if (node.valid() && scene.nodes()[node.index].mesh.valid()) scene.set_mesh(node, MeshHandle{1}, site.iron);
        break;
      case 6:
        if (node.valid() && scene.nodes()[node.index].name.empty()) scene.remove(node);
        break;
      default: break;
    }
    const batch::Merge again = merger.merge(scene), made_new = batch::merged(scene, limits);
    INFO("round " << round);
    REQUIRE(again.objects == made_new.objects);
    REQUIRE(again.scene.value() == made_new.scene.value());
    const Vec3* first = again.scene->meshes().back().positions.values().data();
    taken_again += first == before;
    before = first;
  }
  CHECK(taken_again > 20);
}
