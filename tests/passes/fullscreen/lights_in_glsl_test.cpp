// Fullscreen GLSL of the user's own that asks the lights and shadows of its pass.
#include "gl/device.h"
#include "passes/white_things.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/light_markers.h>
#include <periscena/passes/shadow_map.h>

#include <fmt/format.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int size = 128;
const Vec3 half_box(0.75f, 0.5f, 0.5f), box_at(0.25f, 1.5f, 0);

/// A box over a floor, in slanting sun, and a lamp that casts no shadows.
struct Court {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  Court() {
    Camera camera;
    camera.eye = {3, 4, 7};
    camera.target = {0, 0.5f, 0};
    scene->add_view({"front", camera});
    scene->add_light(Light{
        .name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = sunwards()}, .color = {1, 0.75f, 0.5f}});
    scene->add_light(Light{.name = "lamp", .kind = PointLight{.intensity = 2, .position = {-1, 2, 2}, .range = 6}});
    scene->add_material({.name = "white",
                         .shading = Material::Shading::blinn_phong,
                         .base_color = Vec3::ones(),
                         .specular = Vec3::zero()});
    show_white(*scene, "floor", shapes::plane(20, 20), {0, 0, 0});
    show_white(*scene, "box", shapes::box(2 * half_box), box_at);
  }

  static Vec3 sunwards() { return Vec3(-0.5f, -1, 0.3f).normalized(); }

  /// A map of the sun, and a fullscreen pass that takes its shadows.
  FrameGraph frame(const std::string& body, passes::ShadowMap map = {}) const {
    FrameGraph frame;
    frame.target("map", {.format = Format::depth32f, .size = TargetSize::pixels(1024, 1024)});
    frame.target("depth", {.format = Format::depth32f});
    frame.keep(frame.target("drawn", {.format = Format::rgba32f}));
    const TargetHandle asked = frame.target("asked", {.format = Format::rgba32f});
    frame.keep(asked);
    map.scene = scene;
    map.light = "sun";
    map.without_tags = {"ground"};
    map.depth = "map";
    frame.add(passes::shadow_map(map));
    frame.add(
        passes::forward({.scene = scene, .view = "front", .shadows = {"map"}, .color = "drawn", .depth = "depth"}));
    frame.add(passes::fullscreen(asking(body, asked)));
    return frame;
  }

  passes::Fullscreen asking(const std::string& body, const TargetUse& into) const {
    passes::Fullscreen options;
    options.name = "asks";
    options.shader = gl::ShaderText::from_text("asks.frag",
                                               "#include \"periscena/fullscreen.glsl\"\n#include "
                                               "\"periscena/camera.glsl\"\n#include \"periscena/lights.glsl\"\n" +
                                                   body,
                                               passes::pass_shaders());
    if (body.find("depth") != std::string::npos) options.reads = {{"depth", "depth"}};
    options.writes = {{"color", into}};
    options.scene = scene;
    options.view = "front";
    options.shadows = {"map"};
    return options;
  }
};

