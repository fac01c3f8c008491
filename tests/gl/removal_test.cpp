#include "gl/device.h"
#include "gl/random_scene.h"
#include "held_memory.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

#include <functional>

using namespace periscena;

namespace {

/// Keeps what is wanted and a scene alike while nodes come and go, are hidden, tagged, and hung elsewhere. Objects 0
/// and 1 stay: a lamp follows the first, and the second has the tag that the pass leaves out.
class ComingAndGoing {
 public:
  explicit ComingAndGoing(unsigned seed) : random(seed) {
    WantedScene& wanted = random.wanted;
    for (std::size_t i = 0; i < wanted.objects.size(); ++i) wanted.objects[i].number = static_cast<int>(i);
    wanted.objects[1].tags = {"aside"};
    wanted.lamp_carrier = 0;
    next_ = static_cast<int>(wanted.objects.size());
    scene = wanted.made();
  }

  void change() {
    WantedScene& wanted = random.wanted;
    const std::size_t i = 2 + random.below(wanted.objects.size() - 2);
    WantedScene::Object& object = wanted.objects[i];
    const NodeHandle node = handle(wanted.number_of(i));
    switch (random.below(9)) {
      case 0:
      case 1: return add();
      case 2: return remove(i);
      case 3: object.visible = !object.visible; return scene->set_visible(node, object.visible);
      case 4:
        object.tags = random.below(2) ? std::vector<std::string>{"aside", "other"} : std::vector<std::string>{};
        return scene->set_tags(node, object.tags);
      case 5:
      case 6: return hang(i);
      case 7:
        object.local = random.transform();
        object.dynamic = true;
        return scene->set_local_transform(node, object.local);
      default:
        wanted.box_size = random.number(0.2f, 0.6f);
        wanted.box_dynamic = true;
        return scene->change_mesh(scene->find_mesh("box"), shapes::box(Vec3::constant(wanted.box_size)));
    }
  }

  RandomScene random;
  std::shared_ptr<Scene> scene;

 private:
  NodeHandle handle(int number) const { return scene->find_node(WantedScene::name_of(number)); }

  void add() {
    if (random.wanted.objects.size() > 30) return;
    WantedScene::Object object = random.object();
    if (object.parent >= 0) object.parent = random.wanted.number_of(static_cast<std::size_t>(object.parent));
    object.number = next_++;
    random.wanted.objects.push_back(object);
    scene->add_node(random.wanted.node(random.wanted.objects.size() - 1, *scene));
  }

  bool stands_below(int number, int above) const {
    while (number >= 0 && number != above) {
      const auto& all = random.wanted.objects;
      number = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.number == number; })->parent;
    }
    return number == above;
  }

  void remove(std::size_t i) {
    const int number = random.wanted.number_of(i);
    if (stands_below(0, number) || stands_below(1, number)) return;
    scene->remove(handle(number));
    auto& all = random.wanted.objects;
    std::vector<WantedScene::Object> left;
    for (const WantedScene::Object& one : all) {
      if (!stands_below(one.number, number)) left.push_back(one);
    }
    all = std::move(left);
  }

  void hang(std::size_t i) {
    WantedScene::Object& object = random.wanted.objects[i];
    const int parent = random.below(4) == 0 ? -1 : random.wanted.number_of(random.below(random.wanted.objects.size()));
    const NodeHandle to = parent < 0 ? NodeHandle{} : handle(parent);
    if (parent >= 0 && stands_below(parent, object.number)) {
      REQUIRE(thrown_slug([&] { scene->set_parent(handle(object.number), to); }) == "parent-cycle");
      return;
    }
    object.parent = parent;
    scene->set_parent(handle(object.number), to);
  }

  int next_ = 0;
};

