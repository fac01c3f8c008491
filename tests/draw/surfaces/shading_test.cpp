#include "draw/lights/lighting.h"
#include "passes/rendering.h"

#include <periscena/image/color.h>
#include <periscena/passes/sky.h>
#include <periscena/passes/tone_map.h>
#include <periscena/scene/shading.h>

#include <cmath>
#include <cstring>
#include <new>
#include <random>

using namespace periscena;

namespace {

constexpr int size = 96;

/// A sphere of radius 1 at the origin, seen in perspective from +Z.
struct Stage {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  MeshHandle ball = scene->add_mesh("ball", shapes::sphere(1, 768));
  Camera camera;

  Stage() {
    camera.eye = {0, 0, 4};
    camera.fov_y = radians(36);
    scene->add_view({"front", camera});
  }

  void show(Material material) {
    Node node;
    node.mesh = ball;
    node.material = scene->add_material(std::move(material));
    scene->add_node(node);
  }

  /// Where the ray through a pixel's middle meets the sphere; the normal is the same there. Nothing when it misses.
  std::optional<Vec3> hit(int x, int y) const {
    const float extent = std::tan(camera.fov_y / 2);
    const Vec3 ray = Vec3((2 * (static_cast<float>(x) + 0.5f) / size - 1) * extent,
                          (1 - 2 * (static_cast<float>(y) + 0.5f) / size) * extent, -1)
                         .normalized();
    const float b = camera.eye.dot(ray), c = camera.eye.squared_norm() - 1;
    if (b * b - c < 0) return std::nullopt;
    return camera.eye + ray * (-b - std::sqrt(b * b - c));
  }

