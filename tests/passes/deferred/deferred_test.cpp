// In one file: all look at one workshop.

#include "gl/device.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/geometry.h>
#include <periscena/passes/light_buffer.h>
#include <periscena/passes/shadow_map.h>
#include <periscena/passes/tone_map.h>

#include <fmt/format.h>

#include <cmath>
#include <random>

using namespace periscena;

namespace {

constexpr int width = 160, height = 120;

/// Balls of several materials on a floor, in sun that casts shadows, by lamps, through fog.
struct Workshop {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  Camera camera;

  explicit Workshop(DepthOrder order = DepthOrder::reversed, bool parallel = false) {
    camera.eye = {1, 3, 9};
    camera.target = {0, 0.4f, -2};
    camera.near = 0.2f;
    camera.far = 60;
    camera.depth = order;
    if (parallel) camera.parallel_height = 7;
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun",
                           .kind = DirectionalLight{.illuminance = 3, .direction = {-0.5f, -1, -0.4f}},
                           .color = {1, 0.9f, 0.7f}});
    scene->add_light(Light{.name = "lamp", .kind = PointLight{.intensity = 20, .position = {-2, 1.5f, 1}, .range = 6}});
    scene->add_light(Light{.name = "spot",
                           .kind = SpotLight{.intensity = 40,
                                             .position = {3, 4, 0},
                                             .direction = {-0.4f, -1, 0},
                                             .inner_cone = 0.2f,
                                             .outer_cone = 0.5f}});
    scene->add_light(AmbientLight{.name = "sky", .sky = {0.2f, 0.25f, 0.3f}, .ground = {0.1f, 0.08f, 0.05f}});
    scene->add_fog({.name = "haze", .color = {0.4f, 0.45f, 0.5f}, .density = 0.03f});
    show("floor", shapes::plane(40, 60), {.name = "plaster", .base_color = {0.5f, 0.45f, 0.4f}}, {0, 0, -15},
         {"ground"});
    for (int i = 0; i < 5; ++i) {
      Material material{.name = fmt::format("metal {}", i),
                        .base_color = Vec3(0.9f, 0.6f + 0.08f * static_cast<float>(i), 0.3f),
                        .metallic = 0.25f * static_cast<float>(i),
                        .roughness = 0.2f + 0.2f * static_cast<float>(i)};
      show(material.name, shapes::sphere(0.6f, 24), material, {1.4f * static_cast<float>(i) - 3, 0.6f, 0});
    }
    show("glossy", shapes::sphere(0.6f, 24),
         {.name = "glossy",
          .shading = Material::Shading::blinn_phong,
          .base_color = {0.1f, 0.4f, 0.2f},
          .specular = Vec3::constant(0.3f),
          .shininess = 60},
         {-2, 0.6f, -2});
    show("flat", shapes::box({1, 1, 1}),
         {.name = "flat", .shading = Material::Shading::unlit, .base_color = {0.2f, 0.3f, 0.9f}}, {0, 0.5f, -3});
    show("ember", shapes::box({0.6f, 0.6f, 0.6f}), {.name = "ember", .emission = {3, 0.6f, 0.1f}}, {2, 0.3f, -2.5f});
  }

  void show(const std::string& name, Mesh mesh, const Material& material, const Vec3& at,
            std::vector<std::string> tags = {}) {
    Node node;
    node.name = name;
    node.mesh = scene->add_mesh(name, std::move(mesh));
    node.material = scene->add_material(material);
    node.placement = Transform::translate(at);
    node.tags = std::move(tags);
    scene->add_node(node);
  }

  /// A geometry pass with all its outputs into targets of these names, and the pass that lights it.
  passes::Geometry geometry(FrameGraph& frame, Format normal, Format base_color, Format material) const {
    passes::Geometry options;
    options.scene = scene;
    options.view = "front";
    options.normal = frame.target("normal", {.format = normal});
    options.base_color = frame.target("base_color", {.format = base_color});
    options.material = frame.target("material", {.format = material});
    options.emission = frame.target("emission", {.format = Format::rgba16f});
    options.id = frame.target("id", {.format = Format::r32ui});
    options.position = frame.target("position", {.format = Format::rgba32f});
    options.depth = frame.target("kept depth", {.format = Format::depth32f, .clear_depth = empty_depth()});
    return options;
  }

  passes::Deferred lighting(const passes::Geometry& buffer, TargetHandle into) const {
    passes::Deferred options;
    options.scene = scene;
    options.view = "front";
    options.fog = "haze";
    options.shadows = {"sun.depth"};
    options.depth = buffer.depth;
    options.normal = buffer.normal;
    options.base_color = buffer.base_color;
    options.material = buffer.material;
    options.emission = buffer.emission;
    options.color = into;
    return options;
  }

  FrameGraph both_ways(Format base_color, Format material, bool stored_positions) const {
    FrameGraph frame;
    frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(512, 512)});
    frame.add(passes::shadow_map({.scene = scene, .light = "sun", .without_tags = {"ground"}, .depth = "sun.depth"}));
    const TargetHandle forward = frame.target("forward", {.format = Format::rgba32f}),
                       deferred = frame.target("deferred", {.format = Format::rgba32f});
    frame.keep(forward);
    frame.keep(deferred);
    frame.keep("id");
    frame.add(
        passes::forward({.scene = scene,
                         .view = "front",
                         .fog = "haze",
                         .shadows = {"sun.depth"},
                         .color = forward,
                         .depth = frame.target("depth", {.format = Format::depth32f, .clear_depth = empty_depth()})}));
    const passes::Geometry buffer = geometry(frame, Format::rgba16, base_color, material);
    frame.add(passes::geometry(buffer));
    passes::Deferred light = lighting(buffer, deferred);
    if (stored_positions) light.position = buffer.position;
    frame.add(passes::deferred(light));
    return frame;
  }

  float empty_depth() const { return camera.depth == DepthOrder::reversed ? 0.0f : 1.0f; }
};

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "lit once for each pixel, surfaces look as the forward pass lights them, but for what formats round") {
  struct Case {
    Format base_color, material;
    bool stored;
    double bound;  // of the difference, as a share of the light and a hundredth
  };
  // Eight bits of roughness change the brightness of a highlight by some percent, sixteen by next to nothing.
  for (const Case& one :
       {Case{Format::rgba16, Format::rgba16, false, 0.004}, Case{Format::rgba16, Format::rgba16, true, 0.004},
        Case{Format::rgba8_srgb, Format::rgba8, false, 0.05}}) {
    for (const DepthOrder order : {DepthOrder::reversed, DepthOrder::ordinary}) {
      for (const bool parallel : {false, true}) {
        const Workshop workshop(order, parallel);
        gl::FrameRunner runner(
            device,
            workshop.both_ways(one.base_color, one.material, one.stored).plan(width, height, device.limits()).value());
        runner.run(0);
        const Image forward = runner.read("forward"), deferred = runner.read("deferred"), id = runner.read("id");
        int compared = 0, off = 0, empty = 0;
        std::vector<int> seen(workshop.scene->nodes().size());
        for (int y = 0; y < height; ++y) {
          for (int x = 0; x < width; ++x) {
            const auto number = static_cast<std::size_t>(id.at(x, y)[0]);
            const auto a = forward.at(x, y), b = deferred.at(x, y);
            if (number == 0) {
              ++empty;
              REQUIRE(b[3] == 0);  // what was there stays
              continue;
            }
            ++seen.at(number - 1);
            ++compared;
            bool differs = false;
            for (std::size_t c = 0; c < 3; ++c)
              differs = differs || std::abs(a[c] - b[c]) > one.bound * (std::abs(a[c]) + 0.01) + 1e-3;
            off += differs;
          }
        }
        INFO("order " << static_cast<int>(order) << ", parallel " << parallel << ", stored " << one.stored << ": "
                      << off << " of " << compared << " off");
        CHECK(compared > 8000);
        CHECK((parallel || empty > 100));
        CHECK(std::count(seen.begin(), seen.end(), 0) == 0);
        CHECK(off <= compared / 500);  // where comparisons of shadows fall the other way
      }
    }
  }
}

