#include "gl/draws.h"
#include "passes/picture_pass.h"

#include <periscena/passes/forward.h>
#include <periscena/passes/motion_blur.h>
#include <periscena/passes/velocity.h>
#include <periscena/scene/ray_tree.h>

#include <fmt/format.h>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

/// Boxes that turn and slide about, some of them still, seen by a camera on a cart.
struct Fairground {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  /// @param boxes  from 1024 on, the device moves them
  explicit Fairground(int boxes, bool rides = true) {
    std::mt19937 dice(5);
    const auto between = [&](float from, float to) { return std::uniform_real_distribution<float>(from, to)(dice); };
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
    const MeshHandle box = scene->add_mesh("box", shapes::box({0.9f, 0.6f, 0.4f}));
    const MaterialHandle white = scene->add_material({.name = "white"});
    NodeHandle above;
    for (int i = 0; i < boxes; ++i) {
      Node node;
      node.mesh = box;
      node.material = white;
      node.placement = Transform::rotate(Vec3(0.2f, 1, 0.1f), between(0, 3))
                           .then(Transform::translate({between(-4, 4), between(-2, 2), between(-9, -3)}));
      if (i % 3)
        node.motion = Motion{.kind = i % 3 == 1 ? Motion::Kind::spin : Motion::Kind::slide,
                             .axis = {between(-1, 1), 1, 0.3f},
                             .from = -0.8f,
                             .to = 0.8f,
                             .period = between(1, 3)};
      if (i % 7 == 6) node.parent = above;
      above = scene->add_node(node);
    }
    Node cart;
    cart.name = "cart";
    if (rides)
      cart.motion = Motion{.kind = Motion::Kind::swing,
                           .axis = {0.1f, 1, 0},
                           .pivot = {0, 0, -5},
                           .from = -0.5f,
                           .to = 0.5f,
                           .period = 4};
    Camera camera;
    camera.eye = {0, 0, 1};
    camera.target = {0, 0, -5};
    scene->add_view({"front", camera, scene->add_node(cart)});
  }
};

FrameGraph velocity_frame(const std::shared_ptr<Scene>& scene, float interval = 0) {
  FrameGraph frame;
  const TargetHandle depth = frame.target("depth", {.format = Format::depth32f});
  const TargetHandle moved = frame.target("velocity", {.format = Format::rg32f});
  frame.keep(moved);
  frame.add(passes::forward(
      {.scene = scene, .view = "front", .color = frame.target("color", {.format = Format::rgba16f}), .depth = depth}));
  frame.add(
      passes::velocity({.scene = scene, .view = "front", .seconds = interval, .depth = depth, .velocity = moved}));
  return frame;
}

struct Motions : Fairground {
  using Fairground::Fairground;

  Image velocity(gl::Device& device, int width, int height, double seconds, float interval) const {
    gl::FrameRunner runner(device, planned(velocity_frame(scene, interval), device, width, height));
    runner.run(seconds);
    return runner.read("velocity");
  }
};

/// From a point in the world to the picture, 0..1, lower left first; nothing behind the eye.
Vec2 seen_at(const Camera& camera, float aspect, const Vec3& point) {
  const Vec4 clip = camera.projection(aspect).matrix() * camera.view().matrix() * point.with(1);
  return 0.5f * (clip.head<2>() / clip.w()) + Vec2(0.5f, 0.5f);
}

Camera front_at(const Scene& scene, double seconds) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(seconds, worlds);
  const View& view = *scene.find_view("front");
  return view.placed(worlds[view.node.index]);
}

/// What the picture's pixels hold where depth lies at one distance and all moves as GLSL says.
Image blurred(gl::Device& device, const Image& picture, const std::string& velocity, const std::string& distance,
              passes::MotionBlur options) {
  PictureFrame one(picture);
  auto scene = std::make_shared<Scene>();
  scene->add_view({"front", Camera{}});
  const TargetHandle depth = one.frame.target("depth", {.format = Format::depth32f}),
                     moved = one.frame.target("velocity", {.format = Format::rg32f});
  one.frame.add(draw("motions",
                     fmt::format("out vec2 velocity;\nvoid main() {{ velocity = {}; gl_FragDepth = 0.1 / ({}); }}\n",
                                 velocity, distance),
                     {}, {{.slot = "velocity", .target = moved}, {.slot = "depth", .target = depth}}));
  options.scene = scene;
  options.view = "front";
  options.light = one.light;
  options.velocity = moved;
  options.depth = depth;
  options.color = one.result;
  one.frame.add(passes::motion_blur(options));
  return one.run(device);
}

