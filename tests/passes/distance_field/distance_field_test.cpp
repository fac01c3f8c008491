#include "gl/draws.h"
#include "passes/picture_pass.h"
#include "scratch.h"

#include <periscena/base/file.h>
#include <periscena/math/distance_shapes.h>
#include <periscena/passes/distance_field.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/shadow_map.h>

#include <fmt/format.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int width = 160, height = 120;

gl::ShaderText field(const std::string& body, const std::string& before = "") {
  return gl::ShaderText::from_text("own.frag", before + "#include \"periscena/distance_field.glsl\"\n" + body,
                                   passes::pass_shaders());
}

/// A ball of triangles and a camera before it; the same ball as a distance.
struct Balls {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  FrameGraph frame;
  TargetHandle color = frame.target("color", {.format = Format::rgba32f}), depth,
               other = frame.target("other", {.format = Format::rgba32f}), other_depth;

  explicit Balls(bool parallel = false, DepthOrder order = DepthOrder::reversed) {
    Camera camera;
    camera.eye = {0, 1, 6};
    camera.target = {0, 0.5f, 0};
    camera.fov_y = radians(40);
    camera.near = 0.5f;
    camera.far = 30;
    camera.depth = order;
    if (parallel) camera.parallel_height = 4;
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {-0.4f, -1, -0.6f}}});
    const TargetDescription description{.format = Format::depth32f,
                                        .clear_depth = order == DepthOrder::reversed ? 0.0f : 1.0f};
    depth = frame.target("depth", description);
    other_depth = frame.target("other depth", description);
    for (const TargetHandle target : {color, depth, other, other_depth}) frame.keep(target);
  }

  void add_ball(const Vec3& at, float radius) {
    Node node;
    node.name = fmt::format("ball {}", scene->nodes().size());
    node.mesh = scene->add_mesh(node.name, shapes::sphere(radius, 96));
    node.material = scene->add_material({.name = node.name, .base_color = {0.5f, 0.5f, 0.5f}, .roughness = 0.8f});
    node.placement = Transform::translate(at);
    scene->add_node(node);
  }

  /// For frames that draw one picture alone.
  void leave_other() {
    for (const auto& [slot, target] : {std::pair{"color", other}, std::pair{"depth", other_depth}})
      frame.add({.name = slot,
                 .writes = {{.slot = slot, .target = target}},
                 .work = gl::raw_work([](gl::PassContext&) {}, gl::Touched::nothing)});
  }

  passes::DistanceField ball() const {
    return {
        .name = "field",
        .scene = scene,
        .view = "front",
        .shader = field("float distance_to(vec3 place) { return ball_distance(place - vec3(0.0, 0.5, 0.0), 1.0); }\n")};
  }
};

struct Difference {
  double color = 0, depth = 0;
  int covered = 0, differently = 0;
};

