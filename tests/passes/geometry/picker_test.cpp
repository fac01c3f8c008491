#include "gl/device.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/geometry.h>
#include <periscena/passes/picker.h>

#include <chrono>
#include <thread>

using namespace periscena;

namespace {

/// Three boxes side by side, of which the middle one is not to be picked and has a nameless part.
struct Boxes {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  Boxes() {
    scene->add_view({"front", {.eye = {0, 0, 10}, .target = {0, 0, 0}, .far = 50, .parallel_height = 6}});
    const MeshHandle box = scene->add_mesh("box", shapes::box({1, 1, 1}));
    const MaterialHandle grey = scene->add_material({.name = "grey"});
    const auto show = [&](const char* name, const Vec3& at, NodeHandle parent, std::vector<std::string> tags) {
      Node node;
      node.name = name;
      node.mesh = box;
      node.material = grey;
      node.placement = Transform::translate(at);
      node.parent = parent;
      node.tags = std::move(tags);
      return scene->add_node(node);
    };
    show("left", {-2, 0, 0}, {}, {});
    show("middle", {0, 0, 0}, {}, {"glass"});
    const NodeHandle right = show("right", {2, 0, 0}, {}, {});
    show("", {0, 1.5f, 0}, right, {});
  }

  FrameGraph frame(int samples = 1) const {
    FrameGraph frame;
    passes::Geometry options{.scene = scene, .view = "front"};
    options.without_tags = {"glass"};
    options.id = frame.target("id", {.format = Format::r32ui, .samples = samples});
    options.normal = frame.target("normal", {.format = Format::rgba16, .samples = samples});
    options.depth = frame.target("depth", {.format = Format::depth32f, .samples = samples});
    frame.keep("id");
    frame.keep("normal");
    frame.add(passes::geometry(options));
    return frame;
  }
};

std::optional<passes::Picked> wait_for(passes::Picker& picker) {
  for (int i = 0; i < 1000; ++i) {
    if (auto found = picker.answer()) return found;
    std::this_thread::sleep_for(std::chrono::milliseconds(2));
  }
  return std::nullopt;
}

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "objects are picked by name, without those whose tags are left out, in the order of the questions") {
  const Boxes boxes;
  gl::FrameRunner runner(device, boxes.frame().plan(120, 60, device.limits()).value());
  passes::Picker picker(boxes.scene, 4);
  CHECK_FALSE(picker.answer());
  runner.run(0);
  // 10 pixels a metre.
  REQUIRE(picker.ask(runner, "id", 40, 30) == 1u);
  REQUIRE(picker.ask(runner, "id", 60, 30) == 2u);
  REQUIRE(picker.ask(runner, "id", 80, 30) == 3u);
  REQUIRE(picker.ask(runner, "id", 80, 14) == 4u);
  CHECK_FALSE(picker.ask(runner, "id", 0, 0));  // all places are taken
  CHECK(picker.waiting() == 4);
  const std::string expected[] = {"left", "", "right", "right"};
  for (std::uint64_t i = 0; i < 4; ++i) {
    const auto found = wait_for(picker);
    REQUIRE(found);
    CHECK(found->question == i + 1);
    CHECK(found->name == expected[i]);
    CHECK(found->node.valid() == !expected[i].empty());
  }
  REQUIRE(picker.ask(runner, "id", 119, 59) == 5u);
  CHECK_FALSE(wait_for(picker)->node.valid());
}

TEST_CASE_METHOD(TestDevice, "pixels outside, targets of other kinds, and several samples are told") {
  const Boxes boxes;
  passes::Picker picker(boxes.scene);
  gl::FrameRunner runner(device, boxes.frame().plan(120, 60, device.limits()).value());
  runner.run(0);
  CHECK_THROWS_WITH(picker.ask(runner, "id", 120, 0), Catch::Contains("pixel-outside"));
  CHECK_THROWS_WITH(picker.ask(runner, "id", 0, -1), Catch::Contains("pixel-outside"));
  CHECK_THROWS_WITH(picker.ask(runner, "normal", 0, 0), Catch::Contains("not-ids"));
  CHECK_THROWS_WITH(picker.ask(runner, "ids", 0, 0), Catch::Contains("did you mean \"id\"?"));
  CHECK(picker.waiting() == 0);
  CHECK_FALSE(passes::picked(*boxes.scene, 0).node.valid());
  CHECK_FALSE(passes::picked(*boxes.scene, 99).node.valid());
}

