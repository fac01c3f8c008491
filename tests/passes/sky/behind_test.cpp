#include "passes/rendering.h"

#include <periscena/passes/fullscreen.h>
#include <periscena/passes/sky.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int size = 48;

/// A ball, a box behind glass, and an evening sky, in both orders of depth.
std::shared_ptr<Scene> window_at_dusk() {
  auto scene = std::make_shared<Scene>();
  const auto sky = std::make_shared<Image>(16, 8, Format::rgba32f);
  for (int y = 0; y < 8; ++y) {
    for (int x = 0; x < 16; ++x) sky->set(x, y, {0.2 + 0.1 * x, 0.5 + 0.05 * y, 1.0, 1.0});
  }
  scene->add_environment({.name = "dusk", .images = {sky}});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {-1, -1, -1}}});
  Camera camera;
  camera.eye = {0, 0.4f, 4};
  camera.target = {0, 0.2f, 0};
  scene->add_view({"front", camera});
  camera.depth = DepthOrder::ordinary;
  camera.far = 50;
  scene->add_view({"ordinary", camera});
  const auto add = [&](const std::string& name, Mesh mesh, const Material& material, const Vec3& at) {
    Node node;
    node.name = name;
    node.mesh = scene->add_mesh(name, std::move(mesh));
    node.material = scene->add_material(material);
    node.placement = translate(at);
    scene->add_node(node);
  };
  add("glass", shapes::box({1.6f, 1.2f, 0.1f}),
      {.name = "glass", .base_color = {0.2f, 0.6f, 0.3f}, .alpha = 0.4f, .alpha_mode = Material::AlphaMode::blend},
      {0.6f, 0.2f, 1});
  add("ball", shapes::sphere(0.7f, 24), {.name = "clay", .base_color = {0.7f, 0.3f, 0.2f}}, {-0.7f, 0.2f, 0});
  add("crate", shapes::box({0.8f, 0.8f, 0.8f}), {.name = "wood", .base_color = {0.5f, 0.4f, 0.2f}}, {0.7f, 0, -0.5f});
  return scene;
}

constexpr const char* gradient = R"(#include "periscena/fullscreen.glsl"
layout(location = 0) out vec4 color;
void main() { color = vec4(uv, frame.resolution.x / 100.0, 0.75); }
)";

/// A sky, and surfaces over it.
struct Frame {
  std::shared_ptr<const Scene> scene = window_at_dusk();
  FrameGraph graph;
  passes::Forward forward{.name = "things", .scene = scene, .view = "front", .lights = {{"sun"}}};
  int samples = 1;
  float clear_depth = 0;
  bool own_glsl = false;
  std::string glsl = gradient;
  TargetHandle color, seen;

  void add_targets() {
    color = graph.target("color", {.format = Format::rgba32f, .samples = samples});
    graph.keep(color);
    forward.color = color;
    forward.depth = graph.target("depth", {.format = Format::depth32f, .samples = samples, .clear_depth = clear_depth});
  }
  void add_sky() {
    if (own_glsl) {
      graph.add(passes::fullscreen({.name = "sky",
                                    .shader = gl::ShaderText::from_text("gradient", glsl, passes::pass_shaders()),
                                    .writes = {{.slot = "color", .target = color}}}));
    } else {
      graph.add(
          passes::sky({.name = "sky", .scene = scene, .view = forward.view, .environment = "dusk", .color = color}));
    }
  }
  void add_all() {
    add_targets();
    add_sky();
    graph.add(passes::forward(forward));
  }
  Image picture(gl::Device& device, bool fuses) {
    graph.set_fusing(fuses);
    gl::FrameRunner runner(device, graph.plan(size, size, device.limits()).value());
    CHECK(runner.plan().removed().size() == (fuses ? 1u : 0u));
    runner.run(0);
    return runner.read("color");
  }
  std::size_t passes(bool fuses = true) {
    graph.set_fusing(fuses);
    return graph.plan(size, size).value().passes().size();
  }
};

