#include <periscena/batch/draw_list.h>

#include <catch2/catch.hpp>

#include <set>

using namespace periscena;

namespace {

struct Field {
  Scene scene;
  Frustum view;

  Field() {
    const MeshHandle box = scene.add_mesh("box", shapes::box({1, 1, 1})),
                     ball = scene.add_mesh("ball", shapes::sphere(0.5f, 8));
    const MaterialHandle material = scene.add_material({});
    for (int i = 0; i < 200; ++i) {
      Node node;
      node.mesh = i % 3 ? box : ball;
      node.material = material;
      node.placement = Transform::scale(i % 5 ? Vec3(1, 1, 1) : Vec3(-1, 1, 1))
                           .then(translate({static_cast<float>(i % 20) * 4 - 40, 0, -static_cast<float>(i / 20) * 6}));
      scene.add_node(node);
    }
    scene.add_node({});  // carries nothing
    Camera camera;
    camera.eye = {0, 4, 12};
    view = Frustum::of(camera.projection(1.5f).matrix() * camera.view().matrix(), camera.depth);
  }

  std::vector<Transform> worlds() const {
    std::vector<Transform> result(scene.nodes().size(), Transform::identity());
    scene.world_transforms(0, result);
    return result;
  }

  batch::DrawList list(const std::vector<Transform>& placed) const {
    const auto mesh_spheres = batch::mesh_bounds(scene);
    const auto mirrored = std::make_unique<bool[]>(placed.size());
    std::vector<Sphere> bounds(placed.size());
    for (std::size_t i = 0; i < placed.size(); ++i) {
      mirrored[i] = placed[i].mirrors();
      if (scene.nodes()[i].mesh.valid()) bounds[i] = mesh_spheres[scene.nodes()[i].mesh.index].transformed(placed[i]);
    }
    batch::DrawList result;
    result.sort(scene, {mirrored.get(), placed.size()});
    result.cull(bounds, view);
    return result;
  }
};

}  // namespace

TEST_CASE_METHOD(Field, "a draw list holds each visible node once, in runs of one winding with equal meshes together") {
  const auto placed = worlds();
  const batch::DrawList list = this->list(placed);
  std::set<std::uint32_t> drawn(list.nodes().begin(), list.nodes().end());
  REQUIRE(drawn.size() == list.nodes().size());
  REQUIRE(list.nodes().size() + list.culled() == 200);
  REQUIRE(list.culled() > 20);
  REQUIRE(list.runs().size() == 2);
  std::uint32_t next = 0;
  for (const batch::Run& run : list.runs()) {
    REQUIRE(run.first == next);
    next += run.count;
    int mesh_changes = 0;
    for (std::uint32_t i = run.first; i < run.first + run.count; ++i) {
      REQUIRE(placed[list.nodes()[i]].mirrors() == run.mirrored);
      if (i > run.first) mesh_changes += scene.nodes()[list.nodes()[i]].mesh != scene.nodes()[list.nodes()[i - 1]].mesh;
    }
    REQUIRE(mesh_changes <= 1);
  }
  REQUIRE(next == list.nodes().size());
}

TEST_CASE_METHOD(Field, "what is left out has no corner in view") {
  const auto placed = worlds();
  const batch::DrawList list = this->list(placed);
  const std::set<std::uint32_t> drawn(list.nodes().begin(), list.nodes().end());
  for (std::uint32_t i = 0; i < 200; ++i) {
    if (drawn.contains(i)) continue;
    for (const Vec3& position : scene.meshes()[scene.nodes()[i].mesh.index].positions) {
      REQUIRE_FALSE(view.contains(placed[i].apply_to_point(position)));
    }
  }
}

TEST_CASE_METHOD(Field, "culling again gives the same list, and an empty scene an empty one") {
  const auto placed = worlds();
  const batch::DrawList first = list(placed), second = list(placed);
  REQUIRE(std::equal(first.nodes().begin(), first.nodes().end(), second.nodes().begin(), second.nodes().end()));
  batch::DrawList empty;
  empty.sort(Scene{}, {});
  empty.cull({}, view);
  REQUIRE(empty.nodes().empty());
  REQUIRE(empty.runs().empty());
}
