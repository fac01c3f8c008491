#include "gl/device.h"
#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/passes/fullscreen.h>

#include <cmath>

using namespace periscena;
using passes::Fullscreen;

namespace {

gl::ShaderText shader(const std::string& body) {
  return gl::ShaderText::from_text("user.frag", "#include \"periscena/fullscreen.glsl\"\n" + body,
                                   passes::pass_shaders());
}

/// One pass into a floating target of 8 x 4, in a frame of 16 x 8.
struct OnePass {
  FrameGraph frame;
  TargetHandle target = frame.target("result", {.format = Format::rgba32f, .size = TargetSize::of_frame(0.5f)});

  Fullscreen options(const std::string& body) const {
    Fullscreen one;
    one.name = "user";
    one.shader = shader(body);
    one.writes = {{"color", target}};
    return one;
  }

  Image run(gl::Device& device, const Fullscreen& with, double time = 0) {
    frame.keep(target);
    frame.add(passes::fullscreen(with));
    gl::FrameRunner runner(device, frame.plan(16, 8, device.limits()).value());
    runner.run(time);
    return runner.read("result");
  }

  std::string refusal(gl::Device& device, const Fullscreen& with) {
    return thrown_text([&] { run(device, with); });
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "the user's GLSL has uv, resolution, frame size and time at hand, for every pixel once") {
  OnePass one;
  const Image image = one.run(device,
                              one.options("layout(location = 0) out vec4 color;\nvoid main() { color = vec4(uv, "
                                          "frame.time, frame.resolution.x + frame.size.y / 100.0); }\n"),
                              2.5);
  for (int y = 0; y < 4; ++y) {
    for (int x = 0; x < 8; ++x) {
      const auto p = image.at(x, y);
      REQUIRE(p[0] == Approx((x + 0.5) / 8));
      REQUIRE(p[1] == Approx(1 - (y + 0.5) / 4));  // lower left first
      REQUIRE(p[2] == 2.5f);
      REQUIRE(p[3] == Approx(8.08));
    }
  }
}

TEST_CASE_METHOD(TestDevice, "targets are read under the names of the GLSL, each its own") {
  FrameGraph frame;
  const TargetHandle a = frame.target("a", {.format = Format::rgba32f}),
                     b = frame.target("b", {.format = Format::rgba32f});
  const auto constant = [](const char* name, const char* value, TargetHandle into) {
    Fullscreen one;
    one.name = name;
    one.shader = shader(std::string("out vec4 color;\nvoid main() { color = vec4(") + value + "); }\n");
    one.writes = {{"color", into}};
    return passes::fullscreen(one);
  };
  frame.add(constant("one", "1.0", a));
  frame.add(constant("two", "2.0", b));
  Fullscreen both;
  both.name = "both";
  both.shader = shader(
      "uniform sampler2D second;\nuniform sampler2D first;\nout vec4 color;\nvoid main() { color = 10.0 * "
      "texture(first, uv) + texture(second, uv); }\n");
  const TargetHandle result = frame.target("result", {.format = Format::rgba32f});
  both.reads = {{"first", a}, {"second", b}};
  both.writes = {{"color", result}};
  frame.add(passes::fullscreen(both));
  frame.keep(result);
  gl::FrameRunner runner(device, frame.plan(4, 4).value());
  runner.run(0);
  REQUIRE(runner.read("result").at(2, 2)[0] == 12);
}

TEST_CASE_METHOD(TestDevice, "several outputs go to the targets of their names, in whatever order both are said") {
  FrameGraph frame;
  const TargetHandle a = frame.target("a", {.format = Format::rgba32f, .clear_color = {7, 7, 7, 7}}),
                     b = frame.target("b", {.format = Format::rgba32f, .clear_color = {9, 9, 9, 9}});
  Fullscreen one;
  one.name = "two outputs";
  one.shader = shader(
      "layout(location = 0) out vec4 albedo;\nlayout(location = 1) out vec4 normal;\n"
      "void main() { if (uv.x > 0.5) discard; albedo = vec4(1.0); normal = vec4(2.0); }\n");
  one.writes = {{"normal", a}, {"albedo", b}};
  frame.add(passes::fullscreen(one));
  frame.keep(a);
  frame.keep(b);
  gl::FrameRunner runner(device, frame.plan(4, 4).value());
  runner.run(0);
  REQUIRE(runner.read("a").at(0, 0)[0] == 2);
  REQUIRE(runner.read("b").at(0, 0)[0] == 1);
  // A program that discards does not set every pixel, so both were cleared first, each to its own colour.
  REQUIRE(runner.read("a").at(3, 0)[0] == 7);
  REQUIRE(runner.read("b").at(3, 0)[0] == 9);
}

TEST_CASE_METHOD(TestDevice, "uniforms take numbers as the GLSL declares them") {
  OnePass one;
  Fullscreen options = one.options(
      "uniform float f;\nuniform vec3 v;\nuniform int i;\nuniform bool b;\nuniform float kept = 0.5;\nout vec4 color;\n"
      "void main() { color = vec4(f, v.z, float(i), b ? kept : 0.0); }\n");
  options.uniforms = {{"f", 0.25}, {"v", std::vector<double>{1, 2, 3}}, {"i", 7}, {"b", 1}};
  REQUIRE(one.run(device, options).at(0, 0) == std::array<double, 4>{0.25f, 3, 7, 0.5f});
}

TEST_CASE_METHOD(TestDevice, "mistakes in names are told by plan(), before there is a device") {
  OnePass one;
  Fullscreen options = one.options(
      "uniform sampler2D scene;\nuniform float strength;\nout vec4 color;\nvoid main() { color = texture(scene, uv) * "
      "strength; }\n");
  options.reads = {{"scnee", one.frame.output()}};
  options.uniforms = {{"strenght", 1}};
  options.writes = {{"colour", one.target}};
  const Pass pass = passes::fullscreen(options);
  REQUIRE(pass.problems.size() == 3);
  REQUIRE(pass.problems[0].mend == "did you mean \"scene\"?");
  REQUIRE(pass.problems[1].mend == "did you mean \"color\"?");
  REQUIRE(pass.problems[2].mend == "did you mean \"strength\"?");
  options = one.options("#include \"nose.glsl\"\n");
  REQUIRE(passes::fullscreen(options).problems[0].slug == "unknown-include");
  options = one.options("out vec4 color;\nvoid main() { color = vec4(1.0); }\n");
  options.writes.push_back({"depth", one.target});
  REQUIRE(passes::fullscreen(options).problems[0].slug == "wrong-attachment");
  Fullscreen none;
  REQUIRE(passes::fullscreen(none).problems[0].slug == "missing-key");
}

TEST_CASE_METHOD(TestDevice, "what only a compiler finds is told when the runner is made") {
  REQUIRE_THAT(OnePass().refusal(device, OnePass().options("out vec4 color;\nvoid main() { color = vec3(1.0); }\n")),
               Catch::Contains("user.frag:3:"));
  Fullscreen unset = OnePass().options("uniform float f;\nout vec4 color;\nvoid main() { color = vec4(f); }\n");
  REQUIRE_THAT(OnePass().refusal(device, unset), Catch::Contains("unset-uniform"));
  unset.uniforms = {{"f", std::vector<double>{1, 2}}};
  REQUIRE_THAT(OnePass().refusal(device, unset), Catch::Contains("is float, but 2 numbers are given"));
  const Fullscreen unfed =
      OnePass().options("uniform sampler2D scene;\nout vec4 color;\nvoid main() { color = texture(scene, uv); }\n");
  REQUIRE_THAT(OnePass().refusal(device, unfed),
               Catch::Contains("unset-sampler") && Catch::Contains("reads = { scene ="));
  const Fullscreen lost = OnePass().options(
      "layout(location=0) out vec4 color;\nlayout(location=1) out vec4 glow;\nvoid main() { color = glow = vec4(1.0); "
      "}\n");
  REQUIRE_THAT(OnePass().refusal(device, lost), Catch::Contains("lost-output") && Catch::Contains("\"glow\""));
  Fullscreen fraction = OnePass().options("uniform int i;\nout vec4 color;\nvoid main() { color = vec4(i); }\n");
  fraction.uniforms = {{"i", 1.5}};
  REQUIRE_THAT(OnePass().refusal(device, fraction), Catch::Contains("1.5 is not whole"));
}

TEST_CASE_METHOD(TestDevice, "camera rays and positions agree with the CPU's matrices, for every kind of lens") {
  Camera cameras[3];
  cameras[0].eye = {3, 4, 5};
  cameras[1] = cameras[0];
  cameras[1].depth = DepthOrder::ordinary;
  cameras[1].far = 90;
  cameras[2] = cameras[1];
  cameras[2].parallel_height = 6;
  for (const Camera& camera : cameras) {
    auto scene = std::make_shared<Scene>();
    scene->add_view({"v", camera});
    const Projection lens = camera.projection(2);
    const Transform to_world = camera.view().inverse();
    for (const char* wanted : {"camera_ray(uv)", "world_position(uv, 0.25)", "vec3(distance_at(0.25))"}) {
      OnePass one;
      Fullscreen options =
          one.options(std::string("#include \"periscena/camera.glsl\"\nout vec4 color;\nvoid main() { color = vec4(") +
                      wanted + ", 1.0); }\n");
      options.scene = scene;
      options.view = "v";
      const Image image = one.run(device, options);
      for (const auto& [x, y] : {std::pair{0, 0}, std::pair{7, 3}, std::pair{4, 1}}) {
        const auto p = image.at(x, y);
        // Unproject by the CPU's inverse at two depths that all lenses reach.
        const Vec2 clip((static_cast<float>(x) + 0.5f) / 4 - 1, 1 - (static_cast<float>(y) + 0.5f) / 2);
        const auto unproject = [&](float depth) {
          const Vec4 at = lens.inverse() * Vec4(clip.x(), clip.y(), depth, 1);
          return to_world.apply_to_point(at.head<3>() / at.w());
        };
        const Vec3 got = DoubleVec3(p[0], p[1], p[2]).cast<float>();
        const std::string name = wanted;
        const bool reversed = camera.depth == DepthOrder::reversed;
        const Vec3 ray = ((unproject(0.25f) - unproject(0.75f)) * (reversed ? 1 : -1)).normalized();
        if (name == "camera_ray(uv)") REQUIRE((got - ray).norm() < 1e-4f);
        if (name == "world_position(uv, 0.25)") REQUIRE((got - unproject(0.25f)).norm() < 1e-3f);
        if (name == "vec3(distance_at(0.25))") REQUIRE(got.x() == Approx(lens.distance_at(0.25f)).epsilon(1e-4));
      }
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a linear value written to the output is encoded to sRGB once, by the hardware") {
  FrameGraph frame;
  Fullscreen one;
  one.name = "ramp";
  one.shader = shader("out vec4 color;\nvoid main() { color = vec4(vec3(uv.x), 1.0); }\n");
  one.writes = {{"color", frame.output()}};
  frame.add(passes::fullscreen(one));
  gl::FrameRunner runner(device, frame.plan(256, 1).value());
  runner.run(0);
  const Image image = runner.read("output");
  for (int x = 0; x < 256; ++x) {
    const double linear = (x + 0.5) / 256;
    const double encoded =
        linear <= 0.0031308 ? 12.92 * linear : 1.055 * std::pow(linear, 1 / 2.4) - 0.055;  // IEC 61966-2-1
    REQUIRE(std::abs(static_cast<double>(image.at(x, 0)[0]) - 255 * encoded) <
            1);  // one of the two bytes that it lies between
  }
}
