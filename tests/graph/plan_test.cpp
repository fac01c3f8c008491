#include "graph/frames.h"
#include "thrown.h"

#include <cmath>

using namespace periscena;
using Names = std::vector<std::string>;

namespace {

FrameGraph frame_with(const Names& targets) {
  FrameGraph frame;
  for (const std::string& name : targets) {
    frame.target(name, {.format = name.starts_with("depth") ? Format::depth32f : Format::rgba16f});
  }
  return frame;
}

}  // namespace

TEST_CASE("a frame without mistakes becomes a plan with sizes, bytes and load actions") {
  FrameGraph frame;
  const TargetHandle color =
      frame.target("scene.color", {.format = Format::rgba16f, .size = TargetSize::of_frame(0.5f)});
  Pass scene = pass_of("scene", {}, {});
  scene.writes = {{"color", color}};
  frame.add(std::move(scene));
  frame.add(pass_of("more", {}, {"scene.color"}));
  frame.add(pass_of("finish", {"scene.color"}, {"output"}, Covering::replaces));
  const PlanResult result = frame.plan(101, 33);
  REQUIRE(result.diagnostics().empty());
  const FramePlan& plan = result.value();
  REQUIRE(order(plan) == Names{"scene", "more", "finish"});
  const PlannedTarget& target = plan.targets()[*plan.find_target("scene.color")];
  REQUIRE(target.width == 51);  // rounded up
  REQUIRE(target.height == 17);
  REQUIRE(target.bytes == 51 * 17 * 8);
  REQUIRE(plan.bytes() == 51 * 17 * 8 + 101 * 33 * 4);
  REQUIRE(plan.passes()[0].writes[0].load == LoadAction::clear);
  REQUIRE(plan.passes()[1].writes[0].load == LoadAction::keep);
  REQUIRE(plan.passes()[2].writes[0].load == LoadAction::discard);
  REQUIRE(plan.passes()[0].width == 51);
  REQUIRE(plan.output().has_value());
}

TEST_CASE("every mistake of a frame is told, not only the first") {
  FrameGraph frame = frame_with({"a", "b", "depth"});
  frame.target("small", {.format = Format::rgba16f, .size = TargetSize::pixels(8, 8)});
  frame.target("a", {});                                     // taken
  frame.target("bad", {.size = TargetSize::pixels(-3, 5)});  // and unused, but that is only a warning
  frame.add(pass_of("one", {"clor"}, {"a"}));                // unknown
  frame.add(pass_of("one", {"b"}, {"a"}));                   // name taken; b is never written
  frame.add(pass_of("loop", {"a"}, {"a"}));                  // feedback
  frame.add(pass_of("sizes", {}, {"a", "small"}));           // sizes differ
  frame.add(pass_of("nothing", {"a"}, {}));                  // writes nothing
  const PlanResult result = frame.plan(100, 100);
  REQUIRE_FALSE(result.ok());
  const Names found = slugs(result.diagnostics());
  for (const char* slug : {"taken-name", "bad-size", "unknown-target", "unwritten-target", "feedback-loop",
                           "size-mismatch", "writes-nothing", "no-output"}) {
    INFO(slug);
    REQUIRE(std::count(found.begin(), found.end(), slug) >= 1);
  }
  REQUIRE(thrown_slug([&] { result.value(); }) == found[0]);
}

TEST_CASE("an unknown target is told with the nearest name and the C++ line that used it") {
  FrameGraph frame = frame_with({"scene.color"});
  frame.add(pass_of("scene", {}, {"scene.color"}));
  Pass finish = pass_of("finish", {}, {"output"});
  finish.reads.push_back({"scene", "scene.colour"});
  const int line = __LINE__ - 1;
  frame.add(std::move(finish));
  const PlanResult result = frame.plan(10, 10);
  REQUIRE(result.diagnostics().size() == 1);
  REQUIRE(result.diagnostics()[0].message == "pass \"finish\" uses \"scene.colour\", which is no target");
  REQUIRE(result.diagnostics()[0].mend == "did you mean \"scene.color\"?");
  REQUIRE(result.diagnostics()[0].place.line == line);
}

TEST_CASE("passes that wait for each other are told as a ring, with what they wait for") {
  FrameGraph frame = frame_with({"x", "y"});
  frame.add(pass_of("first", {"y"}, {"x"}));
  frame.add(pass_of("second", {"x"}, {"y"}));
  frame.add(pass_of("last", {"x"}, {"output"}));
  const PlanResult result = frame.plan(10, 10);
  REQUIRE(slugs(result.diagnostics()) == Names{"cycle"});
  REQUIRE_THAT(result.diagnostics()[0].message,
               Catch::Contains("\"second\" makes \"y\" for \"first\", which makes \"x\" for \"second\""));
  REQUIRE_THAT(result.diagnostics()[0].message, !Catch::Contains("last"));
}