TEST_CASE_METHOD(
    TestDevice,
    "lit by a pre-pass and drawn again with their own materials, surfaces look as the forward pass lights them") {
  using batch::LightBounds;
  struct Case {
    DepthOrder order;
    bool parallel;
    batch::Batching again;  ///< of the pass that draws over the depth of the other
    LightBounds bounds;
  };
  for (const Case& one : {Case{DepthOrder::reversed, false, batch::Batching::merged, LightBounds::none},
                          Case{DepthOrder::ordinary, false, batch::Batching::unmerged, LightBounds::quads},
                          Case{DepthOrder::reversed, true, batch::Batching::merged, LightBounds::tiles}}) {
    const Workshop workshop(one.order, one.parallel);
    FrameGraph frame = workshop.both_ways(Format::rgba16, Format::rgba16, false);
    passes::LightBuffer light;
    light.scene = workshop.scene;
    light.view = "front";
    light.shadows = {"sun.depth"};
    light.light_bounds = one.bounds;
    light.depth = "kept depth";
    light.normal = "normal";
    light.material = "material";
    light.diffuse = frame.target("light.diffuse", {.format = Format::rgba16f});
    light.specular = frame.target("light.specular", {.format = Format::rgba16f});
    frame.add(passes::light_buffer(light));
    passes::Forward again{.name = "again", .scene = workshop.scene, .view = "front", .fog = "haze"};
    again.batching = one.again;
    again.surfaces = Surfaces::opaque;
    again.light_diffuse = light.diffuse;
    again.light_specular = light.specular;
    again.color = frame.target("prelit", {.format = Format::rgba32f});
    again.depth = "kept depth";
    frame.keep(again.color);
    frame.add(passes::forward(again));
    gl::FrameRunner runner(device, frame.plan(width, height, device.limits()).value());
    runner.run(0);
    const Image forward = runner.read("forward"), prelit = runner.read("prelit");
    int off = 0, missing = 0;
    double worst = 0;
    for (int y = 0; y < height; ++y) {
      for (int x = 0; x < width; ++x) {
        const auto a = forward.at(x, y), b = prelit.at(x, y);
        missing += a[3] != b[3];
        bool differs = false;
        for (std::size_t c = 0; c < 3; ++c) {
          const double share = std::abs(a[c] - b[c]) / (std::abs(a[c]) + 0.01);
          worst = std::max(worst, share);
          differs = differs || share > 0.01;
        }
        off += differs;
      }
    }
    INFO("order " << static_cast<int>(one.order) << ", parallel " << one.parallel << ": " << off << " off, the worst "
                  << worst);
    CHECK(missing == 0);
    CHECK(off <= width * height / 500);  // where comparisons of shadows fall the other way
  }
}

