#include "gl/draws.h"

#include <epoxy/gl.h>

#include <fmt/format.h>

#include <cmath>

using namespace periscena;
using Values = std::array<double, 4>;

TEST_CASE_METHOD(TestDevice, "a target of every colour format takes what is drawn and gives it back") {
  for (const FormatInfo& format : all_formats()) {
    if (!format.color()) continue;
    INFO(format.name);
    FrameGraph frame;
    const TargetHandle target = frame.target("t", {.format = format.format});
    frame.keep(target);
    Values wanted{0.25, 0.5, 0.75, 1};
    std::string value = "vec4(0.25, 0.5, 0.75, 1.0)", type = "vec4";
    if (format.integer()) {
      const bool is_signed = format.numbers == NumberKind::signed_integer;
      // The largest and smallest that the channel holds, and what lies between.
      const double most = std::ldexp(1.0, format.channel_bits() - is_signed) - 1, least = is_signed ? -most - 1 : 0;
      wanted = {most, least, 1, 100};
      type = is_signed ? "ivec4" : "uvec4";
      value = is_signed ? fmt::format("ivec4({}, {} - 1, 1, 100)", most, least + 1)
                        : fmt::format("uvec4({}u, 0u, 1u, 100u)", most);
    }
    frame.add(fill("fill", value, {.target = target}, type));
    gl::FrameRunner runner(device, planned(frame, device));
    runner.run(0);
    const Image image = runner.read("t");
    const Values got = image.at(3, 5);
    // Half a step of the format; sRGB is coded (IEC 61966-2-1).
    for (int c = 0; c < format.channels; ++c) {
      const auto i = static_cast<std::size_t>(c);
      INFO(c);
      if (format.integer()) {
        CHECK(got[i] == wanted[i]);
      } else if (format.numbers == NumberKind::srgb && c < 3) {
        CHECK(got[i] == Approx(255 * (1.055 * std::pow(wanted[i], 1 / 2.4) - 0.055)).margin(0.6));
      } else if (image.format() == Format::rgba8 || image.format() == Format::rgba8_srgb) {
        CHECK(got[i] == Approx(255 * wanted[i]).margin(0.51));
      } else {
        const double step = format.format == Format::rgb10a2           ? 1.0 / 1023
                            : format.numbers == NumberKind::normalized ? 1.0 / 65535
                                                                       : 0;
        CHECK(got[i] == Approx(wanted[i]).margin(0.5 * step + 1e-9));
      }
    }
  }
}

TEST_CASE_METHOD(TestDevice, "depth and stencil targets are cleared, written and read back") {
  for (const Format format : {Format::depth16, Format::depth24, Format::depth32f, Format::depth24_stencil8,
                              Format::depth32f_stencil8, Format::stencil8}) {
    INFO(to_string(format));
    FrameGraph frame;
    const FormatInfo& known = info(format);
    const TargetHandle target = frame.target("t", {.format = format, .clear_depth = 0.25f, .clear_stencil = 7});
    frame.keep(target);
    Pass pass;
    pass.name = "draw";
    pass.writes = {{known.depth ? "depth" : "stencil", target}};
    pass.work = gl::raw_work([&](gl::PassContext&) {
      glEnable(GL_SCISSOR_TEST);
      glScissor(0, 0, 4, 8);  // the left half
      const float depth = 0.75f;
      const int stencil = 200;
      if (known.depth) glClearBufferfv(GL_DEPTH, 0, &depth);
      if (known.stencil) glClearBufferiv(GL_STENCIL, 0, &stencil);
    });
    frame.add(std::move(pass));
    gl::FrameRunner runner(device, planned(frame, device));
    runner.run(0);
    if (known.depth) {
      const Image depth = runner.read("t");
      CHECK(depth.at(0, 0)[0] == Approx(0.75).margin(1.0 / 65535));
      CHECK(depth.at(7, 7)[0] == Approx(0.25).margin(1.0 / 65535));
    }
    if (known.stencil) {
      const Image stencil = runner.read("t", {.aspect = gl::Aspect::stencil});
      CHECK(stencil.at(0, 0)[0] == 200);
      CHECK(stencil.at(7, 7)[0] == 7);
    }
  }
}

TEST_CASE_METHOD(TestDevice, "integer targets are cleared to whole numbers, and sampled as integers") {
  FrameGraph frame;
  const TargetHandle ids = frame.target("ids", {.format = Format::r32ui, .clear_color = {77, 0, 0, 0}});
  const TargetHandle sum = frame.target("sum", {.format = Format::r32f});
  frame.keep(sum);
  frame.add(
      draw("ids", "out uint id;\nvoid main() { if (uv.x < 0.5) discard; id = 4000000000u; }\n", {}, {{"id", ids}}));
  frame.add(fill("sum", "vec4(float(texelFetch(ids, ivec2(gl_FragCoord.xy), 0).r))", {.target = sum}, "vec4",
                 {{"ids", ids}}, "uniform usampler2D ids;\n"));
  gl::FrameRunner runner(device, planned(frame, device));
  runner.run(0);
  REQUIRE(runner.read("sum").at(0, 0)[0] == 77);
  REQUIRE(runner.read("sum").at(7, 0)[0] == 4e9f);
}