TEST_CASE("nothing that reaches the output is told with the mend, an empty frame too") {
  FrameGraph frame = frame_with({"a"});
  frame.add(pass_of("scene", {}, {"a"}));
  REQUIRE(slugs(frame.plan(10, 10).diagnostics()) == Names{"no-output"});
  REQUIRE(slugs(FrameGraph().plan(10, 10).diagnostics()) == Names{"no-passes"});
  frame.keep("a");
  REQUIRE(frame.plan(10, 10).ok());
  frame.keep("b");
  REQUIRE(slugs(frame.plan(10, 10).diagnostics()) == Names{"unknown-target"});
}

TEST_CASE("depth goes to depth, colour to colour, each target and slot once") {
  FrameGraph frame = frame_with({"a", "depth", "depth.two"});
  Pass wrong = pass_of("wrong", {}, {"output"});
  wrong.writes.push_back({"normal", Reference("depth")});
  wrong.writes.push_back({"depth", Reference("a")});
  frame.add(std::move(wrong));
  Pass twice = pass_of("twice", {}, {"output", "a"});
  twice.writes.push_back({"b", Reference("a")});
  twice.writes.push_back({"a", Reference("output")});
  frame.add(std::move(twice));
  frame.add(pass_of("depths", {}, {"depth", "depth.two"}));
  const Names found = slugs(frame.plan(10, 10).diagnostics());
  REQUIRE(std::count(found.begin(), found.end(), "wrong-attachment") == 2);
  REQUIRE(std::count(found.begin(), found.end(), "written-twice") == 2);
  REQUIRE(std::count(found.begin(), found.end(), "taken-name") == 2);
  REQUIRE(std::count(found.begin(), found.end(), "two-depths") == 1);
}

TEST_CASE("sizes over a device's limit are errors when the device was asked, else warnings") {
  FrameGraph frame = frame_with({"a"});
  frame.target("huge", {.size = TargetSize::pixels(100000, 100000)});
  frame.add(pass_of("scene", {}, {"huge"}));
  frame.add(pass_of("finish", {"huge"}, {"output"}));
  const PlanResult unasked = frame.plan(10, 10);
  REQUIRE(unasked.ok());
  REQUIRE(slugs(unasked.diagnostics()) == Names{"over-guaranteed-limit", "unused-target", "over-memory"});
  DeviceLimits limits;
  limits.asked = true;
  const PlanResult asked = frame.plan(10, 10, limits);
  REQUIRE_FALSE(asked.ok());
  REQUIRE(asked.diagnostics()[0].slug == "over-device-limit");
  REQUIRE_THAT(asked.diagnostics()[0].message, Catch::Contains("100000 x 100000"));
}

TEST_CASE("numbers that make no sense are refused: sizes, scales, clear values") {
  FrameGraph frame;
  frame.target("scale", {.size = TargetSize::of_frame(0)});
  frame.target("nan", {.size = TargetSize::of_frame(std::nanf(""))});
  frame.target("clear", {.clear_color = {0, std::nanf(""), 0, 0}});
  frame.target("depth", {.format = Format::depth32f, .clear_depth = 2});
  frame.add(pass_of("all", {}, {"scale", "nan", "clear", "depth", "output"}));
  REQUIRE(slugs(frame.plan(4, 4).diagnostics()) == Names{"bad-size", "bad-size", "not-finite", "out-of-range"});
  REQUIRE(slugs(frame.plan(0, -4).diagnostics())[0] == "bad-size");
}

TEST_CASE("more colours than a device takes are refused") {
  Names targets;
  for (int i = 0; i < 9; ++i) targets.push_back("t" + std::to_string(i));
  FrameGraph frame = frame_with(targets);
  frame.add(pass_of("wide", {}, targets));
  frame.add(pass_of("finish", {"t0"}, {"output"}));
  REQUIRE(slugs(frame.plan(4, 4).diagnostics()) == Names{"over-device-limit"});
}

TEST_CASE("a handle of another frame is refused, an unused target is a warning") {
  FrameGraph one = frame_with({"a", "b", "c"});
  const TargetHandle foreign = one.target("d", {});
  FrameGraph two = frame_with({"idle"});
  Pass pass = pass_of("p", {}, {"output"});
  pass.reads.push_back({"x", foreign});
  two.add(std::move(pass));
  REQUIRE(slugs(two.plan(4, 4).diagnostics()) == Names{"unknown-target"});
}

TEST_CASE("problems that a pass' maker found are told with the frame's own") {
  FrameGraph frame;
  Pass pass = pass_of("p", {"nowhere"}, {"output"});
  pass.problems.error("unknown-view", {}, "looks through nothing");
  pass.work = nullptr;
  frame.add(std::move(pass));
  REQUIRE(slugs(frame.plan(4, 4).diagnostics()) == Names{"unknown-target", "unknown-view"});
}