FrameGraph frame_of(const std::shared_ptr<Scene>& scene, batch::Batching batching, batch::Culling culling) {
  FrameGraph frame;
  frame.set_background({0.1f, 0.2f, 0.3f, 1});
  const auto sun = frame.target("sun", {.format = Format::depth32f, .size = {256, 256}});
  passes::ShadowMap sun_map{.name = "sun map", .scene = scene, .light = "sun"};
  sun_map.depth = sun;
  frame.add(passes::shadow_map(sun_map));
  const auto light = frame.target("light", {.format = Format::rgba16f});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  passes::Forward forward{.name = "picture", .scene = scene, .view = "front", .lights = {"sun", "lamp", "room"}};
  forward.without_tags = {"aside"};
  forward.batching = batching;
  forward.culling = culling;
  forward.shadows = {sun};
  forward.color = light;
  forward.depth = depth;
  frame.add(passes::forward(forward));
  frame.add(passes::light_markers({.name = "lamps", .scene = scene, .view = "front", .color = light, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
  return frame;
}

Image picture(gl::Device& device, const FrameGraph& frame, double seconds) {
  gl::FrameRunner runner(device, frame.plan(96, 64, device.limits()).value());
  runner.run(seconds);
  return runner.read("output");
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "nodes that come and go, are hidden, tagged and hung elsewhere, draw as a scene made so") {
  using batch::Batching, batch::Culling;
  for (const auto& [batching, culling] : {std::pair{Batching::automatic, Culling::host},
                                          {Batching::merged, Culling::host},
                                          {Batching::automatic, Culling::device}}) {
    for (unsigned seed = 1; seed <= 2; ++seed) {
      ComingAndGoing things(seed);
      gl::FrameRunner runner(device, frame_of(things.scene, batching, culling).plan(96, 64, device.limits()).value());
      double seconds = 0;
      for (int step = 0; step < 120; ++step) {
        things.change();
        if (step % 3 == 0) seconds += 0.25;
        if (step % 6 != 5) continue;
        INFO("seed " << seed << ", after change " << step);
        runner.run(seconds);
        const Image now = runner.read("output");
        REQUIRE(now == picture(device, frame_of(things.random.wanted.made(), batching, culling), seconds));
        const auto packed = std::make_shared<Scene>(things.scene->packed());
        REQUIRE(now == picture(device, frame_of(packed, batching, culling), seconds));
      }
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a scene that is emptied and filled a thousand times holds what it held") {
  RandomScene random(2);
  random.wanted.objects[1].tags = {"aside"};
  const auto scene = random.wanted.made();
  gl::FrameRunner runner(
      device, frame_of(scene, batch::Batching::automatic, batch::Culling::host).plan(96, 64, device.limits()).value());
  runner.run(0);
  const Image full = runner.read("output");
  const std::vector<Node> nodes = scene->nodes();
  std::size_t before = 0;
  for (int round = 0; round < 1000; ++round) {
    for (const Node& node : nodes) {
      // It may have gone with its parent.
      if (const NodeHandle there = scene->find_node(node.name); there.valid() && node.name != "object 1")
        scene->remove(there);
    }
    if (round % 20 == 0) runner.run(0);
    for (Node node : nodes) {
      if (scene->find_node(node.name).valid()) continue;
      if (node.parent.valid()) node.parent = scene->find_node(nodes[node.parent.index].name);
      scene->add_node(node);
    }
    if (round % 20 != 0) continue;
    runner.run(0);
    REQUIRE(runner.read("output") == full);
    if (round == 200) before = held_bytes();
  }
  CHECK(scene->nodes().size() == nodes.size());
  CHECK(held_bytes() < before + (1 << 20));
}

TEST_CASE_METHOD(TestDevice, "what a pass names and the scene has no more is told, and drawn again when it is back") {
  RandomScene random(8);
  random.wanted.objects[1].tags = {"aside"};
  const auto scene = random.wanted.made();
  gl::FrameRunner runner(
      device, frame_of(scene, batch::Batching::automatic, batch::Culling::host).plan(96, 64, device.limits()).value());
  runner.run(0);
  const Image before = runner.read("output");
  const auto what_is_wrong = [&]() -> std::string {
    try {
      runner.run(0);
      return {};
    } catch (const Error& error) {
      return error.what();
    }
  };
  const Light sun = scene->at(scene->light_handle("sun"));
  scene->remove(scene->light_handle("sun"));
  CHECK_THAT(what_is_wrong(), Catch::Contains("no light \"sun\" any more"));
  CHECK_THAT(what_is_wrong(), Catch::Contains("no light \"sun\" any more"));
  CHECK(runner.read("output") == before);
  scene->add_light(sun);
  CHECK(what_is_wrong() == "");
  // It is the last of the lights now, which are added up in their order.
  std::rotate(random.wanted.lights.begin(), random.wanted.lights.begin() + 1, random.wanted.lights.end());
  const Image last =
      picture(device, frame_of(random.wanted.made(), batch::Batching::automatic, batch::Culling::host), 0);
  CHECK(runner.read("output") == last);

  const View front = scene->at(scene->view_handle("front"));
  scene->remove(scene->view_handle("front"));
  CHECK_THAT(what_is_wrong(), Catch::Contains("no view \"front\" any more"));
  scene->add_view(front);
  CHECK(what_is_wrong() == "");
  CHECK(runner.read("output") == last);
}