constexpr int wide = 200, high = 40;

Image step_picture() {
  return picture_of(wide, high, [](int x, int) -> Vec3 { return Vec3::constant(x >= 100 ? 1.0f : 0.0f); });
}

double column_mean(const Image& image, int x) {
  double sum = 0;
  for (int y = 0; y < image.height(); ++y) sum += image.at(x, y)[0];
  return sum / image.height();
}

}  // namespace

TEST_CASE_METHOD(
    TestDevice,
    "velocities are what rays and the places of a moment before say, of objects that the CPU and the device move") {
  for (const int boxes : {60, 1900}) {
    const Motions fair(boxes);
    constexpr int width = 160, height = 100;
    constexpr float aspect = 1.6f, interval = 0.05f;
    constexpr double seconds = 1.3;
    const Image found = fair.velocity(device, width, height, seconds, interval);
    const std::vector<Triangle> now = world_triangles(*fair.scene, seconds),
                                before = world_triangles(*fair.scene, seconds - static_cast<double>(interval));
    const RayTree tree(now);
    const Camera camera = front_at(*fair.scene, seconds),
                 camera_before = front_at(*fair.scene, seconds - static_cast<double>(interval));
    const Mat4 to_world = camera.view().inverse().matrix() * camera.projection(aspect).inverse();
    int hits = 0, wrong = 0;
    double farthest = 0;
    for (int y = 2; y < height; y += 5) {
      for (int x = 2; x < width; x += 5) {
        const Vec2 place((static_cast<float>(x) + 0.5f) / width, 1 - (static_cast<float>(y) + 0.5f) / height);
        const Vec4 at_near = to_world * Vec4(2 * place.x() - 1, 2 * place.y() - 1, 1, 1);
        const Vec3 direction = (at_near.head<3>() / at_near.w() - camera.eye).normalized();
        const auto hit = tree.nearest({.origin = camera.eye, .direction = direction});
        const auto mixed = [&](const Triangle& t) -> Vec3 {
          return (1 - hit->second - hit->third) * t.a + hit->second * t.b + hit->third * t.c;
        };
        // What is endlessly far moves by the turn of the camera alone.
        const Vec3 then = hit ? mixed(before[hit->triangle]) : Vec3(camera_before.eye + 1e6f * direction);
        const Vec3 here = hit ? mixed(now[hit->triangle]) : Vec3(camera.eye + 1e6f * direction);
        const Vec2 truth = seen_at(camera, aspect, here) - seen_at(camera_before, aspect, then);
        const Vec2 given(static_cast<float>(found.at(x, y)[0]), static_cast<float>(found.at(x, y)[1]));
        hits += hit.has_value();
        farthest = std::max(farthest, static_cast<double>(truth.norm()));
        // At edges a ray and a pixel may differ on what is seen.
        wrong += (given - truth).norm() > 2e-3f * truth.norm() + 2e-4f;
      }
    }
    INFO(boxes << " boxes, " << hits << " hits, " << wrong << " wrong, motions up to " << farthest);
    CHECK(hits > 150);
    CHECK(farthest > 0.03);
    CHECK(wrong <= 3);
  }
}

TEST_CASE_METHOD(TestDevice,
                 "nothing moves where nothing moves: exactly, and in the first frame since the frame before") {
  const auto greatest = [](const Image& image) {
    double most = 0;
    for (int y = 0; y < image.height(); ++y) {
      for (int x = 0; x < image.width(); ++x)
        most = std::max({most, std::abs(image.at(x, y)[0]), std::abs(image.at(x, y)[1])});
    }
    return most;
  };
  CHECK(greatest(Motions(60).velocity(device, 64, 40, 1.3, 0)) < 1e-6);
  // A view that stands still, and one box that does.
  CHECK(greatest(Motions(1, false).velocity(device, 64, 40, 1.3, 0.1f)) == 0);
}

