#include "gl/device.h"
#include "gl/random_scene.h"
#include "held_memory.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

using namespace periscena;

namespace {

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

TEST_CASE_METHOD(TestDevice, "a scene that is emptied and filled a thousand times holds what it held") {
  RandomScene random(2);
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
