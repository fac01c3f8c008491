#include "gl/device.h"
#include "passes/white_things.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/math/light_fit.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/shadow_map.h>
#include <periscena/scene/ray_tree.h>

#include <epoxy/gl.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int width = 160, height = 90;
constexpr float reach = 40;

/// A long path with posts and balls beside it, seen from one end.
struct Avenue {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  Camera camera;
  Vec3 sun = Vec3(0.6f, -1, -0.35f).normalized();

  Avenue() {
    camera.eye = {0, 1.7f, 12};
    camera.target = {0.4f, 1.2f, 0};
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = sun}});
    scene->add_material({.name = "white", .base_color = Vec3::ones()});
    show("ground", shapes::plane(120, 120), Vec3::zero());
    for (int i = 0; i < 12; ++i) {
      const float z = 9 - 4 * static_cast<float>(i);
      show("post " + std::to_string(i), shapes::box({1.2f, 2.4f, 0.8f}), {-2.5f, 1.2f, z});
      show("ball " + std::to_string(i), shapes::sphere(0.9f, 48), {2.0f, 1.1f, z - 2});
    }
  }

  void show(const std::string& name, Mesh mesh, const Vec3& at) { show_white(*scene, name, std::move(mesh), at); }

  FrameGraph frame(const passes::ShadowMap& options, int layers, int map_size) const {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    frame.keep(color);
    frame.target("map", {.format = Format::depth32f,
                         .size = TargetSize::pixels(map_size, map_size),
                         .layers = std::max(1, layers),
                         .shape = layers > 0 ? TargetShape::array : TargetShape::flat});
    passes::Forward lit{.scene = scene, .view = "front", .color = color};
    lit.depth = frame.target("depth", {.format = Format::depth32f});
    if (layers > 0) {
      passes::ShadowMap shadow = options;
      shadow.scene = scene;
      shadow.light = "sun";
      shadow.view = "front";
      shadow.reach = reach;
      shadow.depth = "map";
      frame.add(passes::shadow_map(shadow));
      lit.shadows = {"map"};
    }
    frame.add(passes::forward(lit));
    return frame;
  }

  Image render(gl::Device& device, const passes::ShadowMap& options, int layers, int map_size) const {
    gl::FrameRunner runner(device, frame(options, layers, map_size).plan(width, height, device.limits()).value());
    runner.run(0);
    return runner.read("color");
  }
};

/// What rays say of each pixel's middle.
struct Truth {
  bool counts = false;  ///< is something there that faces the sun, away from the edges of shadows?
  bool lit = false;
  float distance = 0;  ///< along the view, metres
};