TEST_CASE(
    "light that was taken from a buffer is neither blended nor shadowed again, and wants depth and both its parts") {
  const Workshop workshop;
  const auto problems_of = [&](auto change) {
    FrameGraph frame;
    const passes::Geometry buffer = workshop.geometry(frame, Format::rgba16, Format::rgba8, Format::rgba8);
    frame.add(passes::geometry(buffer));
    passes::LightBuffer light{.scene = workshop.scene, .view = "front"};
    light.depth = buffer.depth;
    light.normal = buffer.normal;
    light.material = buffer.material;
    light.diffuse = frame.target("diffuse", {.format = Format::rgba16f});
    light.specular = frame.target("specular", {.format = Format::rgba16f});
    frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(64, 64)});
    frame.add(passes::shadow_map({.scene = workshop.scene, .light = "sun", .depth = "sun.depth"}));
    passes::Forward again{.scene = workshop.scene, .view = "front"};
    again.surfaces = Surfaces::opaque;
    again.light_diffuse = light.diffuse;
    again.light_specular = light.specular;
    again.depth = buffer.depth;
    again.color = frame.target("light", {.format = Format::rgba16f});
    frame.keep(again.color);
    change(light, again);
    frame.add(passes::light_buffer(light));
    frame.add(passes::forward(again));
    return to_text(frame.plan(64, 48).diagnostics());
  };
  using passes::Forward, passes::LightBuffer;
  CHECK(problems_of([](LightBuffer&, Forward&) {}).find("error") == std::string::npos);
  CHECK_THAT(problems_of([](LightBuffer&, Forward& again) { again.surfaces = Surfaces::all; }),
             Catch::Contains("unlit-blending"));
  CHECK_THAT(problems_of([](LightBuffer&, Forward& again) { again.light_specular = {}; }),
             Catch::Contains("half-light"));
  CHECK_THAT(problems_of([](LightBuffer&, Forward& again) { again.depth = {}; }), Catch::Contains("has no depth"));
  CHECK_THAT(problems_of([](LightBuffer&, Forward& again) { again.shadows = {"sun.depth"}; }),
             Catch::Contains("shadows-twice"));
  CHECK_THAT(problems_of([](LightBuffer& light, Forward&) { light.normal = light.material; }),
             Catch::Contains("swapped-geometry"));
  CHECK_THAT(problems_of([](LightBuffer& light, Forward&) { light.material = {}; }),
             Catch::Contains("reads no material"));
  CHECK_THAT(problems_of([](LightBuffer& light, Forward&) { light.light_bounds = batch::LightBounds::clusters; }),
             Catch::Contains("unfit-bounds"));
}

