#include "gl/device.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/image/statistics.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/geometry.h>
#include <periscena/passes/tone_map.h>

#include <fmt/format.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int width = 160, height = 120, finer = 8;

/// Bars before balls, at all angles, bright before dark, in the light of a sun and of ten lamps.
struct Fence {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  Fence() {
    Camera camera;
    camera.eye = {0.5f, 2, 9};
    camera.target = {0, 0.8f, 0};
    camera.far = 60;
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 6, .direction = {-0.5f, -1, -0.6f}}});
    for (int i = 0; i < 10; ++i) {
      scene->add_light(
          Light{.name = fmt::format("lamp {}", i),
                .kind = PointLight{.intensity = 12, .position = {static_cast<float>(i) - 5, 1.5f, 1}, .range = 3},
                .color = {1, 0.3f + 0.07f * static_cast<float>(i), 0.3f}});
    }
    scene->add_light(AmbientLight{.name = "sky", .sky = {0.3f, 0.35f, 0.4f}, .ground = {0.1f, 0.1f, 0.1f}});
    show("floor", shapes::plane(30, 30), {.name = "floor", .base_color = {0.3f, 0.35f, 0.3f}},
         Transform::translate(Vec3(0, 0, -8)));
    for (int i = 0; i < 9; ++i) {
      const float x = 0.9f * static_cast<float>(i) - 3.6f;
      const bool bright = i % 2 == 0;
      show(fmt::format("bar {}", i), shapes::box({0.16f, 2.6f, 0.1f}),
           {.name = fmt::format("paint {}", i),
            .base_color = bright ? Vec3(0.95f, 0.95f, 0.9f) : Vec3(0.03f, 0.02f, 0.05f)},
           rotate(Vec3::unit_z(), 0.17f * static_cast<float>(i - 4)).then(Transform::translate(Vec3(x, 1.2f, 1.5f))));
      show(fmt::format("ball {}", i), shapes::sphere(0.6f, 32),
           {.name = fmt::format("brass {}", i), .base_color = {0.9f, 0.6f, 0.2f}, .metallic = 1, .roughness = 0.35f},
           Transform::translate(Vec3(x, 0.6f, -1)));
    }
  }

  void show(const std::string& name, Mesh mesh, const Material& material, const Transform& at) {
    Node node;
    node.name = name;
    node.mesh = scene->add_mesh(name, std::move(mesh));
    node.material = scene->add_material(material);
    node.placement = at;
    scene->add_node(node);
  }

  passes::Geometry geometry(FrameGraph& frame, int samples) const {
    passes::Geometry buffer;
    buffer.scene = scene;
    buffer.view = "front";
    buffer.normal = frame.target("normal", {.format = Format::rgba16, .samples = samples});
    buffer.base_color = frame.target("base_color", {.format = Format::rgba16, .samples = samples});
    buffer.material = frame.target("material", {.format = Format::rgba16, .samples = samples});
    buffer.depth = frame.target("depth", {.format = Format::depth32f, .samples = samples});
    return buffer;
  }

  passes::Deferred lighting(const passes::Geometry& buffer, TargetHandle into, batch::LightBounds bounds) const {
    passes::Deferred light{.scene = scene, .view = "front"};
    light.light_bounds = bounds;
    light.depth = buffer.depth;
    light.normal = buffer.normal;
    light.base_color = buffer.base_color;
    light.material = buffer.material;
    light.color = into;
    return light;
  }

  /// Exposed, and linear.
  Image deferred(gl::Device& device, int samples, batch::LightBounds bounds, bool every_sample = false) const {
    FrameGraph frame;
    const passes::Geometry buffer = geometry(frame, samples);
    const TargetHandle light = frame.target("light", {.format = Format::rgba32f, .samples = samples});
    frame.add(passes::geometry(buffer));
    passes::Deferred lit = lighting(buffer, light, bounds);
    lit.every_sample = every_sample;
    frame.add(passes::deferred(lit));
    return develop(device, frame, light, samples, 1);
  }

  Image forward(gl::Device& device, int samples, int scale) const {
    FrameGraph frame;
    const TargetHandle light = frame.target("light", {.format = Format::rgba32f, .samples = samples});
    passes::Forward options{.scene = scene, .view = "front"};
    options.light_bounds = batch::LightBounds::none;
    options.color = light;
    options.depth = frame.target("depth", {.format = Format::depth32f, .samples = samples});
    frame.add(passes::forward(options));
    return develop(device, frame, light, samples, scale);
  }

  static Image develop(gl::Device& device, FrameGraph& frame, TargetHandle light, int samples, int scale) {
    const TargetHandle picture = frame.target("picture", {.format = Format::rgba32f});
    frame.keep(picture);
    passes::ToneMap tone{.exposure_ev100 = 0};
    tone.each_sample = samples > 1;
    tone.light = light;
    tone.color = picture;
    frame.add(passes::tone_map(tone));
    gl::FrameRunner runner(device, frame.plan(width * scale, height * scale, device.limits()).value());
    runner.run(0);
    return runner.read("picture");
  }
};

