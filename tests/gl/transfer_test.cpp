#include "gl/draws.h"

using namespace periscena;

namespace {

const char* const ramp =
    "vec4(gl_FragCoord.x, frame.resolution.y - gl_FragCoord.y, 0.0, 1.0)";  // pixel + 0.5, from the top

}  // namespace

TEST_CASE_METHOD(TestDevice, "a part is copied to a part, from the upper left, and the rest stays as it was") {
  FrameGraph frame;
  const TargetHandle from = frame.target("from", {.format = Format::rgba32f}),
                     to = frame.target("to", {.format = Format::rgba16f, .clear_color = {-1, -1, 0, 0}});
  frame.keep(to);
  frame.add(fill("ramp", ramp, {.target = from}));
  frame.add(passes::copy(
      {.from = {.target = from}, .to = {.target = to}, .from_area = {1, 2, 3, 2}, .to_area = {4, 5, 3, 2}}));
  gl::FrameRunner runner(device, planned(frame, device));
  runner.run(0);
  const Image image = runner.read("to");
  for (int y = 0; y < 8; ++y) {
    for (int x = 0; x < 8; ++x) {
      const bool inside = x >= 4 && x < 7 && y >= 5 && y < 7;
      REQUIRE(image.at(x, y)[0] == (inside ? x - 3 + 0.5 : -1));
      REQUIRE(image.at(x, y)[1] == (inside ? y - 3 + 0.5 : -1));
    }
  }
}

TEST_CASE_METHOD(TestDevice, "copies stretch, by the nearest pixel or linearly") {
  for (const bool linear : {false, true}) {
    FrameGraph frame;
    const TargetHandle from = frame.target("from", {.format = Format::rgba32f}),
                       half = frame.target("half", {.format = Format::rgba32f, .size = TargetSize::of_frame(0.5f)});
    frame.keep(half);
    frame.add(fill("steps", "vec4(mod(floor(gl_FragCoord.x), 2.0))", {.target = from}));
    frame.add(passes::copy({.from = {.target = from},
                            .to = {.target = half},
                            .filter = linear ? passes::Stretch::linear : passes::Stretch::nearest}));
    gl::FrameRunner runner(device, planned(frame, device));
    runner.run(0);
    const double value = runner.read("half").at(1, 1)[0];
    if (linear) REQUIRE(value == 0.5);
    if (!linear) REQUIRE((value == 0 || value == 1));
  }
}

TEST_CASE_METHOD(TestDevice,
                 "integers, depth, levels and layers are copied bit by bit, sRGB is decoded on its way to linear") {
  FrameGraph frame;
  const TargetHandle ids = frame.target("ids", {.format = Format::rg16ui}),
                     wide = frame.target("wide", {.format = Format::rg32ui});
  const TargetHandle coded = frame.target("coded", {.format = Format::rgba8_srgb}),
                     linear = frame.target("linear", {.format = Format::rgba32f});
  const TargetHandle chain = frame.target("chain", {.format = Format::r32f, .levels = 2});
  const TargetHandle small = frame.target("small", {.format = Format::r32f, .size = TargetSize::of_frame(0.5f)});
  for (const TargetHandle kept : {wide, linear, chain}) frame.keep(kept);
  frame.add(fill("ids", "uvec4(65535u, 3u, 0u, 0u)", {.target = ids}, "uvec4"));
  frame.add(passes::copy({.name = "wider", .from = {.target = ids}, .to = {.target = wide}}));
  frame.add(fill("grey", "vec4(0.25)", {.target = coded}));
  frame.add(passes::copy({.name = "decode", .from = {.target = coded}, .to = {.target = linear}}));
  frame.add(fill("small", "vec4(6.0)", {.target = small}));
  frame.add(fill("large", "vec4(2.0)", {.target = chain}));
  frame.add(passes::copy({.name = "level", .from = {.target = small}, .to = {.target = chain, .level = 1}}));
  gl::FrameRunner runner(device, planned(frame, device));
  runner.run(0);
  REQUIRE(runner.read("wide").at(4, 4)[0] == 65535);
  REQUIRE(runner.read("linear").at(4, 4)[0] == Approx(0.25).margin(0.005));
  REQUIRE(runner.read("chain").at(4, 4)[0] == 2);
  REQUIRE(runner.read("chain", {.level = 1}).at(3, 3)[0] == 6);
}

