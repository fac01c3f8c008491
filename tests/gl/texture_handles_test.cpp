#include "gl/bindless.h"
#include "gl/device.h"

#include "draw/scene/scene_buffers.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/gl/texture_handles.h>
#include <periscena/inspect/report.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/shadow_map.h>

using namespace periscena;

TEST_CASE_METHOD(TestDevice, "handles are resident while frames need them, and let go some frames later") {
  const Bindless driver;
  const gl::Texture first(4, 4, Format::rgba8, "first"), second(4, 4, Format::rgba8, "second");
  const gl::Sampler near(Filter::nearest, Wrap::clamp, "near"), smooth(Filter::linear, Wrap::clamp, "smooth");
  {
    gl::TextureHandles handles(3);
    const std::uint32_t a = handles.add(first, near), b = handles.add(first, smooth), c = handles.add(second, near);
    CHECK(handles.add(first, near) == a);
    CHECK(handles.size() == 3);
    CHECK(handles.handle(a) != handles.handle(b));
    CHECK(handles.resident() == 0);
    CHECK(Bindless::resident() == 0);

    for (std::uint64_t frame = 1; frame <= 10; ++frame) {
      handles.need(a, frame);
      if (frame <= 2) handles.need(b, frame);
      handles.need(a, frame);
      handles.end_frame(frame);
      INFO(frame);
      // Frames 3 and 4 are the two without need after which it may stay; 5 is the third.
      CHECK(handles.resident() == (frame < 5 ? 2 : 1));
    }
    CHECK(Bindless::handles.at(handles.handle(a)).made_resident == 1);
    CHECK(Bindless::handles.at(handles.handle(b)).let_go == 1);
    CHECK(Bindless::handles.at(handles.handle(c)).made_resident == 0);
    handles.need(b, 11);  // and again
    CHECK(Bindless::handles.at(handles.handle(b)).made_resident == 2);
    CHECK(Bindless::resident() == 2);

    Bindless::gives = false;
    CHECK_THROWS_WITH(handles.add(second, smooth), Catch::Contains("no more handles of textures, after 3 of them"));
  }
  CHECK(Bindless::resident() == 0);
  CHECK(Bindless::misuses == 0);
}

namespace {

/// Balls in a row from left to right, each with a picture of another size.
struct Row {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  static constexpr int count = 6, size = 48;

  explicit Row(bool one_size, Material::AlphaMode mode = Material::AlphaMode::opaque) {
    Camera camera;
    camera.eye = {0, 0, 8};
    camera.target = Vec3::zero();
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.6f}}});
    const MeshHandle ball = scene->add_mesh("ball", shapes::sphere(0.4f, 12));
    for (int i = 0; i < count; ++i) {
      const std::string name = "picture " + std::to_string(i);
      const int side = one_size ? 8 : 4 + i;
      auto image = std::make_shared<Image>(side, side, Format::rgba8);
      for (int p = 0; p < side * side; ++p) image->set(p % side, p / side, {50, 100.0 + 25 * i, 230, 255});
      Material material{.name = name, .alpha_mode = mode};
      material.base_color_map.texture = scene->add_texture({.name = name, .image = image});
      Node node;
      node.mesh = ball;
      node.material = scene->add_material(material);
      node.placement = Transform::translate({static_cast<float>(i) - 2.5f, 0, 0});
      // The last one leaves the view.
      if (i + 1 == count)
        node.motion = Motion{.kind = Motion::Kind::slide, .axis = Vec3::unit_x(), .from = 0, .to = 100, .period = 2};
      scene->add_node(node);
    }
  }

  gl::FrameRunner runner(gl::Device& device) const {
    FrameGraph frame;
    frame.add(passes::forward({.scene = scene,
                               .view = "front",
                               .color = frame.output(),
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    return {device, frame.plan(size, size, device.limits()).value()};
  }
};

std::string way_of(const gl::FrameRunner& runner) {
  return runner.choices(0).at(0).way;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "textures of many sizes are drawn in one call where the driver has bindless textures") {
  const Row row(false);
  {
    gl::FrameRunner bound = row.runner(device);
    bound.run(0);
    CHECK(bound.counts(0).draw_calls == Row::count);
    CHECK(way_of(bound) ==
          "6 textures in 6 arrays of one size and format each, draws sorted by the 6 sets of them that "
          "materials take, each bound once: this device has no bindless textures");
    CHECK_THAT(inspect::batches_text(bound), Catch::Contains("textures: 6 textures in 6 arrays"));
  }
  const Bindless driver;
  gl::Device able = gl::Device::headless();
  REQUIRE(able.capabilities().texture_handles);
  {
    gl::FrameRunner runner = row.runner(able);
    runner.run(0);
    CHECK(runner.counts(0).draw_calls == 1);
    CHECK(runner.counts(0).commands == Row::count);  // no command looks up two sets of textures
    CHECK_THAT(way_of(runner), Catch::Contains("found by handle"));
    // Six pictures; and the single pixels, for the normal map and the four others.
    CHECK(Bindless::handles.size() == Row::count + 2);
    CHECK(Bindless::resident() == Row::count + 2);
    for (int i = 0; i < 119; ++i) runner.run(1);
    CHECK(Bindless::resident() == Row::count + 2);
    for (int i = 0; i < 3; ++i) runner.run(1);
    CHECK(Bindless::resident() == Row::count + 1);  // the last picture has been out of view for 120 frames
    runner.run(0);
    CHECK(Bindless::resident() == Row::count + 2);
  }
  CHECK(Bindless::resident() == 0);
  CHECK(Bindless::misuses == 0);
  // Where one array holds them all, nothing is to be gained.
  const Row alike(true);
  gl::FrameRunner runner = alike.runner(able);
  runner.run(0);
  CHECK(runner.counts(0).draw_calls == 1);
  CHECK(way_of(runner) == "6 textures in 1 array of one size and format each, bound once: all materials take the same");
  CHECK(Bindless::resident() == 0);
}

TEST_CASE_METHOD(TestDevice, "what a shadow map's masked casters look up is resident, each in a command of its own") {
  const Row row(false, Material::AlphaMode::mask);
  const Bindless driver;
  gl::Device able = gl::Device::headless();
  {
    FrameGraph frame;
    const TargetHandle map = frame.target("map", {.format = Format::depth32f, .size = TargetSize::pixels(64, 64)});
    frame.keep(map);
    frame.add(passes::shadow_map({.scene = row.scene, .light = "sun", .depth = map}));
    gl::FrameRunner runner(able, frame.plan(48, 48, able.limits()).value());
    runner.run(0);
    CHECK(runner.counts(0).draw_calls == 1);
    CHECK(runner.counts(0).commands == Row::count);
    CHECK(Bindless::resident() == Row::count + 2);
  }
  CHECK(Bindless::misuses == 0);
}