TEST_CASE_METHOD(TestDevice, "levels, layers and faces are drawn into and read one by one, within one target") {
  FrameGraph frame;
  // 8, 4, 2, 1: each level is the one before it plus one, sampled through a view of that level alone.
  const TargetHandle chain = frame.target("chain", {.format = Format::r32f, .levels = 0});
  const TargetHandle array =
      frame.target("array", {.format = Format::r32f, .size = TargetSize::pixels(4, 4), .layers = 3});
  const TargetHandle cube =
      frame.target("cube", {.format = Format::r32f, .size = TargetSize::pixels(4, 4), .shape = TargetShape::cube});
  const TargetHandle all = frame.target("all", {.format = Format::rgba32f});
  frame.keep(all);
  frame.keep(chain);
  frame.keep(cube);
  frame.add(fill("level 0", "vec4(1.0)", {.target = chain}));
  for (int level = 1; level < 4; ++level) {
    frame.add(fill("level " + std::to_string(level), "texture(up, uv) + 1.0", {.target = chain, .level = level}, "vec4",
                   {{.slot = "up", .target = chain, .level = level - 1}}, "uniform sampler2D up;\n"));
  }
  for (int layer = 0; layer < 3; ++layer)
    frame.add(fill("layer " + std::to_string(layer), fmt::format("vec4({}.0)", 10 + layer),
                   {.target = array, .layer = layer}));
  for (int face = 0; face < 6; ++face)
    frame.add(
        fill("face " + std::to_string(face), fmt::format("vec4({}.0)", 20 + face), {.target = cube, .layer = face}));
  frame.add(fill("all",
                 "vec4(textureLod(chain, uv, 2.0).r, texture(array, vec3(uv, 1.0)).r, texture(cube, vec3(0, -1, 0)).r, "
                 "texture(one_face, uv).r)",
                 {.target = all}, "vec4",
                 {{"chain", chain}, {"array", array}, {"cube", cube}, {.slot = "one_face", .target = cube, .layer = 4}},
                 "uniform sampler2D chain, x_;\nuniform sampler2DArray array;\nuniform samplerCube cube;\n"
                 "uniform sampler2D one_face;\n"));
  gl::FrameRunner runner(device, planned(frame, device));
  runner.run(0);
  REQUIRE(runner.read("all").at(2, 2) == Values{3, 11, 23, 24});  // −Y is face 3
  REQUIRE(runner.read("chain", {.level = 3}).width() == 1);
  REQUIRE(runner.read("chain", {.level = 3}).at(0, 0)[0] == 4);
  REQUIRE(runner.read("cube", {.layer = 5}).at(3, 3)[0] == 25);
}

TEST_CASE_METHOD(TestDevice, "all layers at once: the program chooses, and all are cleared") {
  FrameGraph frame;
  const TargetHandle array = frame.target("array", {.format = Format::r32f, .layers = 4, .clear_color = {5, 0, 0, 0}});
  frame.keep(array);
  Pass pass;
  pass.name = "layers";
  pass.writes = {{"color", array}};
  pass.work = gl::raw_work([](gl::PassContext&) {}, gl::Touched::nothing);
  frame.add(std::move(pass));
  gl::FrameRunner runner(device, planned(frame, device));
  runner.run(0);
  for (int layer = 0; layer < 4; ++layer) REQUIRE(runner.read("array", {.layer = layer}).at(1, 6)[0] == 5);
}

TEST_CASE_METHOD(TestDevice, "what nothing samples lies in a renderbuffer, and can be looked at all the same") {
  FrameGraph frame;
  const TargetHandle depth = frame.target("depth", {.format = Format::depth32f, .clear_depth = 0.5f});
  Pass pass;
  pass.name = "draw";
  pass.writes = {{"color", frame.output()}, {"depth", depth}};
  pass.work = gl::raw_work([](gl::PassContext&) {});
  frame.add(std::move(pass));
  const FramePlan plan = planned(frame, device);
  const PlannedTarget& target = plan.targets()[*plan.find_target("depth")];
  REQUIRE(plan.storages()[target.storage].renderbuffer);
  REQUIRE_FALSE(plan.storages()[plan.targets()[*plan.output()].storage].renderbuffer);
  gl::FrameRunner runner(device, plan);
  double seen = 0;
  runner.run(0, [&](std::size_t) { seen = runner.look(*plan.find_target("depth")).at(1, 1)[0]; });
  REQUIRE(seen == 0.5);
  REQUIRE_THAT(thrown_text([&] { runner.read("depth"); }),
               Catch::Contains("not-kept") && Catch::Contains("frame.keep(\"depth\")"));
}