TEST_CASE_METHOD(TestDevice, "a mip chain holds the means of what each pixel covers") {
  FrameGraph frame;
  const TargetHandle chain = frame.target("chain", {.format = Format::rgba32f, .levels = 0});
  frame.keep(chain);
  frame.add(fill("ramp", ramp, {.target = chain}));
  frame.add(passes::mip_chain({.levels = chain}));
  gl::FrameRunner runner(device, planned(frame, device));
  runner.run(0);
  for (int level = 1; level < 4; ++level) {
    const Image image = runner.read("chain", {.level = level});
    const int size = 8 >> level, step = 1 << level;
    REQUIRE(image.width() == size);
    for (int x = 0; x < size; ++x) REQUIRE(image.at(x, 0)[0] == Approx(step * (x + 0.5)));
  }
}

TEST_CASE_METHOD(TestDevice, "a resolve by hand follows its own rule, and copies where there is one sample") {
  for (const int samples : {1, 4}) {
    FrameGraph frame;
    const TargetHandle from = frame.target("from", {.format = Format::r32f, .samples = samples});
    const TargetHandle most = frame.target("most", {.format = Format::r32f});
    frame.keep(most);
    frame.add(fill("draw", samples > 1 ? "vec4(float(gl_SampleID))" : "vec4(3.0)", {.target = from}));
    frame.add(passes::resolve({.from = {.target = from}, .to = {.target = most}, .by = ResolveRule::greatest}));
    gl::FrameRunner runner(device, planned(frame, device));
    runner.run(0);
    REQUIRE(runner.read("most").at(5, 5)[0] == 3);
  }
}

TEST_CASE("copies that OpenGL would refuse, or that mean nothing, are told by their causes") {
  const auto slug = [](TargetDescription a, TargetDescription b, passes::Copy copy) {
    FrameGraph frame;
    copy.from.target = frame.target("a", a);
    copy.to.target = frame.target("b", b);
    frame.keep("b");
    Pass draw;
    draw.name = "draw";
    draw.writes = {{info(a.format).depth ? "depth" : "color", copy.from.target}};
    draw.work = gl::work([](gl::PassSetup&) { return nullptr; });
    frame.add(std::move(draw));
    frame.add(passes::copy(copy));
    const PlanResult result = frame.plan(16, 16);
    return result.diagnostics().empty() ? "" : result.diagnostics()[0].slug;
  };
  using D = TargetDescription;
  const D color{.format = Format::rgba8}, half{.format = Format::rgba16f}, ids{.format = Format::r32ui},
      signs{.format = Format::r32i}, depth{.format = Format::depth32f}, other_depth{.format = Format::depth24};
  CHECK(slug(color, half, {}).empty());
  CHECK(slug(ids, signs, {}) == "copy-formats");
  CHECK(slug(color, ids, {}) == "copy-formats");
  CHECK(slug(depth, other_depth, {}) == "copy-formats");
  CHECK(slug(depth, color, {}) == "copy-formats");
  CHECK(slug(depth, depth, {}).empty());
  CHECK(slug(depth, depth, {.filter = passes::Stretch::linear}) == "copy-filter");
  CHECK(slug(ids, ids, {.filter = passes::Stretch::linear}) == "copy-filter");
  CHECK(slug(color, color, {.from_area = {8, 8, 9, 1}}) == "area-outside");
  CHECK(slug(color, color, {.to_area = {-1, 0, 4, 4}}) == "area-outside");
  CHECK(slug(color, color, {.to_area = {0, 0, 4, 0}}) == "area-outside");
  CHECK(slug(color, color, {.to = {.level = 1}}) == "no-such-level");
  CHECK(slug(color, {.format = Format::rgba8, .layers = 2}, {}) == "copy-layers");
  CHECK(slug(color, {.format = Format::rgba8, .samples = 4}, {}) == "copy-samples");
}
