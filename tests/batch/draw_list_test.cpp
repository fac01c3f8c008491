#include <periscena/batch/draw_list.h>

#include <catch2/catch.hpp>

#include <random>
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
    view = seen_by(camera);
  }

  static Frustum seen_by(const Camera& camera) {
    return Frustum::of(camera.projection(1.5f).matrix() * camera.view().matrix(), camera.depth);
  }

  std::vector<Transform> worlds() const {
    std::vector<Transform> result(scene.nodes().size(), Transform::identity());
    scene.world_transforms(0, result);
    return result;
  }

  batch::DrawList list(const std::vector<Transform>& placed, batch::Batching batching = {}) const {
    return list(placed, {&view, 1}, batching);
  }

  batch::DrawList list(const std::vector<Transform>& placed, std::span<const Frustum> views,
                       batch::Batching batching) const {
    const auto meshes = batch::mesh_bounds(scene);
    const auto mirrored = std::make_unique<bool[]>(placed.size());
    batch::BoundsSet bounds(placed.size());
    for (std::size_t i = 0; i < placed.size(); ++i) {
      mirrored[i] = placed[i].mirrors();
      if (scene.nodes()[i].mesh.valid()) batch::place(bounds, i, meshes[scene.nodes()[i].mesh.index], placed[i]);
    }
    batch::DrawList result(batching, views.size());
    result.sort(scene, {mirrored.get(), placed.size()});
    result.cull(bounds, views);
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
  std::uint32_t next_command = 0, next_node = 0;
  for (const batch::Run& run : list.runs()) {
    REQUIRE(run.first == next_command);
    REQUIRE(run.count == 2);  // boxes and balls
    next_command += run.count;
    for (const batch::Command& command : list.commands().subspan(run.first, run.count)) {
      REQUIRE(command.first == next_node);
      next_node += command.count;
      for (const std::uint32_t node : list.nodes().subspan(command.first, command.count)) {
        REQUIRE(placed[node].mirrors() == run.mirrored);
        REQUIRE(scene.nodes()[node].mesh.index == command.mesh);
      }
    }
  }
  REQUIRE(next_command == list.commands().size());
  REQUIRE(next_node == list.nodes().size());
}

TEST_CASE_METHOD(Field, "batching changes how many calls and commands there are, never what is drawn in which order") {
  const auto placed = worlds();
  const batch::DrawList all = list(placed);
  const auto objects = all.nodes().size();
  const struct {
    batch::Batching batching;
    std::size_t runs, commands;
  } expected[] = {{batch::Batching::automatic, 2, 4},
                  {batch::Batching::commands, 2, objects},
                  {batch::Batching::instances, 4, 4},
                  {batch::Batching::one_by_one, objects, objects}};
  for (const auto& [batching, runs, commands] : expected) {
    INFO(choices_of(batching)[static_cast<std::size_t>(batching)]);
    const batch::DrawList one = list(placed, batching);
    REQUIRE(std::equal(one.nodes().begin(), one.nodes().end(), all.nodes().begin(), all.nodes().end()));
    REQUIRE(one.runs().size() == runs);
    REQUIRE(one.commands().size() == commands);
  }
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

TEST_CASE(
    "runs part where state, primitive or winding do, and blended objects go from back to front over all of that") {
  Scene scene;
  const MeshHandle box = scene.add_mesh("box", shapes::box({1, 1, 1}));
  Mesh line;
  line.positions = std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}};
  line.indices = std::vector<std::uint32_t>{0, 1};
  line.primitive = Primitive::lines;
  const MeshHandle stroke = scene.add_mesh("stroke", line);
  const MaterialHandle material = scene.add_material({});
  const struct {
    MeshHandle mesh;
    batch::Traits traits;
    bool mirrored;
    float depth;
  } objects[] = {{box, {1, false}, false, 1}, {box, {0, false}, true, 2},     {box, {2, true}, false, 3},
                 {box, {1, false}, false, 4}, {stroke, {1, false}, false, 5}, {box, {3, true}, false, 6},
                 {box, {2, true}, false, 7},  {box, {0, false}, false, 8}};
  const auto mirrored = std::make_unique<bool[]>(std::size(objects));
  std::vector<batch::Traits> traits;
  batch::BoundsSet bounds(std::size(objects));
  for (std::size_t i = 0; i < std::size(objects); ++i) {
    Node node;
    node.mesh = objects[i].mesh;
    node.material = material;
    scene.add_node(node);
    mirrored[i] = objects[i].mirrored;
    traits.push_back(objects[i].traits);
    bounds.set(i, {Vec3(0, 0, -objects[i].depth), 0.5f});
  }
  Camera camera;
  camera.eye = Vec3::zero();
  camera.target = {0, 0, -1};
  const Frustum view = Frustum::of(camera.projection(1).matrix() * camera.view().matrix(), camera.depth);
  batch::DrawList list;
  list.sort(scene, {mirrored.get(), std::size(objects)}, traits);
  list.cull(bounds, view, camera.eye);
  const std::vector<std::uint32_t> nodes(list.nodes().begin(), list.nodes().end());
  REQUIRE(nodes == std::vector<std::uint32_t>{7, 1, 0, 3, 4, 6, 5, 2});
  REQUIRE(list.runs().size() == 7);
  REQUIRE(list.runs()[2].count == 1);
  REQUIRE(list.commands()[list.runs()[2].first].count == 2);  // 0 and 3
  REQUIRE(list.runs()[3].primitive == Primitive::lines);
  for (std::size_t i = 4; i < 7; ++i) REQUIRE(list.runs()[i].blended);
  REQUIRE(list.runs()[4].state == 2);

  traits[1].any_winding = true;
  list.sort(scene, {mirrored.get(), std::size(objects)}, traits);
  list.cull(bounds, view, camera.eye);
  REQUIRE(list.runs().size() == 6);
  REQUIRE(list.runs()[0].count == 1);
  REQUIRE(list.commands()[0].count == 2);  // 1 and 7

  std::vector<bool> chosen(std::size(objects), true);
  chosen[3] = chosen[6] = false;
  list.sort(scene, {mirrored.get(), std::size(objects)}, traits, chosen);
  list.cull(bounds, view, camera.eye);
  REQUIRE(list.chosen() == 6);
  REQUIRE(list.nodes().size() == 6);
}

