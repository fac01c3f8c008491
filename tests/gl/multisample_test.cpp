#include "gl/draws.h"

#include <epoxy/gl.h>

#include <cmath>

using namespace periscena;

namespace {

/// A frame in which a pass draws something else into each of four samples: sample i of every pixel gets `value`, in
/// which i is the sample's number. The samples are shaded one by one because the program reads gl_SampleID.
struct Samples {
  FrameGraph frame;
  TargetHandle target, plain;

  Samples(Format format, const std::string& value, const std::string& type, ResolveRule rule = ResolveRule::automatic,
          Holds holds = Holds::automatic) {
    target = frame.target("samples", {.format = format, .samples = 4, .holds = holds, .resolve = rule});
    plain = frame.target("plain", {.format = format});
    frame.keep(plain);
    frame.add(fill("draw", value, {.target = target}, type));
    const std::string front = type == "vec4" ? "" : type.substr(0, 1);
    frame.add(fill("use", "texelFetch(source, ivec2(gl_FragCoord.xy), 0)", {.target = plain}, type,
                   {{"source", target}}, "uniform " + front + "sampler2D source;\n"));
  }

  std::array<double, 4> result(gl::Device& device) {
    gl::FrameRunner runner(device, planned(frame, device));
    runner.run(0);
    return runner.read("plain").at(4, 4);
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "colour is averaged, in linear light where the target is sRGB") {
  const std::string ramp = "vec4(float(gl_SampleID) / 4.0, float(gl_SampleID == 3), 0.5, 1.0)";
  const auto linear = Samples(Format::rgba32f, ramp, "vec4").result(device);
  REQUIRE(linear[0] == Approx(0.375));  // (0 + 1/4 + 2/4 + 3/4) / 4
  REQUIRE(linear[1] == Approx(0.25));
  const auto srgb = Samples(Format::rgba8_srgb, ramp, "vec4").result(device);
  // One white sample of four is 0.25 of the light, whose sRGB code is 137 (IEC 61966-2-1), not 64.
  REQUIRE(srgb[1] == Approx(255 * (1.055 * std::pow(0.25, 1 / 2.4) - 0.055)).margin(1));
}

TEST_CASE_METHOD(TestDevice, "ids, normals and depth are resolved by their rules, never by average") {
  const std::string ids = "ivec4(7 + 10 * gl_SampleID, -gl_SampleID, 5, 1)";
  REQUIRE(Samples(Format::rgba32i, ids, "ivec4").result(device) == std::array<double, 4>{7, 0, 5, 1});
  REQUIRE(Samples(Format::rgba16i, ids, "ivec4", ResolveRule::greatest).result(device) ==
          std::array<double, 4>{37, 0, 5, 1});
  REQUIRE(Samples(Format::rgba8i, ids, "ivec4", ResolveRule::least).result(device) ==
          std::array<double, 4>{7, -3, 5, 1});
  const std::string unsigned_ids = "uvec4(uint(gl_SampleID) * 1000000000u, 1u, 2u, 3u)";
  REQUIRE(Samples(Format::r32ui, unsigned_ids, "uvec4", ResolveRule::greatest).result(device)[0] == 3e9);
  const std::string normal = "vec4(float(gl_SampleID), 1.0, 0.0, 0.0)";
  REQUIRE(Samples(Format::rgba16f, normal, "vec4", {}, Holds::normal).result(device)[0] == 0);
  REQUIRE(Samples(Format::rgba16f, normal, "vec4", ResolveRule::greatest, Holds::normal).result(device)[0] == 3);
}

TEST_CASE_METHOD(TestDevice, "depth and stencil of several samples come together by their rule") {
  for (const auto& [rule, wanted] : {std::pair{ResolveRule::automatic, 0.125}, std::pair{ResolveRule::least, 0.125},
                                     std::pair{ResolveRule::greatest, 0.5}}) {
    for (const Format format : {Format::depth32f, Format::depth24_stencil8}) {
      INFO(to_string(format) << " " << wanted);
      FrameGraph frame;
      const TargetHandle depth =
          frame.target("depth", {.format = format, .samples = 4, .resolve = rule, .clear_stencil = 9});
      const TargetHandle plain = frame.target("plain", {.format = Format::r32f});
      frame.keep(plain);
      frame.keep(depth);
      Pass pass;
      pass.name = "draw";
      pass.writes = {{"depth", depth}};
      const auto program = std::make_shared<std::optional<gl::Program>>();
      pass.work = gl::raw_work([program](gl::PassContext& context) {
        if (!*program) {
          program->emplace(
              context.device(),
              gl::ProgramDescription{
                  "samples",
                  gl::ShaderText::from_text(
                      "v",
                      "void main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID "
                      "== 2 ? 3.0 : -1.0, 0.0, 1.0); }\n"),
                  gl::ShaderText::from_text("f", "void main() { gl_FragDepth = float(gl_SampleID + 1) / 8.0; }\n")});
        }
        (*program)->use(context.state());
        context.state().apply({.depth = {true, true, gl::Compare::always}});
        context.draw_triangle();
      });
      frame.add(std::move(pass));
      frame.add(fill("use", "texture(depth, uv)", {.target = plain}, "vec4", {{"depth", depth}},
                     "uniform sampler2D depth;\n"));
      gl::FrameRunner runner(device, planned(frame, device));
      runner.run(0);
      CHECK(runner.read("plain").at(2, 2)[0] == Approx(wanted).margin(1e-6));
      if (info(format).stencil) CHECK(runner.read("depth", {.aspect = gl::Aspect::stencil}).at(2, 2)[0] == 9);
      program->reset();
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a pass may read the samples itself, and then nothing is resolved") {
  FrameGraph frame;
  const TargetHandle samples = frame.target("samples", {.format = Format::r32f, .samples = 4});
  const TargetHandle plain = frame.target("plain", {.format = Format::r32f});
  frame.keep(plain);
  frame.add(fill("draw", "vec4(float(gl_SampleID))", {.target = samples}));
  frame.add(fill("use", "vec4(texelFetch(source, ivec2(gl_FragCoord.xy), 2).r)", {.target = plain}, "vec4",
                 {{"source", samples}}, "uniform sampler2DMS source;\n"));
  const FramePlan plan = planned(frame, device);
  REQUIRE(plan.passes().size() == 2);
  gl::FrameRunner runner(device, plan);
  runner.run(0);
  REQUIRE(runner.read("plain").at(1, 1)[0] == 2);
}

TEST_CASE_METHOD(TestDevice, "several attachments are resolved each for itself, and the output at the end") {
  FrameGraph frame;
  const TargetHandle a = frame.target("a", {.format = Format::rgba16f, .samples = 4});
  const TargetHandle b = frame.target("b", {.format = Format::r32ui});  // takes the others' count
  frame.add(draw("both",
                 "layout(location = 0) out vec4 color;\nlayout(location = 1) out uint id;\n"
                 "void main() { color = vec4(float(gl_SampleID) / 6.0); id = uint(gl_SampleID) + 40u; }\n",
                 {}, {{"id", b}, {"color", a}, {"picture", frame.output()}}));
  // "picture" is no output of that program: the frame must say so.
  REQUIRE(frame.plan(8, 8, device.limits()).diagnostics()[0].slug == "unknown-output");

  FrameGraph right;
  const TargetHandle color = right.target("a", {.format = Format::rgba16f, .samples = 4});
  const TargetHandle ids = right.target("b", {.format = Format::r32ui});
  right.keep(color);
  right.keep(ids);
  right.add(draw("both",
                 "layout(location = 0) out vec4 color;\nlayout(location = 1) out uint id;\nlayout(location = 2) "
                 "out vec4 picture;\nvoid main() { color = vec4(float(gl_SampleID) / 6.0); id = "
                 "uint(gl_SampleID) + 40u; picture = color; }\n",
                 {}, {{"id", ids}, {"color", color}, {"picture", right.output()}}));
  const FramePlan plan = planned(right, device);
  REQUIRE(plan.passes().size() == 4);  // the pass, and a resolve for each of three
  gl::FrameRunner runner(device, plan);
  runner.run(0);
  REQUIRE(runner.read("a").at(0, 0)[0] == Approx(0.25).margin(1e-3));
  REQUIRE(runner.read("b").at(0, 0)[0] == 40);
  REQUIRE(runner.read("output").at(0, 0)[0] == Approx(137).margin(1));
  double looked = 0;
  runner.run(0, [&](std::size_t pass) {
    if (pass == 0) looked = runner.look(*plan.find_target("b")).at(3, 3)[0];
  });
  REQUIRE(looked == 40);
}

TEST_CASE_METHOD(TestDevice, "the edge of a triangle gets as many shades as it has samples") {
  // An edge from corner to corner, slightly off: with one sample every pixel is 0 or 1; with four there are shades
  // between, multiples of a quarter, whose mean is closer to the covered area.
  const auto shades = [&](int samples) {
    FrameGraph frame;
    const TargetHandle color = frame.target("color", {.format = Format::r32f, .samples = samples});
    const TargetHandle plain = frame.target("plain", {.format = Format::r32f});
    frame.keep(plain);
    Pass pass;
    pass.name = "triangle";
    pass.writes = {{"color", color}};
    const auto program = std::make_shared<gl::Program>(
        device, gl::ProgramDescription{
                    "triangle",
                    gl::ShaderText::from_text(
                        "v",
                        "void main() { gl_Position = vec4(gl_VertexID == 1 ? 3.1 : -1.0, gl_VertexID == 2 ? "
                        "0.9 : -1.0, 0.0, 1.0); }\n"),
                    gl::ShaderText::from_text("f", "out vec4 color;\nvoid main() { color = vec4(1.0); }\n")});
    pass.work = gl::raw_work([program](gl::PassContext& context) {
      program->use(context.state());
      context.state().apply({});
      context.draw_triangle();
    });
    frame.add(std::move(pass));
    frame.add(fill("use", "texture(color_, uv)", {.target = plain}, "vec4", {{"color_", color}},
                   "uniform sampler2D color_;\n"));
    gl::FrameRunner runner(device, planned(frame, device, 32, 32));
    runner.run(0);
    return runner.read("plain");
  };
  // The covered share of a pixel, from 16 x 16 points in it: the edge runs from (-1, 0.9) to (3.1, -1).
  const auto covered = [](int x, int y) {
    int inside = 0;
    for (int k = 0; k < 256; ++k) {
      const double px = -1 + 2 * (x + (k % 16 + 0.5) / 16) / 32, py = 1 - 2 * (y + (k / 16 + 0.5) / 16) / 32;
      inside += py < 0.9 - 1.9 * (px + 1) / 4.1;
    }
    return inside / 256.0;
  };
  const Image one = shades(1), four = shades(4);
  double error_one = 0, error_four = 0;
  for (int y = 0; y < 32; ++y) {
    for (int x = 0; x < 32; ++x) {
      const double a = one.at(x, y)[0], b = four.at(x, y)[0], truth = covered(x, y);
      REQUIRE((a == 0 || a == 1));
      REQUIRE(b * 4 == std::floor(b * 4));
      error_one += std::abs(a - truth);
      error_four += std::abs(b - truth);
    }
  }
  REQUIRE(error_four < 0.5 * error_one);
}

TEST_CASE_METHOD(TestDevice, "a count that the driver rounds up by itself is told as it really is") {
  // A device that says it had two: OpenGL gives at least as many as are asked for.
  DeviceLimits limits = device.limits();
  for (auto& counts : limits.sample_counts) counts = {2, 3, 4};
  FrameGraph frame;
  const TargetHandle target = frame.target("t", {.format = Format::rgba8, .samples = 3});
  frame.add(fill("draw", "vec4(1.0)", {.target = target}));
  frame.add(
      fill("use", "texture(t, uv)", {.target = frame.output()}, "vec4", {{"t", target}}, "uniform sampler2D t;\n"));
  gl::FrameRunner runner(device, frame.plan(4, 4, limits).value());
  runner.run(0);
  REQUIRE(runner.read("output").at(0, 0)[0] == 255);
  const int given =
      gl::Texture({.width = 4, .height = 4, .format = Format::rgba8, .samples = 3}, "t").description().samples;
  REQUIRE(given > 3);
  REQUIRE(runner.diagnostics().size() == 1);
  REQUIRE_THAT(runner.diagnostics()[0].message,
               Catch::Contains("made with 3 samples, and the driver gave " + std::to_string(given)));
}

TEST_CASE_METHOD(TestDevice, "samples that nothing reads are looked at by their target's rule, too") {
  FrameGraph frame;
  const TargetHandle normals = frame.target(
      "normals", {.format = Format::rgba16f, .samples = 4, .holds = Holds::normal, .resolve = ResolveRule::greatest});
  frame.add(draw("both",
                 "layout(location = 0) out vec4 color;\nlayout(location = 1) out vec4 normal;\n"
                 "void main() { color = vec4(1.0); normal = vec4(float(gl_SampleID)); }\n",
                 {}, {{"color", frame.output()}, {"normal", normals}}));
  gl::FrameRunner runner(device, planned(frame, device));
  double seen = -1;
  runner.run(0, [&](std::size_t pass) {
    if (pass == 0) seen = runner.look(*runner.plan().find_target("normals")).at(2, 2)[0];
  });
  REQUIRE(seen == 3);
}