TEST_CASE_METHOD(TestDevice, "positions from depth are those of the vertices, to a ten thousandth of their distance") {
  for (const DepthOrder order : {DepthOrder::reversed, DepthOrder::ordinary}) {
    for (const bool parallel : {false, true}) {
      const Workshop workshop(order, parallel);
      FrameGraph frame;
      const passes::Geometry buffer = workshop.geometry(frame, Format::rgba16, Format::rgba8, Format::rgba8);
      frame.add(passes::geometry(buffer));
      passes::Fullscreen check;
      check.shader = gl::ShaderText::from_text("check.frag", R"(#include "periscena/fullscreen.glsl"
#include "periscena/camera.glsl"
uniform sampler2D depth;
uniform sampler2D position;
out vec4 error;
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec4 stored = texelFetch(position, at, 0);
  vec3 found = world_position(uv, texelFetch(depth, at, 0).r);
  float away = length(stored.xyz - camera.eye);
  error = vec4(length(found - stored.xyz) / away, away, stored.w, 1.0);
})",
                                               passes::pass_shaders());
      check.scene = workshop.scene;
      check.view = "front";
      check.reads = {{"depth", buffer.depth}, {"position", buffer.position}};
      check.writes = {{"error", frame.target("error", {.format = Format::rgba32f})}};
      frame.keep("error");
      frame.add(passes::fullscreen(check));
      gl::FrameRunner runner(device, frame.plan(width, height, device.limits()).value());
      runner.run(0);
      const Image error = runner.read("error");
      double worst = 0, nearest = 1e9, farthest = 0;
      for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
          const auto p = error.at(x, y);
          if (p[2] == 0) continue;
          worst = std::max(worst, p[0]);
          nearest = std::min(nearest, p[1]);
          farthest = std::max(farthest, p[1]);
        }
      }
      INFO("order " << static_cast<int>(order) << ", parallel " << parallel << ": " << worst << " from " << nearest
                    << " to " << farthest << " m");
      CHECK(worst < 1e-4);
      CHECK(farthest > (parallel ? 25 : 50));
    }
  }
}