TEST_CASE_METHOD(Field,
                 "of several views, each sees what it would see alone, and nobody is drawn where no view sees them") {
  const auto placed = worlds();
  std::vector<Frustum> views;
  for (int i = 0; i < 6; ++i) {
    Camera camera;
    camera.eye = {-40.0f + 16 * static_cast<float>(i), 3, 2};
    camera.target = camera.eye + Vec3(i == 5 ? 40.0f : 1.0f, -1, -3);
    camera.far = 30;
    views.push_back(seen_by(camera));
  }
  for (const batch::Batching batching : {batch::Batching::automatic, batch::Batching::one_by_one}) {
    const batch::DrawList together = list(placed, views, batching);
    std::vector<std::vector<std::uint32_t>> seen_by_view(views.size());
    std::uint32_t next = 0, next_command = 0;
    for (const batch::Run& run : together.runs()) {
      REQUIRE(run.first == next_command);
      next_command += run.count;
      for (const batch::Command& command : together.commands().subspan(run.first, run.count)) {
        REQUIRE(command.first == next);
        next += command.count;
        const auto nodes = together.nodes().subspan(command.first, command.count);
        seen_by_view.at(run.view).insert(seen_by_view[run.view].end(), nodes.begin(), nodes.end());
        if (batching == batch::Batching::one_by_one) REQUIRE(command.count == 1);
      }
    }
    REQUIRE(next == together.nodes().size());
    REQUIRE(next_command == together.commands().size());
    std::set<std::uint32_t> seen;
    for (std::size_t number = 0; number < views.size(); ++number) {
      const batch::DrawList alone = list(placed, std::span(views).subspan(number, 1), batching);
      REQUIRE(seen_by_view[number] == std::vector<std::uint32_t>(alone.nodes().begin(), alone.nodes().end()));
      seen.insert(alone.nodes().begin(), alone.nodes().end());
    }
    REQUIRE(together.nodes().size() > seen.size());  // some are in two of them
    REQUIRE(together.culled() == 200 - seen.size());
  }
}

TEST_CASE_METHOD(Field,
                 "objects of other textures get commands of their own in one run, those of another block a run") {
  const auto mirrored = std::make_unique<bool[]>(scene.nodes().size());
  std::vector<batch::Traits> traits(scene.nodes().size());
  for (std::size_t i = 0; i < traits.size(); ++i) traits[i].textures = i % 4;
  batch::DrawList list;
  list.sort(scene, {mirrored.get(), scene.nodes().size()}, traits);
  list.take_all();
  REQUIRE(list.runs().size() == 1);
  REQUIRE(list.commands().size() == 8);  // of two meshes and four sets of textures
  for (const batch::Command& command : list.commands()) {
    for (const std::uint32_t node : list.nodes().subspan(command.first, command.count)) {
      REQUIRE(node % 4 == command.textures);
      REQUIRE(scene.nodes()[node].mesh.index == command.mesh);
    }
  }
  list.sort(scene, {mirrored.get(), scene.nodes().size()}, {}, {}, 64);
  list.take_all();
  REQUIRE(list.runs().size() == 4);
  for (const batch::Run& run : list.runs()) {
    for (const batch::Command& command : list.commands().subspan(run.first, run.count)) {
      for (const std::uint32_t node : list.nodes().subspan(command.first, command.count))
        REQUIRE(node / 64 == run.object_block);
    }
  }
  REQUIRE_THROWS_WITH(list.sort(scene, {mirrored.get(), scene.nodes().size()}, {}, {}, 3),
                      Catch::Contains("67 storage blocks of objects, and a list of draws takes 64"));
  traits[5].state = 1u << 20;
  REQUIRE_THROWS_WITH(list.sort(scene, {mirrored.get(), scene.nodes().size()}, traits),
                      Catch::Contains("1048577 states of materials"));
}

