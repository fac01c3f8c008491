#include "draw/scene/scene_buffers.h"
#include "gl/device.h"
#include "passes/rendering.h"
#include "thrown.h"

#include <periscena/image/statistics.h>
#include <periscena/passes/fullscreen.h>

#include <algorithm>
#include <cmath>

using namespace periscena;

namespace {

/// A ring of boxes around a cart that turns, with a camera on it.
struct Carousel {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  NodeHandle cart;

  Carousel() {
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
    const MeshHandle box = scene->add_mesh("box", shapes::box({1, 2, 0.5f}));
    const MaterialHandle white = scene->add_material({.name = "white"});
    for (int i = 0; i < 24; ++i) {
      const float angle = 2 * pi * static_cast<float>(i) / 24;
      Node node;
      node.mesh = box;
      node.material = white;
      node.placement =
          Transform::translate({9 * std::cos(angle), 0.2f * static_cast<float>(i % 5), 9 * std::sin(angle)});
      scene->add_node(node);
    }
    Node node;
    node.name = "cart";
    node.placement = Transform::translate({0.5f, 1, 0});
    node.motion = Motion{.kind = Motion::Kind::spin, .axis = {0.1f, 1, 0}, .period = 8};
    cart = scene->add_node(node);
    scene->add_view({"rider", rider(), cart});
  }

  static Camera rider() {
    Camera camera;
    camera.eye = {0, 0.3f, 1};
    camera.target = {0, 0, -5};
    return camera;
  }

  /// Where the rider is at a time, worked out apart.
  Camera placed(double seconds) const {
    std::vector<Transform> worlds(scene->nodes().size(), Transform::identity());
    scene->world_transforms(seconds, worlds);
    const Mat4 world = worlds[cart.index].matrix();
    Camera camera = rider();
    camera.eye = (world * camera.eye.with(1)).head<3>();
    camera.target = (world * camera.target.with(1)).head<3>();
    camera.up = (world * Vec4(camera.up.x(), camera.up.y(), camera.up.z(), 0)).head<3>();
    return camera;
  }

  /// Forward, and a full-screen pass that shows where each pixel is from the camera's own block.
  FrameGraph frame(const std::string& view) const {
    FrameGraph graph;
    const TargetHandle color = graph.target("color", {.format = Format::rgba32f});
    const TargetHandle depth = graph.target("depth", {.format = Format::depth32f});
    const TargetHandle place = graph.target("place", {.format = Format::rgba32f});
    graph.keep(color);
    graph.keep(place);
    graph.add(passes::forward({.scene = scene, .view = view, .color = color, .depth = depth}));
    graph.add(passes::fullscreen({.shader = gl::ShaderText::from_text("place", R"(
#include "periscena/camera.glsl"
#include "periscena/fullscreen.glsl"
uniform sampler2D depth;
layout(location = 0) out vec4 color;
void main() {
  vec2 uv = gl_FragCoord.xy / vec2(textureSize(depth, 0));
  float found = texelFetch(depth, ivec2(gl_FragCoord.xy), 0).r;
  color = found > 0.0 ? vec4(world_position(uv, found), 1.0) : vec4(camera_ray(uv), 0.0);
}
)",
                                                                      passes::pass_shaders()),
                                  .reads = {{"depth", depth}},
                                  .writes = {{"color", place}},
                                  .scene = scene,
                                  .view = view}));
    return graph;
  }
};

}  // namespace

TEST_CASE("a view that follows an object shows what a still view at its place shows") {
  TestDevice test;
  gl::Device& device = test.device;
  Carousel carousel;
  const FrameGraph moving = carousel.frame("rider");
  gl::FrameRunner runner(device, moving.plan(96, 64, device.limits()).value());
  std::vector<Image> pictures;
  for (const double seconds : {0.0, 1.0, 3.7, 5.5, 3.7}) {
    CAPTURE(seconds);
    runner.run(seconds);
    Carousel still;
    still.scene->add_view({"still", carousel.placed(seconds)});
    const FrameGraph graph = still.frame("still");
    gl::FrameRunner other(device, graph.plan(96, 64, device.limits()).value());
    other.run(seconds);
    for (const char* target : {"color", "place"}) {
      const Image found = runner.read(target), expected = other.read(target);
      double apart = 0;
      for (int y = 0; y < 64; ++y) {
        for (int x = 0; x < 96; ++x) {
          for (std::size_t c = 0; c < 4; ++c)
            apart = std::max(apart, std::abs(found.at(x, y)[c] - expected.at(x, y)[c]));
        }
      }
      CHECK(apart == 0);
    }
    CHECK(*runner.camera(0) == *other.camera(0));
    pictures.push_back(runner.read("color"));
  }
  // It moved between them, and where it was before it sees the same again.
  CHECK(compare(pictures[0], pictures[1]).greatest > 0.1);
  CHECK(compare(pictures[2], pictures[3]).greatest > 0.1);
  CHECK(std::ranges::equal(pictures[2].bytes(), pictures[4].bytes()));
}

TEST_CASE("a frame whose view moves sends one camera for all its passes and no more than what came into view") {
  TestDevice test;
  gl::Device& device = test.device;
  Carousel carousel;
  const FrameGraph graph = carousel.frame("rider");
  gl::FrameRunner runner(device, graph.plan(96, 64, device.limits()).value());
  runner.run(1);
  runner.run(1);
  CHECK(runner.counts(1).bytes_sent == 0);
  CHECK(runner.counts(0).bytes_sent == 0);
  runner.run(1.001);
  CHECK(runner.counts(1).bytes_sent == 0);
  CHECK(runner.counts(0).bytes_sent >= sizeof(draw::CameraBlock));
}

TEST_CASE("a view that follows an object that is not there is refused") {
  Scene scene;
  CHECK(thrown_slug([&] { scene.add_view({"lost", {}, NodeHandle{3}}); }) == "unknown-parent");
}