Image smaller(const Image& large) {
  Image small(width, height, Format::rgba32f);
  auto* into = reinterpret_cast<float*>(small.bytes().data());
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      std::array<double, 4> sum{};
      for (int k = 0; k < finer * finer; ++k) {
        const auto from = large.at(finer * x + k % finer, finer * y + k / finer);
        for (std::size_t c = 0; c < 4; ++c) sum[c] += static_cast<double>(from[c]) / (finer * finer);
      }
      for (const double value : sum) *into++ = static_cast<float>(value);
    }
  }
  return small;
}

/// Pixels that are brighter than all that the reference has around them.
int speckles(const Image& picture, const Image& reference) {
  int found = 0;
  for (int y = 1; y < height - 1; ++y) {
    for (int x = 1; x < width - 1; ++x) {
      for (std::size_t c = 0; c < 3; ++c) {
        double most = 0;
        for (int k = 0; k < 9; ++k) most = std::max(most, reference.at(x + k % 3 - 1, y + k / 3 - 1)[c]);
        if (picture.at(x, y)[c] > most + 0.03) {
          ++found;
          break;
        }
      }
    }
  }
  return found;
}

}  // namespace

TEST_CASE_METHOD(
    TestDevice,
    "edges lit by samples come as near to sixty-four samples as multisampled forward does, without speckles") {
  const Fence fence;
  const Image reference = smaller(fence.forward(device, 1, finer));
  const Image forward = fence.forward(device, 4, 1);
  const double by_forward = compare(reference, forward).rmse;
  const double by_one = compare(reference, fence.deferred(device, 1, batch::LightBounds::none)).rmse;
  for (const auto bounds : {batch::LightBounds::none, batch::LightBounds::tiles, batch::LightBounds::quads}) {
    const Image clean = fence.deferred(device, 4, bounds);
    const double ours = compare(reference, clean).rmse;
    INFO("bounds " << static_cast<int>(bounds) << ": " << ours << ", forward with four samples " << by_forward
                   << ", one sample " << by_one);
    CHECK(ours <= by_forward * 1.02);
    CHECK(by_one > 1.5 * ours);
    CHECK(speckles(clean, reference) <= speckles(forward, reference));
    // Where one surface is, its samples see next to the same light.
    CHECK(compare(clean, fence.deferred(device, 4, bounds, true)).rmse < 0.003);
  }
}