TEST_CASE_METHOD(TestDevice,
                 "normals keep their direction to a ten thousandth, and ids are the numbers of objects, however these "
                 "lie in blocks") {
  auto scene = std::make_shared<Scene>();
  Camera camera;
  camera.eye = {0, 0, 10};
  camera.parallel_height = 16;
  camera.far = 20;
  scene->add_view({"front", camera});
  const MeshHandle plane = scene->add_mesh("plane", shapes::plane(0.9f, 0.9f));
  const MaterialHandle material = scene->add_material({.name = "both sides", .double_sided = true});
  std::mt19937 dice(5);
  std::normal_distribution<float> bell;
  std::vector<Vec3> normals;
  for (int i = 0; i < 256; ++i) {
    const Vec3 axis = Vec3(bell(dice), bell(dice), bell(dice)).normalized();
    const float angle = 3 * bell(dice);
    Node node;
    node.mesh = plane;
    node.material = material;
    node.placement =
        Transform::rotate(axis, angle)
            .then(Transform::translate({static_cast<float>(i % 16) - 7.5f, static_cast<float>(i / 16) - 7.5f, 0}));
    scene->add_node(node);
    Vec3 normal = Transform::rotate(axis, angle).apply_to_direction(Vec3::unit_y());
    if (normal.z() < 0) normal = -normal;  // on the viewer's side
    normals.push_back(normal);
  }
  gl::DeviceOptions small;
  small.most_block_bytes = 16384;
  for (const bool in_blocks : {false, true}) {
    const auto run = [&](gl::Device& on) {
      FrameGraph frame;
      frame.keep(frame.target("normal", {.format = Format::rgba16}));
      frame.keep(frame.target("id", {.format = Format::r32ui}));
      passes::Geometry options;
      options.scene = scene;
      options.view = "front";
      options.normal = "normal";
      options.id = "id";
      options.depth = frame.target("depth", {.format = Format::depth32f});
      frame.add(passes::geometry(options));
      gl::FrameRunner runner(on, frame.plan(256, 256, on.limits()).value());
      runner.run(0);
      return std::pair(runner.read("normal"), runner.read("id"));
    };
    const auto [kept, id] = in_blocks ? [&] {
      gl::Device other = gl::Device::headless(small);
      return run(other);
    }() : run(device);
    int seen = 0;
    for (int i = 0; i < 256; ++i) {
      const int x = 16 * (i % 16) + 8, y = 255 - (16 * (i / 16) + 8);
      if (id.at(x, y)[0] == 0) continue;  // on edge
      ++seen;
      REQUIRE(id.at(x, y)[0] == i + 1);
      const auto p = kept.at(x, y);
      for (const std::size_t first : {0u, 2u}) {
        const double a = 2 * p[first] - 1, b = 2 * p[first + 1] - 1, c = 1 - std::abs(a) - std::abs(b);
        const double ua = c < 0 ? (1 - std::abs(b)) * (a < 0 ? -1 : 1) : a,
                     ub = c < 0 ? (1 - std::abs(a)) * (b < 0 ? -1 : 1) : b;
        const DoubleVec3 found = DoubleVec3(ua, ub, c).normalized();
        REQUIRE(found.cross(normals[static_cast<std::size_t>(i)].cast<double>()).norm() < 1e-4);
        REQUIRE(found.dot(normals[static_cast<std::size_t>(i)].cast<double>()) > 0);
      }
    }
    CHECK(seen > 200);
  }
}