TEST_CASE("many bounds at a time are judged as one by one, and never leave out what a view contains") {
  std::mt19937 dice(3);
  std::uniform_real_distribution<float> at(-60, 60), size(0, 5);
  const std::size_t count = 1003;
  std::vector<Box> boxes;
  batch::BoundsSet bounds(count);
  for (std::size_t i = 0; i < count; ++i) {
    const Vec3 middle(at(dice), at(dice), at(dice)), half(size(dice), size(dice), size(dice));
    boxes.push_back(i % 50 ? Box{middle - half, middle + half} : Box());
    bounds.set(i, boxes[i], half.norm());
  }
  std::vector<std::uint8_t> visible(bounds.padded_size());
  for (const bool parallel : {false, true}) {
    for (const DepthOrder order : {DepthOrder::reversed, DepthOrder::ordinary}) {
      Camera camera;
      camera.eye = {5, 6, 30};
      camera.depth = order;
      if (parallel) camera.parallel_height = 30, camera.far = 80;
      const Frustum view = Frustum::of(camera.projection(1.6f).matrix() * camera.view().matrix(), order);
      bounds.cull(view, visible);
      int seen = 0, near_edge = 0;
      for (std::size_t i = 0; i < count; ++i) {
        seen += visible[i];
        // The ball around a box may tell more than the box, never less.
        if (visible[i] && !view.may_see(boxes[i])) ++near_edge;
        const bool both = view.may_see(boxes[i]) && view.may_see(bounds.ball(i));
        REQUIRE(bool(visible[i]) == both);
      }
      REQUIRE(near_edge == 0);
      REQUIRE(seen > 30);
      REQUIRE(seen < 900);
    }
  }
}

TEST_CASE("an object whose bounds are not finite is always drawn, and known, one without bounds never is") {
  const float nan = std::numeric_limits<float>::quiet_NaN(), inf = std::numeric_limits<float>::infinity();
  batch::BoundsSet bounds(5);
  bounds.set(0, {Vec3(nan, 0, 0), 1});
  bounds.set(1, Box{Vec3(0, 0, 0), Vec3(inf, 1, 1)}, 1);
  bounds.set(2, {Vec3(1000, 0, 0), 1});
  bounds.set(3, {Vec3(0, 0, 0), nan});
  Camera camera;
  const Frustum view = Frustum::of(camera.projection(1).matrix() * camera.view().matrix(), camera.depth);
  std::vector<std::uint8_t> visible(bounds.padded_size());
  bounds.cull(view, visible);
  REQUIRE((visible[0] && visible[1] && !visible[2] && visible[3] && !visible[4]));
  REQUIRE(bounds.unsound_count() == 3);
  REQUIRE_FALSE(bounds.is_sound(0));
  bounds.set(0, {Vec3(1000, 0, 0), 1});
  bounds.cull(view, visible);
  REQUIRE((!visible[0] && bounds.unsound_count() == 2));
}

TEST_CASE_METHOD(Field, "culling again gives the same list, and an empty scene an empty one") {
  const auto placed = worlds();
  const auto meshes = batch::mesh_bounds(scene);
  batch::BoundsSet bounds(placed.size());
  for (std::size_t i = 0; i < placed.size(); ++i) {
    if (scene.nodes()[i].mesh.valid()) batch::place(bounds, i, meshes[scene.nodes()[i].mesh.index], placed[i]);
  }
  const auto mirrored = std::make_unique<bool[]>(placed.size());
  batch::DrawList list;
  list.sort(scene, {mirrored.get(), placed.size()});
  const auto culled = [&](const Frustum& seen) {
    list.cull(bounds, seen);
    return std::vector<std::uint32_t>(list.nodes().begin(), list.nodes().end());
  };
  Camera away;
  away.eye = {0, 4, 12};
  away.target = {0, 4, 1000};
  const auto first = culled(view);
  REQUIRE((first.size() > 20 && first.size() < 200));
  const std::size_t commands = list.commands().size(), left_out = list.culled();
  REQUIRE(culled(seen_by(away)).empty());
  REQUIRE(list.culled() == 200);
  // What another view saw in between leaves nothing behind.
  REQUIRE(culled(view) == first);
  REQUIRE((list.commands().size() == commands && list.culled() == left_out));
  // More views than it was made for are only slower.
  const std::array views{view, view, view};
  list.cull(bounds, views);
  REQUIRE(list.nodes().size() == 3 * first.size());
  REQUIRE(list.culled() == left_out);
  batch::DrawList empty;
  empty.sort(Scene{}, {});
  empty.cull({}, view);
  REQUIRE(empty.nodes().empty());
  REQUIRE(empty.runs().empty());
}