TEST_CASE_METHOD(TestDevice, "samples that all see one surface are lit once, and give what one sample gives") {
  // Straight down on a plane that fills the picture: no edges.
  auto scene = std::make_shared<Scene>();
  scene->add_view({"down", {.eye = {0, 5, 0}, .target = {0, 0, 0}, .up = {0, 0, -1}}});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0, -1, 0}}});
  Node node;
  node.name = "plane";
  node.mesh = scene->add_mesh("plane", shapes::plane(50, 50));
  node.material = scene->add_material({.name = "grey", .base_color = {0.5f, 0.5f, 0.5f}});
  scene->add_node(node);
  FrameGraph frame;
  const auto light = [&](int samples) {
    const auto name = [&](const char* what) { return fmt::format("{} of {}", what, samples); };
    passes::Geometry buffer{.name = name("surfaces"), .scene = scene, .view = "down"};
    buffer.normal = frame.target(name("normal"), {.format = Format::rgba16, .samples = samples});
    buffer.base_color = frame.target(name("base_color"), {.format = Format::rgba8, .samples = samples});
    buffer.material = frame.target(name("material"), {.format = Format::rgba8, .samples = samples});
    buffer.depth = frame.target(name("depth"), {.format = Format::depth32f, .samples = samples});
    frame.add(passes::geometry(buffer));
    passes::Deferred deferred{.name = name("light"), .scene = scene, .view = "down"};
    deferred.depth = buffer.depth;
    deferred.normal = buffer.normal;
    deferred.base_color = buffer.base_color;
    deferred.material = buffer.material;
    deferred.color = frame.target(name("color"), {.format = Format::rgba32f, .samples = samples});
    frame.keep(deferred.color);
    frame.add(passes::deferred(deferred));
  };
  light(1);
  light(4);
  gl::FrameRunner runner(device, frame.plan(64, 48, device.limits()).value());
  runner.run(0);
  CHECK(compare(runner.read("color of 1"), runner.read("color of 4")).rmse < 1e-4);
  CHECK(runner.read("color of 4").at(32, 24)[0] > 0.1f);
}

TEST_CASE("samples of a geometry buffer are neither averaged nor lost") {
  const Fence fence;
  {
    FrameGraph frame;
    const passes::Geometry buffer = fence.geometry(frame, 4);
    const TargetHandle light = frame.target("light", {.format = Format::rgba16f});
    frame.keep(light);
    frame.add(passes::geometry(buffer));
    frame.add(passes::deferred(fence.lighting(buffer, light, batch::LightBounds::none)));
    const std::string said = to_text(frame.plan(64, 48).diagnostics());
    CHECK_THAT(said, Catch::Contains("edge-samples") && Catch::Contains("samples = 4"));
    CHECK(said.find("edge-samples") == said.rfind("edge-samples"));  // once, not for each part
  }
  FrameGraph frame;
  const passes::Geometry buffer = fence.geometry(frame, 4);
  frame.add(passes::geometry(buffer));
  passes::Fullscreen look{.name = "look"};
  look.shader = gl::ShaderText::from_text(
      "look.frag",
      "#include \"periscena/fullscreen.glsl\"\nuniform sampler2D normal;\nout vec4 color;\nvoid "
      "main() { color = texture(normal, uv); }\n",
      passes::pass_shaders());
  look.reads = {{"normal", buffer.normal}};
  look.writes = {{"color", frame.output()}};
  frame.add(passes::fullscreen(look));
  CHECK_THAT(to_text(frame.plan(64, 48).diagnostics()),
             Catch::Contains("averaged-geometry") && Catch::Contains("means of normals"));
}

TEST_CASE_METHOD(TestDevice, "edges are found in pictures as tall as the device takes") {
  const Fence fence;
  FrameGraph frame;
  const passes::Geometry buffer = fence.geometry(frame, 4);
  const TargetHandle light = frame.target("light", {.format = Format::rgba16f, .samples = 4});
  frame.keep(light);
  frame.add(passes::geometry(buffer));
  frame.add(passes::deferred(fence.lighting(buffer, light, batch::LightBounds::tiles)));
  const int tall = device.limits().largest_size;
  gl::FrameRunner runner(device, frame.plan(8, tall, device.limits()).value());
  runner.run(0);
  CHECK(runner.read("light").height() == tall);
}