  Image render(gl::Device& device, const passes::Forward& options) const {
    return render_front(device, scene, size, options);
  }
};

Surface surface_of(const Material& material, const Vec3& normal) {
  Surface surface;
  surface.base_color = material.base_color;
  surface.metallic = material.metallic;
  surface.roughness = material.roughness;
  surface.specular = material.specular;
  surface.shininess = material.shininess;
  surface.normal = normal;
  return surface;
}

/// lux on a surface that faces the light.
Vec3 light_at(const Light& light, const Vec3& point, Vec3& to_light) {
  const Vec3 way = light.way_from(point);
  to_light = way.normalized();
  if (light.is_directional()) return light.color * light.strength();
  float falloff = light_falloff(way.norm(), light.range());
  if (const SpotLight* spot = light.spot())
    falloff *= spot_falloff(-to_light.dot(spot->direction.normalized()), spot->inner_cone, spot->outer_cone);
  return light.color * light.strength() * falloff;
}

std::shared_ptr<const Image> constant_sky(const Vec3& light) {
  Image image(64, 32, Format::rgba32f);
  for (int y = 0; y < 32; ++y) {
    for (int x = 0; x < 64; ++x) image.set(x, y, {light.x(), light.y(), light.z(), 1});
  }
  return std::make_shared<const Image>(std::move(image));
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "the GPU shades as the same formulas do on the CPU, for all lights and materials") {
  const std::vector<Light> lights{
      {.name = "sun",
       .kind = DirectionalLight{.illuminance = 3, .direction = {-0.5f, -0.3f, -0.8f}},
       .color = {1, 0.8f, 0.6f}},
      {.name = "lamp", .kind = PointLight{.intensity = 20, .position = {1.5f, 1, 2}, .range = 6}},
      {.name = "torch",
       .kind = SpotLight{.intensity = 30,
                         .position = {-1, 2, 3},
                         .direction = {0.3f, -0.6f, -1},
                         .inner_cone = radians(10),
                         .outer_cone = radians(25)},
       .color = {0.2f, 0.5f, 1}}};
  std::vector<Material> materials;
  for (const float metallic : {0.0f, 0.5f, 1.0f}) {
    for (const float roughness : {0.2f, 0.5f, 1.0f})
      materials.push_back(
          {.name = "m", .base_color = {0.9f, 0.5f, 0.2f}, .metallic = metallic, .roughness = roughness});
  }
  materials.push_back({.name = "m",
                       .shading = Material::Shading::blinn_phong,
                       .base_color = {0.3f, 0.4f, 0.5f},
                       .specular = {0.5f, 0.4f, 0.3f},
                       .shininess = 20});
  for (const Material& material : materials) {
    Stage stage;
    stage.show(material);
    for (const Light& light : lights) stage.scene->add_light(light);
    const Image image = stage.render(device, {});
    int compared = 0;
    float largest = 0;
    for (int y = 0; y < size; y += 3) {
      for (int x = 0; x < size; x += 3) {
        const auto normal = stage.hit(x, y);
        // Near the outline the mesh's flat triangles are no sphere.
        const Vec3 to_eye = normal ? (stage.camera.eye - *normal).normalized() : Vec3::zero();
        if (!normal || normal->dot(to_eye) < 0.2f) continue;
        Vec3 expected = Vec3::zero();
        for (const Light& light : lights) {
          Vec3 to_light;
          const Vec3 lux = light_at(light, *normal, to_light);
          const Surface surface = surface_of(material, *normal);
          const Vec3 share = material.shading == Material::Shading::blinn_phong
                                 ? blinn_phong_brdf(surface, to_light, to_eye)
                                 : metallic_roughness_brdf(surface, to_light, to_eye);
          expected += share.times(lux) * std::max(0.0f, normal->dot(to_light));
        }
        largest = std::max(largest, (rgb(image, x, y) - expected).abs().largest() / (1 + expected.largest()));
        ++compared;
      }
    }
    INFO("metallic " << material.metallic << ", roughness " << material.roughness);
    REQUIRE(compared > 300);
    REQUIRE(largest < 1e-3f);
  }
}

TEST_CASE_METHOD(TestDevice, "under a constant sky, a surface sends back what the split sum says, and not more") {
  constexpr int rows = 64;
  const std::vector<Vec2> table = split_sum_table(rows);
  for (const float roughness : {0.0f, 0.4f, 1.0f}) {
    for (const float metallic : {0.0f, 1.0f}) {
      Stage stage;
      stage.show({.name = "white", .base_color = Vec3::ones(), .metallic = metallic, .roughness = roughness});
      stage.scene->add_environment({"furnace", {constant_sky(Vec3::constant(1))}, 0.7f, 2});
      const Image image = stage.render(device, {.environment = "furnace"});
      INFO("roughness " << roughness << ", metallic " << metallic);
      for (int y = 8; y < size; y += 8) {
        for (int x = 8; x < size; x += 8) {
          const auto normal = stage.hit(x, y);
          const float n_dot_v = normal ? normal->dot((stage.camera.eye - *normal).normalized()) : 0;
          if (n_dot_v < 0.25f) continue;
          const int row = std::min(rows - 1, static_cast<int>(roughness * rows)),
                    column = std::min(rows - 1, static_cast<int>(n_dot_v * rows));
          const Vec2 split = table[static_cast<std::size_t>(row * rows + column)];
          // A white metal loses what single scattering loses; a white dielectric lets in the rest and sends it back.
          const float expected = metallic > 0 ? split.x() + split.y() : 1;
          const float seen = rgb(image, x, y).x() / 2;
          REQUIRE(seen < 1.001f);
          REQUIRE(seen == Approx(expected).margin(0.012));
        }
      }
    }
  }
}

TEST_CASE_METHOD(TestDevice, "the sky is drawn as its images have it, turned and scaled, blurred, it is smoother") {
  auto scene = std::make_shared<Scene>();
  Image image(256, 128, Format::rgba32f);
  for (int y = 0; y < 128; ++y) {
    for (int x = 0; x < 256; ++x) image.set(x, y, {x >= 120 && x < 136 ? 1.0 : 0.0, y < 64 ? 1.0 : 0.0, 0.25, 1});
  }
  scene->add_environment({"plain", {std::make_shared<const Image>(image)}, 0, 3});
  scene->add_environment({"turned", {std::make_shared<const Image>(image)}, radians(90), 3});
  Camera camera;
  camera.eye = Vec3::zero();
  camera.target = {0, 0, -1};
  camera.fov_y = radians(90);
  scene->add_view({"ahead", camera});
  camera.target = {-1, 0, 0};
  scene->add_view({"left", camera});
  const auto render = [&](Reference view, Reference environment, float blur) {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::rgba32f});
    frame.keep(color);
    frame.add(passes::sky({.scene = scene,
                           .view = std::move(view),
                           .environment = std::move(environment),
                           .blur = blur,
                           .color = color}));
    gl::FrameRunner runner(device, frame.plan(size, size, device.limits()).value());
    runner.run(0);
    return runner.read("color");
  };
  const Image ahead = render("ahead", "plain", 0);
  REQUIRE(rgb(ahead, 48, 20).is_near(Vec3(3, 3, 0.75f), 1e-2f));
  REQUIRE(rgb(ahead, 48, 76).is_near(Vec3(3, 0, 0.75f), 1e-2f));
  REQUIRE(rgb(ahead, 8, 20).x() < 0.01f);
  // Turned counter-clockwise by a quarter, what was ahead is to the left.
  REQUIRE(rgb(render("left", "turned", 0), 48, 20).is_near(Vec3(3, 3, 0.75f), 1e-2f));
  REQUIRE(rgb(render("ahead", "turned", 0), 48, 20).x() < 0.01f);
  const Image blurred = render("ahead", "plain", 1);
  REQUIRE(rgb(blurred, 48, 20).x() < 1.5f);
  REQUIRE(rgb(blurred, 48, 46).y() == Approx(1.5).margin(0.4));
}