/// @param texel_at  metres that a map's texel is wide, by distance along the view
template <class TexelAt>
std::vector<Truth> cast_rays(const Avenue& avenue, float away, const TexelAt& texel_at) {
  const RayTree tree(world_triangles(*avenue.scene, 0));
  const Camera& camera = avenue.camera;
  const Mat4 projection = camera.projection(static_cast<float>(width) / height).matrix();
  const Transform to_world = camera.view().inverse();
  const Vec3 to_sun = -avenue.sun;
  std::vector<Truth> truths(width * height);
  for (int i = 0; i < width * height; ++i) {
    const auto across = [](int at, int count) {
      return 2 * (static_cast<float>(at) + 0.5f) / static_cast<float>(count) - 1;
    };
    const Vec3 seen(across(i % width, width) / projection(0, 0), -across(i / width, height) / projection(1, 1), -1);
    const auto hit = tree.nearest({camera.eye, to_world.apply_to_direction(seen)});
    if (!hit) continue;
    const Triangle& t = tree.triangles()[hit->triangle];
    const Vec3 at = camera.eye + hit->distance * to_world.apply_to_direction(seen);
    const Vec3 normal = (t.b - t.a).cross(t.c - t.a).normalized();
    Truth& truth = truths[static_cast<std::size_t>(i)];
    truth.distance = hit->distance;
    const auto lit_at = [&](const Vec3& point) { return !tree.blocked({point + 2e-3f * normal, to_sun}); };
    truth.lit = lit_at(at);
    truth.counts = normal.dot(to_sun) > 0.1f;
    // Around it, across the light: what a texel of the map takes in there.
    const Vec3 right = to_sun.cross(Vec3::unit_x()).normalized(), up = to_sun.cross(right);
    const float texel = texel_at(truth.distance);
    for (int k = 0; k < 16 && truth.counts; ++k) {
      const float angle = static_cast<float>(k) * 0.3926991f;
      for (const float share : {0.25f, 0.5f, 0.75f, 1.0f}) {
        const Vec3 aside = share * away * texel * (std::cos(angle) * right + std::sin(angle) * up);
        // Along the light, back onto the surface.
        const Vec3 moved = at + aside - to_sun * (normal.dot(aside) / normal.dot(to_sun));
        truth.counts = truth.counts && lit_at(moved) == truth.lit;
      }
    }
  }
  return truths;
}

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "cascades shadow what the rays say: nothing leaks, nothing shadows itself, however many parts") {
  const Avenue avenue;
  const Image open = avenue.render(device, {}, 0, 1);
  for (const auto& [cascades, map_size, radius] :
       {std::tuple(1, 1024, 1), {2, 512, 2}, {3, 512, 1}, {4, 512, 4}, {4, 256, 1}}) {
    INFO(cascades << " of " << map_size << ", radius " << radius);
    passes::ShadowMap options;
    options.cascades = cascades;
    options.radius = static_cast<float>(radius);
    const Image found = avenue.render(device, options, cascades, map_size);
    auto splits = split_view(reach / 100, reach, cascades, options.split_weight);
    splits[0] = avenue.camera.near;
    const auto texel_at = [&, n = cascades, m = map_size, r = radius](float distance) {
      int part = 0;
      while (part + 1 < n && distance > 0.9f * splits[static_cast<std::size_t>(part) + 1]) ++part;
      const Sphere ball = view_part(avenue.camera, static_cast<float>(width) / height,
                                    splits[static_cast<std::size_t>(part)], splits[static_cast<std::size_t>(part) + 1]);
      return 2 * ball.radius / static_cast<float>(m - 2 * (r + 3));
    };
    // The filter reaches two texels and its radius, and points are lifted by up to 1.6.
    const auto truths = cast_rays(avenue, 3.6f + static_cast<float>(radius), texel_at);
    int lit = 0, dark = 0, leaks = 0, stripes = 0;
    for (int i = 0; i < width * height; ++i) {
      const Truth& truth = truths[static_cast<std::size_t>(i)];
      // Beyond nine tenths of the reach, shadows fade.
      if (!truth.counts || truth.distance > 0.7f * reach) continue;
      const double share = found.at(i % width, i / width)[0] / open.at(i % width, i / width)[0];
      ++(truth.lit ? lit : dark);
      leaks += !truth.lit && share > 0.01;
      stripes += truth.lit && share < 0.99;
    }
    CHECK(lit > 3000);
    CHECK(dark > (map_size > 256 ? 200 : 20));
    CHECK(leaks * 200 <= lit + dark);
    CHECK(stripes * 1000 <= lit + dark);
  }
}

TEST_CASE_METHOD(TestDevice,
                 "layers of cascades are drawn in one pass by a call each, and each as if it were drawn alone") {
  const Avenue avenue;
  passes::ShadowMap options;
  options.cascades = 3;
  options.batching = batch::Batching::unmerged;
  FrameGraph frame = avenue.frame(options, 3, 128);
  frame.keep("map");
  gl::FrameRunner runner(device, frame.plan(width, height, device.limits()).value());
  runner.run(0);
  CHECK(runner.counts(0).draw_calls == 3);
  const auto splits = split_view(reach / 100, reach, 3, options.split_weight);
  const RayTree tree(world_triangles(*avenue.scene, 0));
  std::vector<Sphere> balls;
  for (const Node& node : avenue.scene->nodes()) {
    const Mesh& mesh = avenue.scene->meshes()[node.mesh.index];
    float farthest = 0;
    for (const Vec3& position : mesh.positions)
      farthest = std::max(farthest, (position - mesh.bounds().center()).norm());
    balls.push_back(Sphere{mesh.bounds().center(), farthest}.transformed(node.placement));
  }
  for (int layer = 0; layer < 3; ++layer) {
    INFO("layer " << layer);
    const Image map = runner.read("map", {.layer = layer});
    const auto at = static_cast<std::size_t>(layer);
    const Sphere part = view_part(avenue.camera, static_cast<float>(width) / height,
                                  layer == 0 ? avenue.camera.near : splits[at], splits[at + 1]);
    const Camera light = fit_steady(avenue.sun, part, balls, 128, 3);
    const float texel = light.parallel_height / 128;
    const Transform to_world = light.view().inverse();
    int wrong = 0, covered = 0;
    for (int y = 0; y < 128; ++y) {
      for (int x = 0; x < 128; ++x) {
        const Vec3 start((static_cast<float>(x) - 63.5f) * texel, (63.5f - static_cast<float>(y)) * texel, 0);
        const auto hit = tree.nearest({to_world.apply_to_point(start), avenue.sun});
        const float distance = light.projection(1).distance_at(static_cast<float>(map.at(x, y)[0]));
        const bool nothing = map.at(x, y)[0] == 0;
        covered += !nothing;
        // Texels on an object's edge may go either way.
        wrong += nothing != !(hit && hit->distance < light.far) ||
                 (hit && !nothing && std::abs(distance - hit->distance) > 0.02f);
      }
    }
    CHECK(covered > 12000);
    CHECK(wrong < 128 * 128 / 100);
  }
}