TEST_CASE_METHOD(TestDevice,
                 "a motion of the whole picture blurs an edge into an even ramp, as long as the shutter says") {
  for (const float shutter : {0.5f, 1.0f}) {
    const Image image =
        blurred(device, step_picture(), "vec2(0.1, 0.0)", "5.0", {.shutter = shutter, .largest = 0.2f, .taps = 64});
    const double way = 0.1 * wide * shutter, half = way / 2;
    // Half a way is at most a fifth of the height.
    const double reach = std::min(half, 0.2 * high);
    INFO("shutter " << shutter);
    for (int x = 80; x < 120; ++x) {
      const double ramp = std::clamp((x + 0.5 - 100) / (2 * reach) + 0.5, 0.0, 1.0);
      CHECK(column_mean(image, x) == Approx(ramp).margin(0.03));
    }
    CHECK(mean_of(image, 0) == Approx(0.5).margin(1e-3));
  }
}

TEST_CASE_METHOD(
    TestDevice,
    "something that passes covers what stands behind it for a share of the time, and what stands before it never") {
  // A bar of 20 pixels moves by 16, half of it either way, over a still ground.
  const Image bar =
      picture_of(wide, high, [](int x, int) -> Vec3 { return Vec3::constant(x >= 90 && x < 110 ? 1.0f : 0.25f); });
  const std::string at_bar = "(gl_FragCoord.x > 90.0 && gl_FragCoord.x < 110.0 ? {} : {})";
  const passes::MotionBlur options{.shutter = 1, .largest = 0.2f, .taps = 128};
  const Image before = blurred(device, bar, fmt::format(fmt::runtime(at_bar), "vec2(0.08, 0.0)", "vec2(0.0)"),
                               fmt::format(fmt::runtime(at_bar), "4.0", "9.0"), options);
  for (int x = 70; x < 130; ++x) {
    const double from_edge = x + 0.5 < 100 ? x + 0.5 - 90 : 110 - (x + 0.5);
    const double covered = std::clamp(from_edge / 16 + 0.5, 0.0, 1.0);
    INFO(x);
    CHECK(column_mean(before, x) == Approx(0.25 + 0.75 * covered).margin(0.06));
  }
  // The same motion behind a still bar: the ground has one colour, so nothing changes.
  const Image behind = blurred(device, bar, fmt::format(fmt::runtime(at_bar), "vec2(0.0)", "vec2(0.08, 0.0)"),
                               fmt::format(fmt::runtime(at_bar), "4.0", "9.0"), options);
  for (int x = 70; x < 130; ++x) CHECK(column_mean(behind, x) == Approx(bar.at(x, 0)[0]).margin(1e-5));
}

TEST_CASE_METHOD(
    TestDevice,
    "motion blur leaves a still picture as it is, takes pictures of any size, and what is no number does not spread") {
  const passes::MotionBlur options{.shutter = 1};
  const Image step = step_picture(), same = blurred(device, step, "vec2(0.0)", "5.0", options);
  for (int x = 0; x < wide; ++x) CHECK(same.at(x, 7)[0] == step.at(x, 7)[0]);
  for (const auto& [width, height] : {std::pair(1, 1), std::pair(17, 9)}) {
    const Image image = blurred(device,
                                picture_of(width, height,
                                           [](int, int) -> Vec3 {
                                             return {0.5f, 2, 0};
                                           }),
                                "vec2(0.3, -0.7)", "5.0", options);
    CHECK(image.at(0, 0)[1] == Approx(2).margin(1e-3));
  }
  Image spoilt = step;
  spoilt.set(60, 20, {std::nan(""), 0, 0, 1});
  const Image image =
      blurred(device, spoilt, "gl_FragCoord.y < 3.0 ? vec2(0.0 / min(uv.x, 0.0)) : vec2(0.1, 0.0)", "5.0", options);
  for (int y = 0; y < high; ++y) {
    for (int x = 0; x < wide; ++x) CHECK(std::isfinite(image.at(x, y)[0]));
  }
}