TEST_CASE_METHOD(TestDevice, "any format's pixels are read, each as it is stored") {
  gl::PixelReader reader(2);
  const gl::Texture bytes(3, 2, Format::rgba8, "bytes"), floats(3, 2, Format::rgba32f, "floats");
  Image a(3, 2, Format::rgba8), b(3, 2, Format::rgba32f);
  for (std::size_t i = 0; i < a.bytes().size(); ++i) a.bytes()[i] = static_cast<std::byte>(i);
  auto* values = reinterpret_cast<float*>(b.bytes().data());
  for (int i = 0; i < 24; ++i) values[i] = 0.5f * static_cast<float>(i);
  bytes.upload(a);
  floats.upload(b);
  for (int y = 0; y < 2; ++y) {
    for (int x = 0; x < 3; ++x) {
      REQUIRE(reader.ask(bytes, x, y));
      REQUIRE(reader.ask(floats, x, y));
      for (const Image* image : {&a, &b}) {
        std::optional<gl::PixelAnswer> found;
        while (!found) found = reader.answer();
        CHECK(found->values == image->at(x, y));
      }
    }
  }
}

TEST_CASE_METHOD(TestDevice, "whole targets are read some frames later, as they were when they were asked for") {
  gl::TargetReader reader(2);
  const gl::Texture texture({.width = 5, .height = 3, .format = Format::rgba8, .levels = 2}, "picture");
  const gl::Texture cube({.width = 4, .height = 4, .format = Format::rgba32f, .shape = TargetShape::cube, .layers = 6},
                         "cube");
  const auto filled = [](int width, int height, Format format, int from) {
    Image image(width, height, format);
    for (std::size_t i = 0; i < image.bytes().size(); ++i)
      image.bytes()[i] = static_cast<std::byte>((i + static_cast<std::size_t>(from)) % 63);
    return image;
  };
  const Image first = filled(5, 3, Format::rgba8, 0), second = filled(5, 3, Format::rgba8, 7);
  const Image smaller = filled(2, 1, Format::rgba8, 3), face = filled(4, 4, Format::rgba32f, 1);
  const auto answer = [&] {
    std::optional<gl::TargetAnswer> found;
    while (!found) found = reader.answer();
    return *std::move(found);
  };
  CHECK_FALSE(reader.answer());
  texture.upload(first);
  CHECK(reader.ask(texture) == 1);
  texture.upload(second);
  CHECK(reader.ask(texture) == 2);
  CHECK_FALSE(reader.ask(texture));  // both places are taken
  CHECK(reader.waiting() == 2);
  CHECK(answer().image == first);
  CHECK(answer().image == second);
  texture.upload(smaller, {.level = 1});
  cube.upload(face, {.layer = 4});
  CHECK(reader.ask(texture, 1) == 3);
  CHECK(reader.ask(cube, 0, 4) == 4);
  CHECK(answer().image == smaller);
  CHECK(answer().image == face);
  CHECK(reader.waiting() == 0);
  CHECK_THROWS_WITH(reader.ask(texture, 2), Catch::Contains("picker_test.cpp") && Catch::Contains("level-outside"));
  CHECK_THROWS_WITH(reader.ask(texture, 0, 1), Catch::Contains("level-outside"));
  CHECK_THROWS_WITH(reader.ask(cube, -1), Catch::Contains("level-outside"));
  const gl::Texture samples({.width = 4, .height = 4, .samples = 4}, "samples");
  CHECK_THROWS_WITH(reader.ask(samples), Catch::Contains("multisampled"));
  CHECK(reader.waiting() == 0);
  gl::PixelReader pixels;
  CHECK_THROWS_WITH(pixels.ask(samples, 0, 0), Catch::Contains("multisampled"));
  CHECK(pixels.waiting() == 0);
  CHECK_FALSE(pixels.answer());
}
