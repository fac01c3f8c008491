#include "graph/frames.h"
#include "thrown.h"

using namespace periscena;
using Names = std::vector<std::string>;

namespace {

Pass part_pass(const std::string& name, std::vector<Read> reads, Write write) {
  Pass pass = pass_of(name, {}, {});
  pass.reads = std::move(reads);
  write.slot = "color";
  pass.writes = {std::move(write)};
  return pass;
}

}  // namespace

TEST_CASE("each mip level counts for itself: a chain of levels runs in order, however it was declared") {
  FrameGraph frame;
  const TargetHandle chain = frame.target("chain", {.levels = 3});
  frame.add(part_pass("end", {{.slot = "x", .target = chain}}, {.target = frame.output()}));
  frame.add(part_pass("two", {{.slot = "x", .target = chain, .level = 1}}, {.target = chain, .level = 2}));
  frame.add(part_pass("one", {{.slot = "x", .target = chain, .level = 0}}, {.target = chain, .level = 1}));
  frame.add(part_pass("zero", {}, {.target = chain}));
  REQUIRE(order(frame.plan(8, 8).value()) == Names{"zero", "one", "two", "end"});
}

TEST_CASE("a pass may read one level and write another, but not the same, and not all") {
  const auto slug = [](int read, int write) {
    FrameGraph frame;
    const TargetHandle chain = frame.target("chain", {.levels = 2});
    frame.keep(chain);
    frame.add(part_pass("zero", {}, {.target = chain}));
    frame.add(part_pass("one", {{.slot = "x", .target = chain, .level = read}}, {.target = chain, .level = write}));
    const Diagnostics found = frame.plan(8, 8).diagnostics();
    return found.empty() ? "" : found[0].slug;
  };
  REQUIRE(slug(0, 1).empty());
  REQUIRE(slug(1, 1) == "feedback-loop");
  REQUIRE(slug(all_levels, 1) == "feedback-loop");
  REQUIRE(slug(0, 2) == "no-such-level");
  REQUIRE(slug(7, 1) == "no-such-level");
}

TEST_CASE("a level or layer that nobody writes is told when it is read") {
  FrameGraph frame;
  const TargetHandle array = frame.target("array", {.layers = 3});
  frame.add(part_pass("one", {}, {.target = array, .layer = 0}));
  frame.add(part_pass("two", {}, {.target = array, .layer = 2}));
  frame.add(part_pass("end", {{.slot = "x", .target = array}}, {.target = frame.output()}));
  const PlanResult result = frame.plan(8, 8);
  REQUIRE(slugs(result.diagnostics()) == Names{"unwritten-part"});
  REQUIRE_THAT(result.diagnostics()[0].message, Catch::Contains("level 0, layer 1"));
}

TEST_CASE("history needs what the frame before wrote, without waiting for it in this one") {
  FrameGraph frame;
  const TargetHandle a = frame.target("a", {});
  // The reader comes first, and the writer is needed although nothing reads it within the frame.
  frame.add(part_pass("end", {{.slot = "x", .target = a, .history = 1}}, {.target = frame.output()}));
  frame.add(part_pass("make", {}, {.target = a}));
  const FramePlan plan = frame.plan(8, 8).value();
  REQUIRE(order(plan) == Names{"end", "make"});
  REQUIRE(plan.targets()[*plan.find_target("a")].frames == 2);
  REQUIRE(plan.has_history());
  FrameGraph wrong;
  const TargetHandle b = wrong.target("b", {}), c = wrong.target("c", {});
  wrong.add(part_pass("one", {{.slot = "x", .target = b, .history = 1}}, {.target = c}));
  wrong.add(part_pass("two", {{.slot = "x", .target = c, .history = 17}}, {.target = wrong.output()}));
  REQUIRE(slugs(wrong.plan(8, 8).diagnostics()) == Names{"unwritten-target", "out-of-range"});
}

TEST_CASE("a program's outputs and samplers are compared with what is attached, naming both sides") {
  const auto found = [](const ShaderInterface& shader, Format written, TargetDescription read = {}) {
    FrameGraph frame;
    const TargetHandle in = frame.target("in", read), out = frame.target("out", {.format = written});
    frame.keep(out);
    frame.add(pass_of("make", {}, {"in"}));
    Pass pass = pass_of("use", {}, {});
    pass.reads = {{"source", in}};
    pass.writes = {{"color", out}};
    pass.shader = shader;
    frame.add(std::move(pass));
    return frame.plan(8, 8).diagnostics();
  };
  const FragmentOutput color{"color", ValueKind::floating, 0}, more{"more", ValueKind::floating, 1},
      same{"color2", ValueKind::floating, 0};
  const SamplerDeclaration flat{"source", ValueKind::floating, SamplerShape::flat};
  REQUIRE(found({"a.frag", {color}, {flat}}, Format::rgba8).empty());
  const Diagnostics lost = found({"a.frag", {color, more}, {flat}}, Format::rgba8);
  REQUIRE(slugs(lost) == Names{"lost-output"});
  REQUIRE(lost[0].message ==
          "\"a.frag\" has an output \"more\" that goes nowhere: pass \"use\" writes no target of that name");
  const Diagnostics type = found({"a.frag", {color}, {flat}}, Format::r32ui);
  REQUIRE(slugs(type) == Names{"output-type"});
  REQUIRE_THAT(type[0].message, Catch::Contains("output \"color\" of \"a.frag\" is float") &&
                                    Catch::Contains("target \"out\" is r32ui, which takes uint"));
  const Diagnostics sampler = found({"a.frag", {color}, {flat}}, Format::rgba8, {.layers = 2});
  REQUIRE(slugs(sampler) == Names{"sampler-type"});
  REQUIRE_THAT(sampler[0].mend, Catch::Contains("uniform sampler2DArray source;"));
  REQUIRE_THAT(found({"a.frag", {color}, {flat}}, Format::rgba8, {.format = Format::rg16i}).end()[-1].mend,
               Catch::Contains("uniform isampler2D source;"));
  // Two outputs at one location.
  FrameGraph frame;
  Pass twice = pass_of("twice", {}, {"output", "t"});
  frame.target("t", {});
  twice.writes[0].slot = "color";
  twice.writes[1].slot = "color2";
  twice.shader = ShaderInterface{"b.frag", {color, same}, {}};
  frame.add(std::move(twice));
  const Diagnostics location = frame.plan(8, 8).diagnostics();
  REQUIRE(slugs(location) == Names{"location-twice"});
  REQUIRE(location[0].message == "\"b.frag\" gives its outputs \"color\" and \"color2\" the same location 0");
}