double worst_difference(const Image& a, const Image& b) {
  double worst = 0;
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) {
      for (std::size_t i = 0; i < 4; ++i) worst = std::max(worst, std::abs(a.at(x, y)[i] - b.at(x, y)[i]));
    }
  }
  return worst;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "a sky that is drawn only where no surface hides it gives the same picture") {
  for (const bool own_glsl : {false, true}) {
    for (const bool ordinary : {false, true}) {
      for (const int samples : {1, 4}) {
        for (const batch::Culling culling : {batch::Culling::host, batch::Culling::device}) {
          CAPTURE(own_glsl, ordinary, samples, static_cast<int>(culling));
          Frame frame;
          frame.own_glsl = own_glsl;
          frame.samples = samples;
          frame.forward.culling = culling;
          if (ordinary) {
            frame.forward.view = "ordinary";
            frame.clear_depth = 1;
          }
          frame.add_all();
          const Image fused = frame.picture(device, true), apart = frame.picture(device, false);
          CHECK(worst_difference(fused, apart) < 1e-6);
          // The sky is there at the top, alone, and behind the glass at the right of the crate.
          CHECK(fused.at(2, 2)[3] == Approx(own_glsl ? 0.75 : 1));
          CHECK(fused.at(2, 2)[2] == Approx(own_glsl ? 0.48 : 1));
          CHECK(fused.at(size / 2 - 8, size / 2)[0] != fused.at(2, 2)[0]);
        }
      }
    }
  }
}

TEST_CASE("a sky is drawn by itself where it can't be drawn behind surfaces, or somebody looks at it") {
  const auto passes_of = [](auto change, auto add) {
    Frame frame;
    change(frame);
    frame.add_targets();
    add(frame);
    return frame.passes();
  };
  const auto as_it_is = [](Frame&) {};
  const auto sky_and_things = [](Frame& frame) {
    frame.add_sky();
    frame.graph.add(passes::forward(frame.forward));
  };
  CHECK(passes_of(as_it_is, sky_and_things) == 1);
  // Depth that is not cleared to the far end hides what lies there.
  CHECK(passes_of([](Frame& frame) { frame.clear_depth = 0.5f; }, sky_and_things) == 2);
  // Nor is it known without depth, or with depth that another pass drew.
  CHECK(passes_of(as_it_is, [](Frame& frame) {
          frame.forward.depth = {};
          frame.add_sky();
          frame.graph.add(passes::forward(frame.forward));
        }) == 2);
  CHECK(passes_of(as_it_is, [&](Frame& frame) {
          frame.forward.surfaces = Surfaces::blended;
          sky_and_things(frame);
        }) == 2);
  CHECK(passes_of(as_it_is, [&](Frame& frame) {
          sky_and_things(frame);
          frame.forward.name = "again";
          frame.graph.add(passes::forward(frame.forward));
        }) == 2);  // the first alone has it behind
  // Somebody reads the sky alone.
  CHECK(passes_of(as_it_is, [](Frame& frame) {
          const TargetHandle copy = frame.graph.target("copy", {.format = Format::rgba32f});
          frame.graph.keep(copy);
          frame.add_sky();
          frame.graph.add(passes::fullscreen(
              {.name = "look",
               .shader = gl::ShaderText::from_text(
                   "look",
                   "#include \"periscena/fullscreen.glsl\"\nuniform sampler2D sky;\nlayout(location = 0) out vec4 "
                   "color;\nvoid main() { color = texture(sky, uv); }\n",
                   passes::pass_shaders()),
               .reads = {{.slot = "sky", .target = frame.color}},
               .writes = {{.slot = "color", .target = copy}}}));
          frame.graph.add(passes::forward(frame.forward));
        }) == 3);
  // GLSL that leaves pixels out shows what the target was cleared to, as before.
  CHECK(passes_of(
            [](Frame& frame) {
              frame.own_glsl = true;
              frame.glsl += "void leave() { discard; }\n";
            },
            sky_and_things) == 2);
  // A pass in between that has to do with neither is in nobody's way.
  CHECK(passes_of(as_it_is, [](Frame& frame) {
          const TargetHandle other = frame.graph.target("other", {.format = Format::rgba32f});
          frame.graph.keep(other);
          frame.add_sky();
          frame.graph.add(passes::sky(
              {.name = "elsewhere", .scene = frame.scene, .view = "front", .environment = "dusk", .color = other}));
          frame.graph.add(passes::forward(frame.forward));
        }) == 2);
}