TEST_CASE("geometry buffers that can't be right are told by the plan") {
  const Workshop workshop;
  const auto told = [&](const std::function<void(FrameGraph&, passes::Geometry&, passes::Deferred&)>& spoil) {
    FrameGraph frame;
    frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(64, 64)});
    frame.add(passes::shadow_map({.scene = workshop.scene, .light = "sun", .depth = "sun.depth"}));
    passes::Geometry buffer = workshop.geometry(frame, Format::rgba16, Format::rgba8_srgb, Format::rgba8);
    passes::Deferred light = workshop.lighting(buffer, frame.output());
    spoil(frame, buffer, light);
    frame.add(passes::geometry(buffer));
    frame.add(passes::deferred(light));
    std::string slugs;
    for (const Diagnostic& one : frame.plan(64, 64).diagnostics()) {
      slugs += one.slug + " ";
      CHECK_FALSE(one.mend.empty());
    }
    return slugs;
  };
  using G = passes::Geometry;
  using D = passes::Deferred;
  CHECK(told([](FrameGraph&, G&, D&) {}) == "");
  CHECK_THAT(told([](FrameGraph&, G& buffer, D&) { buffer.depth = {}; }), Catch::Contains("missing-key"));
  CHECK_THAT(told([](FrameGraph&, G&, D& light) { light.material = {}; }), Catch::Contains("missing-key"));
  CHECK_THAT(told([](FrameGraph&, G& buffer, D&) { buffer.view = "frnt"; }), Catch::Contains("unknown-view"));
  CHECK_THAT(told([](FrameGraph&, G&, D& light) { light.lights = {"moon"}; }), Catch::Contains("unknown-light"));
  CHECK_THAT(told([](FrameGraph&, G&, D& light) { std::swap(light.normal, light.material); }),
             Catch::Contains("swapped-geometry"));
  CHECK_THAT(told([](FrameGraph& frame, G& buffer, D& light) {
               light.normal = buffer.normal = frame.target("thin", {.format = Format::rg8});
             }),
             Catch::Contains("bad-geometry-format"));
  CHECK_THAT(told([&](FrameGraph&, G& buffer, D&) {
               workshop.scene->add_view({"side", {}});
               buffer.view = "side";
             }),
             Catch::Contains("other-view"));
}

TEST_CASE_METHOD(TestDevice, "filters after a deferred pass run in its program, where nothing was drawn, too") {
  const Workshop workshop;
  for (const batch::LightBounds bounds :
       {batch::LightBounds::none, batch::LightBounds::tiles, batch::LightBounds::quads}) {
    std::vector<Image> pictures;
    for (const bool fuses : {true, false}) {
      FrameGraph frame;
      frame.set_fusing(fuses);
      frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(512, 512)});
      frame.add(passes::shadow_map(
          {.scene = workshop.scene, .light = "sun", .without_tags = {"ground"}, .depth = "sun.depth"}));
      const passes::Geometry buffer = workshop.geometry(frame, Format::rgba16, Format::rgba8_srgb, Format::rgba8);
      frame.add(passes::geometry(buffer));
      const TargetHandle light = frame.target("light", {.format = Format::rgba32f}),
                         shown = frame.target("shown", {.format = Format::rgba32f});
      frame.keep(shown);
      passes::Deferred deferred = workshop.lighting(buffer, light);
      deferred.light_bounds = bounds;
      frame.add(passes::deferred(deferred));
      frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = shown}));
      gl::FrameRunner runner(device, frame.plan(80, 60, device.limits()).value());
      runner.run(0);
      pictures.push_back(runner.read("shown"));
      // Quads add light to light.
      const std::string& last = runner.plan().passes().back().name;
      CHECK(last == (fuses && bounds != batch::LightBounds::quads ? "deferred + tone map" : "tone map"));
    }
    double worst = 0, brightest = 0;
    for (int y = 0; y < 60; ++y) {
      for (int x = 0; x < 80; ++x) {
        for (std::size_t i = 0; i < 4; ++i)
          worst = std::max(worst, std::abs(pictures[0].at(x, y)[i] - pictures[1].at(x, y)[i]));
        brightest = std::max(brightest, pictures[0].at(x, y)[0]);
      }
    }
    CHECK(worst < 1e-5);
    CHECK(brightest > 0.1);
  }
}
