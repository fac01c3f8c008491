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
  // What has changed is made again.
  scene->change_texture(moss, {.name = "moss", .image = picture_of(200, Format::rgba8, 16, 16)});
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