TEST_CASE_METHOD(TestDevice, "cascades that can't be are told") {
  const Avenue avenue;
  const auto slugs = [&](passes::ShadowMap options) {
    options.scene = avenue.scene;
    options.light = "sun";
    options.depth = "map";
    std::string found;
    for (const Diagnostic& diagnostic : passes::shadow_map(options).problems) found += diagnostic.slug + " ";
    return found;
  };
  CHECK(slugs({}).empty());
  CHECK(slugs({.cascades = 2}) == "unknown-view ");
  CHECK(slugs({.cascades = 2, .view = "frnt"}) == "unknown-view ");
  CHECK(slugs({.cascades = 5, .view = "front"}) == "out-of-range ");
  CHECK(slugs({.cascades = 2, .view = "front", .reach = 0}) == "out-of-range ");
  CHECK(slugs({.cascades = 2, .view = "front", .split_weight = NAN}) == "not-finite ");
  CHECK(slugs({.radius = 1.5f}) == "bad-shadow ");
  CHECK(slugs({.filter = ShadowFilter::disc, .radius = 100}) == "out-of-range ");
  CHECK(slugs({.bias = INFINITY}) == "not-finite ");
  CHECK(slugs({.normal_bias = NAN}) == "not-finite ");
  const auto planned = [&](const passes::ShadowMap& options, int layers, int map_size) {
    std::string found;
    for (const Diagnostic& diagnostic : avenue.frame(options, layers, map_size).plan(width, height).diagnostics())
      found += diagnostic.slug + " ";
    return found;
  };
  passes::ShadowMap options;
  options.cascades = 2;
  CHECK(planned(options, 2, 64).empty());
  CHECK(planned(options, 3, 64) == "cascade-layers ");
  options.filter = ShadowFilter::disc;
  options.radius = 64;
  CHECK(planned(options, 2, 256) == "bad-shadow ");
  // One cascade needs no array.
  options = {};
  options.cascades = 1;
  FrameGraph flat = avenue.frame(options, 1, 64);
  CHECK(flat.plan(width, height).ok());
}

namespace {

PFNGLGETSTRINGIPROC get_string = nullptr;

}  // namespace

TEST_CASE_METHOD(TestDevice, "a device whose vertex programs can't choose layers says so, and draws one map") {
  glGetStringi(GL_EXTENSIONS, 0);  // an entry point replaces itself by the driver's when it is first called
  get_string = epoxy_glGetStringi;
  epoxy_glGetStringi = [](GLenum what, GLuint index) {
    const GLubyte* name = get_string(what, index);
    const bool hidden = what == GL_EXTENSIONS &&
                        std::string_view(reinterpret_cast<const char*>(name)) == "GL_ARB_shader_viewport_layer_array";
    return hidden ? reinterpret_cast<const GLubyte*>("GL_hidden") : name;
  };
  {
    gl::Device lesser = gl::Device::headless();
    REQUIRE_FALSE(lesser.capabilities().vertex_layers);
    const Avenue avenue;
    passes::ShadowMap options;
    options.cascades = 2;
    CHECK(thrown_slug([&] { avenue.render(lesser, options, 2, 64); }) == "no-vertex-layers");
  }
  epoxy_glGetStringi = get_string;
}
