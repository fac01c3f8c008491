#include "gl/device.h"
#include "passes/rendering.h"

#include <epoxy/gl.h>

#include <random>

using namespace periscena;

namespace {

/// Streets of walls, with doors that swing and thousands of small things behind them, and a camera that flies through.
struct Town {
  std::mt19937 dice{21};
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  std::vector<MeshHandle> things;
  std::vector<MaterialHandle> paints;

  float between(float from, float to) { return std::uniform_real_distribution<float>(from, to)(dice); }

  /// @param windings  are some walls mirrored, and some of both sides?
  explicit Town(int small_things, int moving_things = 0, bool windings = true) {
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
    things = {scene->add_mesh("ball", shapes::sphere(0.3f, 8)), scene->add_mesh("cone", shapes::cone(0.3f, 0.8f, 6)),
              scene->add_mesh("box", shapes::box({0.5f, 0.7f, 0.4f}))};
    for (int i = 0; i < 6; ++i) {
      Material paint{.name = "paint " + std::to_string(i)};
      paint.base_color = {between(0.1f, 1), between(0.1f, 1), between(0.1f, 1)};
      paint.double_sided = windings && i == 4;
      if (i == 5) {
        paint.alpha_mode = Material::AlphaMode::blend;
        paint.alpha = 0.4f;
      }
      paints.push_back(scene->add_material(paint));
    }
    walls(windings);
    for (int i = 0; i < small_things; ++i) thing(false);
    for (int i = 0; i < moving_things; ++i) thing(true);
  }

  void walls(bool windings) {
    const MeshHandle wall = scene->add_mesh("wall", shapes::box({5, 4, 0.3f}));
    for (int z = -4; z <= 4; ++z) {
      for (int x = -4; x <= 4; ++x) {
        Node node;
        node.mesh = wall;
        node.material = paints[dice() % 6];
        const float turn = dice() % 2 ? 0.0f : pi / 2;
        node.placement =
            Transform::scale(Vec3(1, 1, dice() % 3 || !windings ? 1.0f : -1.0f))
                .then(Transform::rotate(Vec3::unit_y(), turn))
                .then(Transform::translate(Vec3(5.2f * static_cast<float>(x), 2, 5.2f * static_cast<float>(z))));
        if (dice() % 4 == 0)
          node.motion = Motion{.axis = {0, 1, 0}, .pivot = {-2.5f, 0, 0}, .to = 1.6f, .period = between(2, 9)};
        scene->add_node(node);
      }
    }
  }

  void thing(bool moves) {
    Node node;
    node.mesh = things[dice() % 3];
    node.material = paints[dice() % 6];
    node.placement = Transform::rotate(Vec3::unit_y(), between(0, 6))
                         .then(Transform::translate({between(-24, 24), between(0, 3.6f), between(-24, 24)}));
    if (moves)
      node.motion =
          Motion{.kind = Motion::Kind::slide, .axis = {1, 0, 1}, .from = -2, .to = 2, .period = between(1, 5)};
    scene->add_node(node);
  }