Difference difference(const gl::FrameRunner& runner, float background) {
  const Image a = runner.read("color"), b = runner.read("other"), da = runner.read("depth"),
              db = runner.read("other depth");
  Difference found;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const bool in_a = da.at(x, y)[0] != background, in_b = db.at(x, y)[0] != background;
      found.differently += in_a != in_b;
      if (!in_a || !in_b || x < 2 || x > width - 3) continue;
      // Not along the rim, where rays only graze and a hair aside is far behind.
      const bool rim = da.at(x - 2, y)[0] == background || da.at(x + 2, y)[0] == background ||
                       da.at(x, y - 2)[0] == background || da.at(x, y + 2)[0] == background;
      if (rim) continue;
      ++found.covered;
      found.color = std::max(found.color, std::abs(a.at(x, y)[1] - b.at(x, y)[1]));
      found.depth = std::max(found.depth, std::abs(da.at(x, y)[0] - db.at(x, y)[0]));
    }
  }
  return found;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "shapes and noise in GLSL are those on the CPU") {
  FrameGraph frame;
  const TargetHandle one = frame.target("one", {.format = Format::rgba32f}),
                     two = frame.target("two", {.format = Format::rgba32f});
  for (const TargetHandle target : {one, two}) frame.keep(target);
  const std::string place =
      "#include \"periscena/distance_shapes.glsl\"\nconst vec3 off = vec3(0.3, -0.2, 0.1);\nvec3 place() { return "
      "vec3(gl_FragCoord.xy * 0.11 - 3.0, 0.7); }\n";
  frame.add(fill("one",
                 "vec4(ball_distance(place(), 0.8), box_distance(place(), vec3(0.7, 0.3, 0.9)), "
                 "capsule_distance(place(), off, -off, 0.2), cylinder_distance(place(), 0.6, 0.4))",
                 {.target = one}, "vec4", {}, place));
  frame.add(fill("two",
                 "vec4(ring_distance(place(), 0.9, 0.3), smooth_noise(place()), melted(place().x, place().y, 0.5), "
                 "roughened(plane_distance(place(), vec3(0.0, 1.0, 0.0), 0.2), place(), 0.1, 0.4))",
                 {.target = two}, "vec4", {}, place));
  gl::FrameRunner runner(device, planned(frame, device, 60, 60));
  runner.run(0);
  const Image first = runner.read("one"), second = runner.read("two");
  const Vec3 off(0.3f, -0.2f, 0.1f);
  for (int y = 0; y < 60; ++y) {
    for (int x = 0; x < 60; ++x) {
      const Vec3 at((static_cast<float>(x) + 0.5f) * 0.11f - 3, (59.5f - static_cast<float>(y)) * 0.11f - 3, 0.7f);
      const float exact[] = {ball_distance(at, 0.8f),
                             box_distance(at, {0.7f, 0.3f, 0.9f}),
                             capsule_distance(at, off, -off, 0.2f),
                             cylinder_distance(at, 0.6f, 0.4f),
                             ring_distance(at, 0.9f, 0.3f),
                             smooth_noise(at),
                             melted(at[0], at[1], 0.5f),
                             roughened(plane_distance(at, {0, 1, 0}, 0.2f), at, 0.1f, 0.4f)};
      for (std::size_t i = 0; i < 4; ++i) {
        REQUIRE(first.at(x, y)[i] == Approx(exact[i]).margin(1e-5));
        REQUIRE(second.at(x, y)[i] == Approx(exact[4 + i]).margin(1e-5));
      }
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a ball by its distance lies where a ball of triangles lies, and is lit as it is") {
  for (const bool parallel : {false, true}) {
    for (const DepthOrder order : {DepthOrder::reversed, DepthOrder::ordinary}) {
      INFO("parallel " << parallel << ", order " << static_cast<int>(order));
      Balls balls(parallel, order);
      balls.add_ball({0, 0.5f, 0}, 1);
      balls.frame.add(
          passes::forward({.scene = balls.scene, .view = "front", .color = balls.color, .depth = balls.depth}));
      passes::DistanceField with = balls.ball();
      with.self_shadows = false;
      with.color = balls.other;
      with.depth = balls.other_depth;
      balls.frame.add(passes::distance_field(with));
      gl::FrameRunner runner(device, planned(balls.frame, device, width, height));
      runner.run(0);
      const Difference found = difference(runner, order == DepthOrder::reversed ? 0.0f : 1.0f);
      CHECK(found.covered > 1500);
      CHECK(found.differently < found.covered / 20);  // the rim: triangles lie a little inside of the ball
      CHECK(found.depth < 2e-3);
      CHECK(found.color < 0.03);
    }
  }
}

TEST_CASE_METHOD(TestDevice, "triangles before it hide it, it hides those behind, in whatever order they are drawn") {
  Image pictures[2];
  for (const bool field_first : {false, true}) {
    Balls balls;
    balls.add_ball({0.7f, 0.5f, 1.2f}, 0.5f);    // before
    balls.add_ball({-0.7f, 0.9f, -1.5f}, 0.9f);  // behind
    passes::DistanceField with = balls.ball();
    with.color = balls.color;
    with.depth = balls.depth;
    with.base_color = {1, 0, 0};
    const passes::Forward drawn{.scene = balls.scene, .view = "front", .color = balls.color, .depth = balls.depth};
    if (field_first) balls.frame.add(passes::distance_field(with));
    balls.frame.add(passes::forward(drawn));
    if (!field_first) balls.frame.add(passes::distance_field(with));
    balls.leave_other();
    gl::FrameRunner runner(device, planned(balls.frame, device, width, height));
    runner.run(0);
    pictures[field_first] = runner.read("color");
  }
  int red = 0, grey = 0;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const auto a = pictures[0].at(x, y), b = pictures[1].at(x, y);
      for (std::size_t i = 0; i < 3; ++i) REQUIRE(a[i] == Approx(b[i]).margin(1e-6));
      red += a[0] > 0 && a[1] < 0.2 * a[0];
      grey += a[1] > 0.5 * a[0] && a[0] > 0;
    }
  }
  CHECK(red > 500);
  CHECK(grey > 500);
}

TEST_CASE_METHOD(TestDevice, "shadow maps fall on it, and it shades itself") {
  const auto lit_at = [&](bool caster, bool self_shadows) {
    Balls balls;
    balls.add_ball(caster ? Vec3(0.6f, 2.5f, 0.9f) : Vec3(50, 0, 0), 0.4f);  // between it and the sun
    const TargetHandle map =
        balls.frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(512, 512)});
    balls.frame.add(passes::shadow_map({.scene = balls.scene, .light = "sun", .depth = map}));
    passes::DistanceField with = balls.ball();
    // A floor with a post on it.
    with.shader = field(
        "float distance_to(vec3 place) { return united(place.y, capsule_distance(place, vec3(-1.0, 0.0, 0.5), "
        "vec3(-1.0, 1.2, 0.5), 0.35)); }\n");
    with.shadows = {map};
    with.self_shadows = self_shadows;
    with.color = balls.color;
    with.depth = balls.depth;
    balls.frame.add(passes::distance_field(with));
    balls.leave_other();
    gl::FrameRunner runner(device, planned(balls.frame, device, width, height));
    runner.run(0);
    const Image image = runner.read("color");
    int dark = 0;
    for (int y = 0; y < height; ++y) {
      for (int x = 0; x < width; ++x) dark += image.at(x, y)[3] > 0 && image.at(x, y)[0] < 0.05;
    }
    return dark;
  };
  const int none = lit_at(false, false), cast = lit_at(true, false), own = lit_at(false, true);
  CHECK(cast > none + 50);
  CHECK(own > none + 20);  // of the post, some 0.7 m², seen flatly
}

