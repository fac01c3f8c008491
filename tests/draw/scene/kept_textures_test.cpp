#include "gl/device.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

#include <epoxy/gl.h>

using namespace periscena;

namespace {

/// Counts textures that are made.
struct CountedTextures {
  inline static int flat = 0, layered = 0;
  inline static PFNGLTEXTURESTORAGE2DPROC make_flat = nullptr;
  inline static PFNGLTEXTURESTORAGE3DPROC make_layered = nullptr;

  /// Entry points replace themselves by the driver's when they are first called, which they were.
  CountedTextures() {
    make_flat = epoxy_glTextureStorage2D;
    make_layered = epoxy_glTextureStorage3D;
    epoxy_glTextureStorage2D = [](GLuint name, GLsizei levels, GLenum format, GLsizei width, GLsizei height) {
      ++flat;
      make_flat(name, levels, format, width, height);
    };
    epoxy_glTextureStorage3D = [](GLuint name, GLsizei levels, GLenum format, GLsizei width, GLsizei height,
                                  GLsizei depth) {
      ++layered;
      make_layered(name, levels, format, width, height, depth);
    };
  }
  CountedTextures(const CountedTextures&) = delete;
  CountedTextures& operator=(const CountedTextures&) = delete;
  ~CountedTextures() {
    epoxy_glTextureStorage2D = make_flat;
    epoxy_glTextureStorage3D = make_layered;
  }

  static int take() { return std::exchange(flat, 0) + std::exchange(layered, 0); }
};

std::shared_ptr<const Image> picture_of(double red, Format format, int width, int height) {
  auto image = std::make_shared<Image>(width, height, format);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) image->set(x, y, {red, 0.5 * x, 0.25 * y, format == Format::rgba8 ? 255.0 : 1.0});
  return image;
}

Image part_of(const Image& image, int left, int top, int width, int height) {
  Image part(width, height, image.format());
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) part.set(x, y, image.at(left + x, top + y));
  }
  return part;
}