  /// Through the town, in a few leaps.
  void fly(Camera camera, float seconds) {
    auto flight = std::make_shared<KeyedPlacement>();
    for (float t = 0; t <= seconds; t += 1.7f) {
      for (const float at : {t, t + 1.699f}) {
        flight->translation_track.times.push_back(at);
        flight->translation_track.values.push_back({between(-20, 20), between(0.7f, 3), between(-20, 20)});
        flight->rotation_track.times.push_back(at);
        flight->rotation_track.values.push_back(Quat::about(Vec3(0.05f, 1, 0).normalized(), between(-3, 3)));
      }
    }
    Node rider;
    rider.name = "rider";
    rider.keys = flight;
    camera.eye = Vec3::zero();
    camera.target = {0, 0, -1};
    camera.near = 0.15f;
    scene->add_view({"front", camera, scene->add_node(rider)});
  }
};

class Shot {
 public:
  /// @param batching  unmerged, so that there is much to cull
  Shot(gl::Device& device, const std::shared_ptr<Scene>& scene, batch::Culling culling, int samples,
       batch::Batching batching = batch::Batching::unmerged) {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba16f, .samples = samples});
    frame.add(passes::forward({.scene = scene,
                               .view = "front",
                               .batching = batching,
                               .culling = culling,
                               .color = color,
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    frame.keep(color);
    graph_ = frame;
    runner_.emplace(device, frame.plan(160, 96, device.limits()).value());
  }

  /// Goes on at another size.
  void resize(int width, int height) { runner_->use(graph_.plan(width, height, runner_->device().limits()).value()); }

  Image at(double seconds) {
    runner_->run(seconds);
    return runner_->read("color");
  }
  gl::FrameRunner& runner() { return *runner_; }

 private:
  FrameGraph graph_;
  std::optional<gl::FrameRunner> runner_;
};

struct Flight {
  std::uint64_t drawn_with = 0, drawn_without = 0;
  int wrong_frames = 0;
};

Flight compare_flights(gl::Device& device, const Town& town, int frames, int samples,
                       batch::Batching batching = batch::Batching::unmerged) {
  Shot without(device, town.scene, batch::Culling::host, samples, batching),
      with(device, town.scene, batch::Culling::device, samples, batching);
  Flight flight;
  for (int i = 0; i < frames; ++i) {
    const double seconds = 0.04 * i;
    const Image found = with.at(seconds);
    flight.wrong_frames += !(found == without.at(seconds));
    flight.drawn_with += with.runner().counts().instances;
    flight.drawn_without += without.runner().counts().instances;
  }
  return flight;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "over 500 frames through a town, culling on the device loses no pixel") {
  Town town(3000);
  town.fly({}, 22);
  const Flight flight = compare_flights(device, town, 500, 1);
  CHECK(flight.wrong_frames == 0);
  INFO(flight.drawn_with << " of " << flight.drawn_without);
  CHECK(flight.drawn_with * 2 < flight.drawn_without);
}

TEST_CASE("draws whose counts the device writes draw the same, too") {
  // From outside, where all front faces wind alike and nothing crosses the near plane: see capabilities.cpp.
  gl::Device with_counts = gl::Device::headless({.avoid_known_faults = false});
  if (!with_counts.capabilities().indirect_count) return;
  Town town(2000, 0, false);
  Camera camera;
  camera.eye = {60, 6, 3};
  camera.fov_y = radians(30);
  town.scene->add_view({"front", camera});
  const Flight flight = compare_flights(with_counts, town, 40, 1);
  CHECK(flight.wrong_frames == 0);
  CHECK(flight.drawn_with < flight.drawn_without);
}

TEST_CASE_METHOD(TestDevice,
                 "culling on the device loses no pixel with samples, other depths and lenses, and things that move") {
  SECTION("four samples a pixel") {
    Town town(1500);
    town.fly({}, 5);
    CHECK(compare_flights(device, town, 100, 4).wrong_frames == 0);
  }
  SECTION("ordinary depth with a far plane") {
    Town town(1500);
    Camera camera;
    camera.far = 60;
    camera.depth = DepthOrder::ordinary;
    town.fly(camera, 5);
    const Flight flight = compare_flights(device, town, 100, 1);
    CHECK(flight.wrong_frames == 0);
    CHECK(flight.drawn_with * 4 < flight.drawn_without * 3);
  }
  SECTION("a parallel lens") {
    Town town(1500);
    Camera camera;
    camera.far = 40;
    camera.parallel_height = 9;
    town.fly(camera, 5);
    CHECK(compare_flights(device, town, 100, 1).wrong_frames == 0);
  }
  SECTION("what was merged") {
    Town town(1500);
    town.fly({}, 5);
    CHECK(compare_flights(device, town, 60, 1, batch::Batching::automatic).wrong_frames == 0);
  }
  SECTION("thousands that the device moves") {
    Town town(500, 2000);
    town.fly({}, 5);
    CHECK(compare_flights(device, town, 100, 1).wrong_frames == 0);
  }
}

TEST_CASE_METHOD(TestDevice, "culling on the device goes on at other frame sizes, with other shapes, and back") {
  Town town(1500);
  town.fly({}, 8);
  Shot without(device, town.scene, batch::Culling::host, 1), with(device, town.scene, batch::Culling::device, 1);
  int moment = 0;
  std::uint64_t drawn = 0, all = 0;
  for (const auto [width, height] :
       {std::array{160, 96}, std::array{90, 200}, std::array{17, 5}, std::array{320, 96}, std::array{160, 96}}) {
    INFO(width << " x " << height);
    without.resize(width, height);
    with.resize(width, height);
    for (int i = 0; i < 12; ++i, ++moment) {
      const Image found = with.at(0.04 * moment);
      CHECK(found.width() == width);
      CHECK(found == without.at(0.04 * moment));
      drawn += with.runner().counts().instances;
      all += without.runner().counts().instances;
    }
  }
  CHECK(drawn * 4 < all * 3);
}

TEST_CASE_METHOD(TestDevice, "what the device culls is counted, and stays when nothing changes") {
  Town town(2000);
  Camera camera;
  town.fly(camera, 3);
  Shot shot(device, town.scene, batch::Culling::device, 1);
  shot.at(1);
  const gl::Counts first = shot.runner().counts();
  shot.at(1);
  shot.at(1);
  const gl::Counts settled = shot.runner().counts();
  CHECK(settled.instances < first.instances);
  CHECK(settled.instances + settled.culled == first.instances + first.culled);
  CHECK(settled.triangles < first.triangles);
  CHECK(settled.commands <= first.commands);
  shot.at(1);
  CHECK(shot.runner().counts().draw_calls < settled.draw_calls);  // nothing is looked for again
  std::uint64_t instances = 0;
  for (std::size_t i = 0; i < shot.runner().plan().passes().size(); ++i) {
    for (const gl::Batch& batch : shot.runner().batches(i)) instances += batch.counts.instances;
  }
  CHECK(instances == settled.instances);
  CHECK(shot.runner().counts().instances == settled.instances);
}

TEST_CASE_METHOD(TestDevice, "culling on the device draws empty scenes, single objects, and without depth") {
  auto empty = std::make_shared<Scene>();
  empty->add_view({"front", {}});
  const Image nothing = render_front(device, empty, 32, {.culling = batch::Culling::device});
  CHECK(nothing.at(16, 16)[3] == 0);
  auto one = std::make_shared<Scene>();
  one->add_view({"front", {}});
  Node node;
  node.mesh = one->add_mesh("box", shapes::box(Vec3::ones()));
  node.material = one->add_material({.name = "white"});
  one->add_node(node);
  CHECK(render_front(device, one, 32, {.culling = batch::Culling::device}) == render_front(device, one, 32));
  const auto without_depth = [&](batch::Culling culling) {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    frame.keep(color);
    frame.add(passes::forward({.scene = one, .view = "front", .culling = culling, .color = color}));
    gl::FrameRunner runner(device, frame.plan(32, 32, device.limits()).value());
    runner.run(0);
    return runner.read("color");
  };
  CHECK(without_depth(batch::Culling::device) == without_depth(batch::Culling::host));
}

TEST_CASE_METHOD(TestDevice, "depth drawn first changes no pixel") {
  Town town(400, 40);
  town.fly({}, 20);
  // Holes all over: what lies behind it must show, so its depth must not be there before.
  Material net{.name = "net", .alpha = 0.2f, .alpha_mode = Material::AlphaMode::mask};
  Node curtain;
  curtain.mesh = town.scene->find_mesh("wall");
  curtain.material = town.scene->add_material(net);
  curtain.placement = Transform::scale(Vec3(8, 1, 1)).then(Transform::translate({0, 2, 1}));
  town.scene->add_node(curtain);
  const auto frame_of = [&](bool depth_first, batch::Culling culling, int samples) {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba16f, .samples = samples});
    frame.add(passes::forward({.scene = town.scene,
                               .view = "front",
                               .batching = batch::Batching::unmerged,
                               .culling = culling,
                               .depth_first = depth_first,
                               .color = color,
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    frame.keep(color);
    return frame;
  };
  for (const int samples : {1, 4}) {
    for (const batch::Culling culling : {batch::Culling::host, batch::Culling::device}) {
      gl::FrameRunner plain(device, frame_of(false, culling, samples).plan(160, 96, device.limits()).value()),
          first(device, frame_of(true, culling, samples).plan(160, 96, device.limits()).value());
      for (int i = 0; i < 12; ++i) {
        plain.run(1.7 * i);
        first.run(1.7 * i);
        CHECK(first.read("color") == plain.read("color"));
      }
    }
  }
  FrameGraph frame;
  frame.add(passes::forward({.scene = town.scene, .view = "front", .depth_first = true, .color = frame.output()}));
  CHECK_THAT(to_text(frame.plan(160, 96, device.limits()).diagnostics()),
             Catch::Contains("draws depth first, and has no depth"));
}

TEST_CASE_METHOD(TestDevice, "with depth drawn first, what others hide is not shaded") {
  // Ten walls over the whole picture, the farthest first.
  auto scene = std::make_shared<Scene>();
  Camera camera;
  camera.eye = {0, 0, 5};
  scene->add_view({"front", camera});
  const MeshHandle wall = scene->add_mesh("wall", shapes::box({90, 90, 0.1f}));
  const MaterialHandle white = scene->add_material({.name = "white"});
  for (int i = 0; i < 10; ++i) {
    Node node;
    node.mesh = wall;
    node.material = white;
    node.placement = Transform::translate({0, 0, static_cast<float>(i) - 10});
    scene->add_node(node);
  }
  GLuint query = 0;
  glCreateQueries(GL_SAMPLES_PASSED, 1, &query);
  const auto passed = [&](bool depth_first) {
    FrameGraph frame;
    frame.add(passes::forward({.scene = scene,
                               .view = "front",
                               .batching = batch::Batching::unmerged,
                               .depth_first = depth_first,
                               .color = frame.output(),
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    gl::FrameRunner runner(device, frame.plan(160, 96, device.limits()).value());
    glBeginQuery(GL_SAMPLES_PASSED, query);
    runner.run(0);
    glEndQuery(GL_SAMPLES_PASSED);
    GLuint64 count = 0;
    glGetQueryObjectui64v(query, GL_QUERY_RESULT, &count);
    return count;
  };
  // As depth all of them passed; then each pixel once.
  CHECK(passed(false) == 10 * 160 * 96);
  CHECK(passed(true) == 11 * 160 * 96);
  glDeleteQueries(1, &query);
}