/// Is a point of the air in the box's shadow?
bool box_is_between(const Vec3& point) {
  const Vec3 ray = -Court::sunwards();
  float enters = 0, leaves = 100;
  for (int axis = 0; axis < 3; ++axis) {
    float a = (box_at[axis] - half_box[axis] - point[axis]) / ray[axis],
          b = (box_at[axis] + half_box[axis] - point[axis]) / ray[axis];
    if (a > b) std::swap(a, b);
    enters = std::max(enters, a);
    leaves = std::min(leaves, b);
  }
  return enters < leaves;
}

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "GLSL of one's own gets the light on a floor that the forward pass gives it, by any filter") {
  const Court court;
  const std::string on_floor = R"(
    uniform sampler2D depth;
    out vec4 color;
    void main() {
      vec3 here = world_position(uv, texture(depth, uv).r), sum = vec3(0.0), to_light;
      for (int i = 0; i < lighting.light_count; ++i) {
        vec3 lux = light_reaching(i, here, vec3(0.0, 1.0, 0.0), to_light);
        sum += lux * max(to_light.y, 0.0) / 3.14159265;
      }
      color = vec4(sum, here.y);
    })";
  for (const ShadowFilter filter :
       {ShadowFilter::linear, ShadowFilter::gaussian, ShadowFilter::disc, ShadowFilter::contact}) {
    passes::ShadowMap map;
    map.filter = filter;
    map.radius = filter == ShadowFilter::contact ? 8 : 2;
    gl::FrameRunner runner(device, court.frame(on_floor, map).plan(2 * size, 2 * size, device.limits()).value());
    runner.run(0);
    const Image drawn = runner.read("drawn"), asked = runner.read("asked");
    int compared = 0, shadowed = 0, off = 0;
    for (int y = 0; y < 2 * size; ++y) {
      for (int x = 0; x < 2 * size; ++x) {
        if (!(std::abs(asked.at(x, y)[3]) < 1e-4)) continue;  // the box, or nothing
        ++compared;
        shadowed += drawn.at(x, y)[0] < 0.3;
        // Where positions from depth fall across a texel's edge, comparisons may.
        off += std::abs(asked.at(x, y)[0] - drawn.at(x, y)[0]) > 0.01 ||
               std::abs(asked.at(x, y)[2] - drawn.at(x, y)[2]) > 0.01;
      }
    }
    INFO("filter " << static_cast<int>(filter) << ": " << off << " off of " << compared << ", " << shadowed
                   << " in shadow");
    CHECK(compared > 10000);
    CHECK(shadowed > 300);
    CHECK(off < compared / 500);
  }
}

TEST_CASE_METHOD(TestDevice, "points in the air are dark where the box stands between them and the sun") {
  const Court court;
  const std::string in_air = R"(
    out vec4 color;
    void main() {
      vec3 here = vec3(mix(-4.0, 4.0, uv.x), mix(0.02, 4.0, uv.y), 0.1), to_light;
      vec3 lux = light_reaching(0, here, vec3(0.0), to_light);
      color = vec4(lux, distance(to_light, normalize(vec3(0.5, 1.0, -0.3))));
    })";
  for (const ShadowFilter filter : {ShadowFilter::linear, ShadowFilter::gaussian, ShadowFilter::contact}) {
    passes::ShadowMap map;
    map.filter = filter;
    gl::FrameRunner runner(device, court.frame(in_air, map).plan(size, size, device.limits()).value());
    runner.run(0);
    const Image asked = runner.read("asked");
    int wrong = 0, dark = 0;
    for (int y = 0; y < size; ++y) {
      for (int x = 0; x < size; ++x) {
        const Vec3 here(8 * (static_cast<float>(x) + 0.5f) / size - 4,
                        4 - 3.98f * (static_cast<float>(y) + 0.5f) / size, 0.1f);
        const bool shaded = box_is_between(here);
        dark += shaded;
        const auto lux = asked.at(x, y);
        REQUIRE(std::isfinite(lux[0]));
        REQUIRE(lux[3] < 1e-5);
        wrong += std::abs(lux[0] - (shaded ? 0 : 3)) > 0.1;
      }
    }
    INFO("filter " << static_cast<int>(filter) << ": " << wrong << " of " << size * size << " wrong, " << dark
                   << " dark");
    CHECK(dark > 800);
    CHECK(wrong < size * size / 50);  // along the shadow's edges, by what the filter blurs
  }
}