TEST_CASE_METHOD(TestDevice, "steps are counted to their limit, and no ray leaves its box") {
  Balls balls;
  passes::DistanceField with = balls.ball();
  with.most_steps = 40;
  const TargetHandle steps = balls.frame.target("steps", {.format = Format::r32f});
  balls.frame.keep(steps);
  with.steps = steps;
  balls.frame.add(passes::distance_field(with));
  with.name = "in a box";
  with.steps = {};
  with.color = balls.color;
  with.depth = balls.depth;
  with.lowest = {-2, 0.5f, -2};
  with.highest = {2, 2, 2};
  balls.frame.add(passes::distance_field(with));
  balls.leave_other();
  gl::FrameRunner runner(device, planned(balls.frame, device, width, height));
  runner.run(0);
  const Image counted = runner.read("steps"), cut = runner.read("depth");
  double most = 0, least = 1e9;
  int covered = 0;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      most = std::max(most, counted.at(x, y)[0]);
      least = std::min(least, counted.at(x, y)[0]);
      covered += cut.at(x, y)[0] > 0;
    }
  }
  CHECK(most <= 40);
  CHECK(most > 10);
  CHECK(least >= 1);
  CHECK(covered > 500);
}

TEST_CASE_METHOD(TestDevice,
                 "mistakes in the user's GLSL are told at their line, and distances that are no numbers after a run") {
  const auto refusal = [&](const std::string& body) -> std::string {
    Balls balls;
    passes::DistanceField with = balls.ball();
    with.shader = field(body);
    with.color = balls.frame.output();
    FrameGraph frame;
    with.color = frame.output();
    frame.add(passes::distance_field(with));
    try {
      gl::FrameRunner runner(device, frame.plan(width, height, device.limits()).value());
      runner.run(0);
      return to_text(runner.diagnostics());
    } catch (const Error& error) {
      return to_text(error.diagnostics());
    }
  };
  CHECK(refusal("float distance_to(vec3 place) {\n  return ball_distanc(place, 1.0);\n}\n").find("own.frag:3") !=
        std::string::npos);
  CHECK(refusal("float far_from(vec3 place) { return 1.0; }\n")
            .find("error[no-distance]: \"own.frag\" of pass \"field\" defines no distance") != std::string::npos);
  const std::string told =
      refusal("float distance_to(vec3 place) { return sqrt(-1.0 - place.x * place.x) + ball_distance(place, 1.0); }\n");
  INFO(told);
  CHECK(told.find("warning[not-finite-pixels]: pass \"field\" has distances that are no numbers, such as at pixel") !=
        std::string::npos);
  CHECK(refusal("float distance_to(vec3 place) { return ball_distance(place, 1.0); }\n").empty());
}

TEST_CASE("a field with an empty box, no target or targets that do not go together is refused") {
  Balls balls;
  passes::DistanceField with = balls.ball();
  with.lowest = with.highest = {0, 0, 0};
  with.most_steps = 0;
  FrameGraph frame;
  frame.add(passes::distance_field(with));
  with.name = "both";
  with.steps = frame.target("steps", {.format = Format::r32f});
  with.color = frame.output();
  frame.add(passes::distance_field(with));
  const std::string told = to_text(frame.plan(8, 8).diagnostics());
  INFO(told);
  for (const char* slug :
       {"empty-box", "writes neither color nor steps", "steps-alone", "\"most_steps\" is 0, out of its range"})
    CHECK(told.find(slug) != std::string::npos);
}

TEST_CASE_METHOD(TestDevice,
                 "GLSL that sets depth writes it from a fullscreen pass, and is tested against what is there") {
  FrameGraph frame;
  const TargetHandle color = frame.target("color", {.format = Format::r32f}),
                     depth = frame.target("depth", {.format = Format::depth32f});
  frame.keep(color);
  frame.keep(depth);
  for (const auto& [name, edge] : {std::pair{"far", "0.25"}, std::pair{"near", "uv.x"}}) {
    frame.add(draw(name, fmt::format("out float color;\nvoid main() {{ color = {}; gl_FragDepth = color; }}\n", edge),
                   {}, {{.slot = "color", .target = color}, {.slot = "depth", .target = depth}}));
  }
  gl::FrameRunner runner(device, planned(frame, device, 8, 2));
  runner.run(0);
  for (int x = 0; x < 8; ++x) CHECK(runner.read("color").at(x, 0)[0] == Approx(std::max(0.25, (x + 0.5) / 8)));
}