TEST_CASE_METHOD(TestDevice, "fog takes light and gives its own, as the formulas on the CPU do") {
  for (const Fog& fog :
       {Fog{"f", Fog::Kind::linear, {1, 2, 3}, 1, 6}, Fog{"f", Fog::Kind::exponential, {1, 2, 3}, 0, 0, 0.3f},
        Fog{"f", Fog::Kind::exponential_squared, {1, 2, 3}, 0, 0, 0.3f},
        Fog{"f", Fog::Kind::exponential, {1, 2, 3}, 0, 0, 0.3f, 1.5f, -1}}) {
    Stage stage;
    stage.show({.name = "glow", .shading = Material::Shading::unlit, .base_color = {1, 0.5f, 0.25f}});
    stage.scene->add_fog(fog);
    const Image image = stage.render(device, {.fog = "f"});
    for (int y = 12; y < size; y += 12) {
      for (int x = 12; x < size; x += 12) {
        const auto point = stage.hit(x, y);
        if (!point || point->dot((stage.camera.eye - *point).normalized()) < 0.2f) continue;
        const float through = fog.transmittance(stage.camera.eye, *point);
        const Vec3 expected = fog.color + through * (Vec3(1, 0.5f, 0.25f) - fog.color);
        REQUIRE((rgb(image, x, y) - expected).abs().largest() < 1e-3f);
      }
    }
  }
}

TEST_CASE_METHOD(TestDevice, "the tone curves on the GPU are those on the CPU, and sRGB's 256 values come through") {
  auto scene = std::make_shared<Scene>();
  Image strip(256, 1, Format::rgba32f);
  for (int x = 0; x < 256; ++x) {
    const double light = srgb_to_linear(x / 255.0);
    strip.set(x, 0, {light, 4 * light, 40 * light, 1});
  }
  gl::Texture source(256, 1, Format::rgba32f, "strip");
  source.upload(strip);
  for (std::size_t i = 0; i < passes::choices_of(passes::ToneCurve{}).size(); ++i) {
    const auto curve = static_cast<passes::ToneCurve>(i);
    INFO(passes::choices_of(curve)[i]);
    FrameGraph frame;
    const TargetHandle light = frame.target("light", {.format = Format::rgba32f, .origin = Origin::outside_texture});
    frame.add(passes::tone_map(
        {.exposure_ev100 = -std::log2(1.2f), .curve = curve, .light = light, .color = frame.output()}));
    gl::FrameRunner runner(device, frame.plan(256, 1, device.limits()).value(),
                           {{.target = "light", .name = source.name()}});
    runner.run(0);
    const Image output = runner.read("output");
    for (int x = 0; x < 256; ++x) {
      const auto pixel = output.at(x, 0);
      if (curve == passes::ToneCurve::clip) REQUIRE(pixel[0] == x);
      const auto from = strip.at(x, 0);
      const Vec3 exact = passes::tone_curve(
          curve, Vec3(static_cast<float>(from[0]), static_cast<float>(from[1]), static_cast<float>(from[2])), 4);
      for (int k = 0; k < 3; ++k)
        REQUIRE(pixel[static_cast<std::size_t>(k)] ==
                Approx(255 * linear_to_srgb(static_cast<double>(exact[k]))).margin(0.75));
    }
  }
}

namespace {

/// Whether a block has the same bytes whatever was in its memory before.
template <class Block>
bool is_laid_out_whole() {
  alignas(Block) std::byte zeros[sizeof(Block)], ones[sizeof(Block)];
  std::memset(zeros, 0, sizeof zeros);
  std::memset(ones, 0xFF, sizeof ones);
  new (zeros) Block;
  new (ones) Block;
  return std::memcmp(zeros, ones, sizeof zeros) == 0;
}

}  // namespace

TEST_CASE("blocks that shaders read are laid out whole, and hold nothing of what memory held before") {
  CHECK(is_laid_out_whole<draw::CameraBlock>());
  CHECK(is_laid_out_whole<draw::ObjectBlock>());
  CHECK(is_laid_out_whole<draw::BoundsBlock>());
  CHECK(is_laid_out_whole<draw::MaterialBlock>());
  CHECK(is_laid_out_whole<draw::LightingBlock>());
  CHECK(is_laid_out_whole<draw::LightBlock>());
  CHECK(is_laid_out_whole<draw::ShadowBlock>());
  CHECK(is_laid_out_whole<draw::ShadowPartBlock>());
}