TEST_CASE("passes that want motions are told when they get something else") {
  const Fairground fair(3);
  FrameGraph frame;
  const TargetHandle light = frame.target("light", {.format = Format::rgba16f}),
                     depth = frame.target("depth", {.format = Format::depth32f});
  const TargetHandle bytes = frame.target("bytes", {.format = Format::rgba8}),
                     moved = frame.target("moved", {.format = Format::rgba16f});
  frame.keep(moved);
  frame.add(passes::forward({.scene = fair.scene, .view = "front", .color = light, .depth = depth}));
  frame.add(passes::velocity({.scene = fair.scene, .view = "front", .seconds = -1, .depth = depth, .velocity = bytes}));
  frame.add(passes::motion_blur({.scene = fair.scene,
                                 .view = "front",
                                 .shutter = std::nanf(""),
                                 .light = light,
                                 .velocity = light,
                                 .depth = depth,
                                 .color = moved}));
  const std::string told = to_text(frame.plan(32, 20).diagnostics());
  CHECK_THAT(told, Catch::Contains("not-a-velocity") && Catch::Contains("of kind forward"));
  CHECK_THAT(told, Catch::Contains("\"seconds\"") && Catch::Contains("\"shutter\""));
  FrameGraph other;
  const TargetHandle small = other.target("small", {.format = Format::rgba8}),
                     deep = other.target("depth", {.format = Format::depth32f});
  other.keep(small);
  other.add(passes::forward({.scene = fair.scene,
                             .view = "front",
                             .color = other.target("light", {.format = Format::rgba16f}),
                             .depth = deep}));
  other.add(passes::velocity({.scene = fair.scene, .view = "front", .depth = deep, .velocity = small}));
  CHECK_THAT(to_text(other.plan(32, 20).diagnostics()),
             Catch::Contains("bad-velocity-format") && Catch::Contains("rg16f"));
}

TEST_CASE_METHOD(TestDevice, "what the program moves has the velocity that it has when time moves it the same way") {
  const Motions timed(40);
  for (const bool sets_camera : {false, true}) {
    INFO("the camera is set: " << sets_camera);
    // The same objects, none of which moves by itself; with the camera in the world, or on the cart.
    auto set = std::make_shared<Scene>();
    set->add_mesh("box", timed.scene->meshes()[0]);
    set->add_material(timed.scene->materials()[0]);
    for (Node node : timed.scene->nodes()) {
      node.motion.reset();
      node.dynamic = true;
      set->add_node(node);
    }
    const ViewHandle view = set->add_view({"front", {}, sets_camera ? NodeHandle{} : timed.scene->find_node("cart")});
    if (!sets_camera) set->set_camera(view, timed.scene->find_view("front")->camera);
    set->add_light(timed.scene->lights()[0]);

    gl::FrameRunner by_time(device, planned(velocity_frame(timed.scene), device, 120, 80));
    gl::FrameRunner by_program(device, planned(velocity_frame(set), device, 120, 80));
    double largest = 0, fastest = 0;
    for (const double seconds : {0.0, 0.1, 0.15, 0.15, 0.4}) {
      for (std::uint32_t i = 0; i < set->nodes().size(); ++i)
        set->set_local_transform({i}, timed.scene->nodes()[i].local(seconds));
      if (sets_camera) set->set_camera(view, front_at(*timed.scene, seconds));
      by_time.run(seconds);
      by_program.run(seconds);
      const Image expected = by_time.read("velocity"), found = by_program.read("velocity");
      int apart = 0;
      for (int y = 0; y < 80; ++y) {
        for (int x = 0; x < 120; ++x) {
          const double difference =
              std::hypot(found.at(x, y)[0] - expected.at(x, y)[0], found.at(x, y)[1] - expected.at(x, y)[1]);
          // A camera in the world is rounded otherwise than one on a cart, so edges may be a pixel off.
          if (difference > 1e-4) ++apart;
          if (difference <= 1e-4) largest = std::max(largest, difference);
          fastest = std::max(fastest, std::abs(expected.at(x, y)[0]));
        }
      }
      CHECK(apart <= (sets_camera ? 20 : 0));
    }
    CHECK(largest <= (sets_camera ? 1e-4 : 1e-6));  // what is static moves with the camera alone in the other
    CHECK(fastest > 0.02);
  }
}