TEST_CASE_METHOD(TestDevice, "lights that GLSL does not ask for, and lights that are not there, are told") {
  const Court court;
  const auto told = [&](const std::function<void(passes::Fullscreen&)>& spoil, const std::string& body) {
    FrameGraph graph = court.frame("out vec4 color; void main() { color = lights[0].color; }");
    const TargetHandle spoilt = graph.target("spoilt", {.format = Format::rgba32f});
    graph.keep(spoilt);
    passes::Fullscreen options = court.asking(body, spoilt);
    options.name = "spoilt";
    spoil(options);
    graph.add(passes::fullscreen(options));
    const PlanResult planned = graph.plan(size, size, device.limits());
    std::string text;
    for (const Diagnostic& one : planned.diagnostics()) text += one.slug + " ";
    if (planned.ok()) text += thrown_text([&] { gl::FrameRunner(device, planned.value()).run(0); });
    return text;
  };
  const std::string lit =
      "out vec4 color; void main() { vec3 l; color = vec4(light_reaching(0, vec3(0.0), vec3(0.0), l), 1.0); }";
  REQUIRE(told([](passes::Fullscreen&) {}, lit) == "");
  REQUIRE_THAT(told([](passes::Fullscreen& one) { one.lights = {"moon"}; }, lit), Catch::Contains("unknown-light"));
  REQUIRE_THAT(told([](passes::Fullscreen& one) { one.fog = "mist"; }, lit), Catch::Contains("unknown-fog"));
  REQUIRE_THAT(told([](passes::Fullscreen& one) { one.scene = {}, one.view = {}, one.shadows = {}; }, lit),
               Catch::Contains("no-scene"));
  REQUIRE_THAT(told([](passes::Fullscreen& one) { one.shadows = {"depth"}; }, lit),
               Catch::Contains("not-a-shadow-map"));
  REQUIRE_THAT(told([](passes::Fullscreen& one) { one.lights = {"lamp"}; }, lit), Catch::Contains("unlit-shadow"));
  const auto with = [](const char* include, const char* says) {
    return [=](passes::Fullscreen& one) {
      one.shader = gl::ShaderText::from_text(
          "plain.frag",
          fmt::format("#include \"periscena/{}\"\nout vec4 color; void main() {{ color = vec4({}); }}", include, says),
          passes::pass_shaders());
    };
  };
  REQUIRE_THAT(told(with("frame.glsl", "1.0"), lit), Catch::Contains("lights-not-asked"));
  REQUIRE_THAT(told(
                   [&](passes::Fullscreen& one) {
                     with("shadow_lookup.glsl", "light_past(1, vec3(0.0), vec3(0.0), vec3(0.0))")(one);
                     one.shadows = {};
                   },
                   lit),
               Catch::Contains("unset-sampler"));
}

TEST_CASE_METHOD(TestDevice, "markers draw the box that a map's light looks through, in the tint of its part") {
  const Court court;
  FrameGraph frame;
  frame.target("map", {.format = Format::depth32f, .size = TargetSize::pixels(256, 256)});
  const TargetHandle lines = frame.target("lines", {.format = Format::rgba32f});
  frame.keep(lines);
  passes::ShadowMap map;
  map.scene = court.scene;
  map.light = "sun";
  map.without_tags = {"ground"};
  map.depth = "map";
  frame.add(passes::shadow_map(map));
  passes::LightMarkers markers;
  markers.scene = court.scene;
  markers.view = "front";
  markers.lights = {"sun"};
  markers.shadows = {"map"};
  markers.color = lines;
  frame.add(passes::light_markers(markers));
  gl::FrameRunner runner(device, frame.plan(2 * size, 2 * size, device.limits()).value());
  runner.run(0);
  const Image drawn = runner.read("lines");
  // A box around the caster: its sides go by the box' corners, and amber has nearly no blue beside the sun's own
  // colour.
  int amber = 0;
  double left = 2 * size, right = 0;
  for (int y = 0; y < 2 * size; ++y) {
    for (int x = 0; x < 2 * size; ++x) {
      const auto p = drawn.at(x, y);
      if (!(p[0] > 0.5 && std::abs(p[1] / p[0] - 0.62) < 0.02 && std::abs(p[2] / p[0] - 0.15) < 0.02)) continue;
      ++amber;
      left = std::min<double>(left, x);
      right = std::max<double>(right, x);
    }
  }
  REQUIRE(amber > 300);
  const Camera& camera = court.scene->views()[0].camera;
  const Mat4 clip = camera.projection(1).matrix() * camera.view().matrix();
  for (int i = 0; i < 8; ++i) {
    const Vec3 corner = box_at + Vec3(i & 1 ? half_box.x() : -half_box.x(), i & 2 ? half_box.y() : -half_box.y(),
                                      i & 4 ? half_box.z() : -half_box.z());
    const Vec4 at = clip * Vec4(corner.x(), corner.y(), corner.z(), 1);
    const double x = size * (1 + at.x() / at.w());
    REQUIRE(x > left);
    REQUIRE(x < right);
  }
}