Environment sky(double red) {
  return {.name = "sky", .images = {picture_of(red, Format::rgba32f, 16, 8)}};
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "objects come and go, and pictures of materials and environments stay on the device") {
  auto scene = std::make_shared<Scene>();
  const TextureHandle moss = scene->add_texture({.name = "moss", .image = picture_of(10, Format::rgba8, 16, 16)});
  Material material{.name = "moss", .roughness = 0.3f};
  material.base_color_map.texture = moss;
  const MaterialHandle mossy = scene->add_material(material);
  const MeshHandle ball = scene->add_mesh("ball", shapes::sphere(0.5f, 12));
  for (int i = 0; i < 100; ++i) {
    scene->add_node({.mesh = ball,
                     .material = mossy,
                     .placement = Transform::translate({0.3f * static_cast<float>(i) - 15, 0, 0})});
  }
  const EnvironmentHandle around = scene->add_environment(sky(2));
  scene->add_view({"front", {.eye = {0, 0, 6}}});
  FrameGraph frame;
  const passes::Defaults here{.scene = scene, .view = "front", .environment = "sky", .cache = ""};
  const auto light = frame.target("light", {.format = Format::rgba16f});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::sky(here, {.color = light}));
  frame.add(passes::forward(here, {.color = light, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
  gl::FrameRunner runner(device, frame.plan(64, 48, device.limits()).value());
  runner.run(0);
  const CountedTextures counted;
  const auto is_right = [&] {
    gl::FrameRunner anew(device, frame.plan(64, 48, device.limits()).value());
    anew.run(0);
    CHECK(runner.read("output") == anew.read("output"));
    counted.take();
  };
  std::vector<NodeHandle> added;
  for (int i = 0; i < 6; ++i) {
    if (i % 3 < 2)
      added.push_back(scene->add_node({.mesh = ball, .material = mossy, .placement = Transform::translate({0, 1, 0})}));
    else
      scene->remove(added[static_cast<std::size_t>(i) / 3]);
    if (i == 4) scene->add_material({.name = "plain"});
    runner.run(0);
    CHECK(counted.take() == 0);
    is_right();
  }
  // Other pixels take the places of those that were there; another size is made again.
  scene->change_texture(moss, {.name = "moss", .image = picture_of(200, Format::rgba8, 16, 16)});
  runner.run(0);
  CHECK(counted.take() == 0);
  is_right();
  scene->change_texture(moss, {.name = "moss", .image = picture_of(200, Format::rgba8, 16, 8)});
  runner.run(0);
  CHECK(counted.take() > 0);
  is_right();
  scene->change_environment(around, sky(9));
  runner.run(0);
  CHECK(counted.take() > 0);
  is_right();
  scene->add_texture({.name = "bark", .image = picture_of(90, Format::rgba8, 16, 16)});
  runner.run(0);
  CHECK(counted.take() > 0);
  is_right();
}

TEST_CASE_METHOD(TestDevice, "pixels that the program changes are those of a texture that was made so") {
  for (const auto& [filter, format] :
       {std::pair{Filter::linear_levels, Format::rgba8}, std::pair{Filter::linear, Format::rgba8},
        std::pair{Filter::nearest, Format::rgba32f}}) {
    auto scene = std::make_shared<Scene>();
    const double most = format == Format::rgba8 ? 255 : 1;
    const TextureHandle other = scene->add_texture({.name = "other", .image = picture_of(0, format, 24, 20)});
    const TextureHandle moss =
        scene->add_texture({.name = "moss", .image = picture_of(most, format, 24, 20), .sampling = {.filter = filter}});
    Material material{.name = "moss", .shading = Material::Shading::unlit, .alpha_mode = Material::AlphaMode::mask};
    material.base_color_map.texture = moss;
    material.base_color_map.scale = {3, 3};
    const MaterialHandle mossy = scene->add_material(material);
    material.name = "other";
    material.base_color_map.texture = other;
    const MaterialHandle plain = scene->add_material(material);
    const MeshHandle box = scene->add_mesh("box", shapes::box({1, 1, 1})),
                     floor = scene->add_mesh("floor", shapes::plane(6, 6));
    scene->add_node({.mesh = box, .material = mossy, .placement = Transform::translate({-0.7f, 0.8f, 0})});
    scene->add_node({.mesh = box, .material = plain, .placement = Transform::translate({0.7f, 0.8f, 0})});
    scene->add_node({.mesh = floor, .material = scene->add_material({.name = "stone"})});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{3, {-0.3f, -1, -0.4f}}});
    scene->add_view({"front", {.eye = {0, 2.5f, 4}}});
    FrameGraph frame;
    const passes::Defaults here{.scene = scene, .view = "front", .lights = {"sun"}};
    const auto map = frame.target("map", {.format = Format::depth32f, .size = {64, 64}});
    const auto light = frame.target("light", {.format = Format::rgba16f});
    const auto depth = frame.target("depth", {.format = Format::depth32f});
    passes::ShadowMap casts{.name = "casts", .scene = scene, .light = "sun"};
    casts.depth = map;
    frame.add(passes::shadow_map(casts));
    passes::Forward forward{.name = "picture", .scene = scene, .view = "front", .lights = {"sun"}, .shadows = {map}};
    forward.color = light;
    forward.depth = depth;
    frame.add(passes::forward(forward));
    frame.add(passes::tone_map({.exposure_ev100 = 1, .light = light, .color = frame.output()}));
    const FramePlan plan = frame.plan(64, 48, device.limits()).value();
    gl::FrameRunner runner(device, plan);
    runner.run(0);
    const CountedTextures counted;
    const std::uint64_t structure = scene->versions().structure;
    for (int step = 0; step < 6; ++step) {
      const Image before = runner.read("output");
      // The last one is the whole picture; the third leaves all as it is; holes come and go.
      Image part(step == 5 ? 24 : 7 + step, step == 5 ? 20 : 5 + 2 * step, format);
      for (int y = 0; y < part.height(); ++y) {
        for (int x = 0; x < part.width(); ++x)
          part.set(x, y, {most * 0.15 * step, most * 0.5, 0, (x + y + step) % 5 < 2 ? 0.0 : most});
      }
      const int left = step == 5 ? 0 : 2 * step, top = step == 5 ? 0 : step;
      if (step == 2) part = part_of(*scene->at(moss).image, left, top, part.width(), part.height());
      scene->change_texture(moss, part, left, top);
      counted.take();
      runner.run(0);
      CHECK(counted.take() == 0);
      const Image now = runner.read("output");
      CHECK((now != before) == (step != 2));
      gl::FrameRunner made_so(device, plan);
      made_so.run(0);
      INFO("step " << step);
      REQUIRE(now == made_so.read("output"));
    }
    CHECK(scene->versions().structure == structure);
  }
}
