#include "graph/frames.h"
#include "thrown.h"

#include <periscena/graph/attachments.h>

using namespace periscena;
using Names = std::vector<std::string>;

namespace {

/// A device that has these counts for every format, and 1 or 2 for integers.
DeviceLimits device_with(std::vector<int> counts) {
  DeviceLimits limits;
  limits.asked = true;
  for (const FormatInfo& format : all_formats())
    limits.sample_counts.push_back(format.integer() ? std::vector{2} : counts);
  return limits;
}

int samples_of(const FramePlan& plan, const char* target) {
  return plan.targets()[*plan.find_target(target)].samples;
}

FrameGraph geometry_frame(int color_samples, int depth_samples) {
  FrameGraph frame;
  frame.target("color", {.samples = color_samples});
  frame.target("depth", {.format = Format::depth32f, .samples = depth_samples});
  frame.add(pass_of("scene", {}, {"color", "depth"}));
  frame.add(pass_of("finish", {"color"}, {"output"}));
  return frame;
}

}  // namespace

TEST_CASE("one key is enough: targets that a pass writes together have the count of the one that says it") {
  const FramePlan plan = geometry_frame(4, 0).plan(8, 8).value();
  REQUIRE(samples_of(plan, "color") == 4);
  REQUIRE(samples_of(plan, "depth") == 4);
  REQUIRE(samples_of(plan, "output") == 1);
  REQUIRE(plan.passes()[0].samples == 4);
  REQUIRE(samples_of(geometry_frame(0, 0).plan(8, 8).value(), "depth") == 1);
}

TEST_CASE("a resolve is put in at the last moment, once for as long as nothing draws again") {
  FrameGraph frame = geometry_frame(4, 0);
  frame.target("other", {});
  frame.keep("other");
  frame.add(pass_of("second reader", {"color"}, {"other"}));
  const FramePlan plan = frame.plan(8, 8).value();
  REQUIRE(order(plan) == Names{"scene", "color: 4 samples to one", "finish", "second reader"});
  REQUIRE(plan.targets()[plan.passes()[2].reads[0].target].name == "color (resolved)");
  REQUIRE(plan.passes()[2].reads[0].target == plan.passes()[3].reads[0].target);
  // Drawn over between two readers, it is resolved again.
  FrameGraph again = geometry_frame(4, 0);
  again.target("other", {});
  again.keep("other");
  again.add(pass_of("glass", {}, {"color"}));
  again.add(pass_of("second reader", {"color"}, {"other"}));
  REQUIRE(order(again.plan(8, 8).value()) ==
          Names{"scene", "color: 4 samples to one", "finish", "glass", "color: 4 samples to one", "second reader"});
}

TEST_CASE("counts that a device lacks are rounded down, with what was got, below the least, up to it") {
  const auto planned = [](int wanted, std::vector<int> counts) {
    return geometry_frame(wanted, 0).plan(8, 8, device_with(std::move(counts)));
  };
  const PlanResult six = planned(6, {2, 4, 8});
  REQUIRE(samples_of(six.value(), "color") == 4);
  REQUIRE(samples_of(six.value(), "depth") == 4);
  REQUIRE(slugs(six.diagnostics()) == Names{"sample-count"});
  REQUIRE_THAT(six.diagnostics()[0].message, Catch::Contains("asks for 6 samples and gets 4"));
  REQUIRE_THAT(six.diagnostics()[0].mend, Catch::Contains("2, 4, 8"));
  REQUIRE(samples_of(planned(64, {2, 4, 8}).value(), "color") == 8);
  REQUIRE(samples_of(planned(2, {4}).value(), "color") == 4);  // as OpenGL itself rounds
  REQUIRE(samples_of(planned(4, {}).value(), "color") == 1);
  REQUIRE(planned(4, {4}).diagnostics().empty());
  // What is written together takes the count that all have.
  FrameGraph ids = geometry_frame(4, 0);
  ids.target("ids", {.format = Format::r32ui});
  ids.add(pass_of("more", {}, {"color", "ids"}));
  ids.add(pass_of("end", {"color"}, {"output"}));
  REQUIRE(samples_of(ids.plan(8, 8, device_with({2, 4})).value(), "color") == 2);
  // Without a device: what OpenGL guarantees.
  REQUIRE(slugs(geometry_frame(8, 0).plan(8, 8).diagnostics()) == Names{"over-guaranteed-limit"});
}

TEST_CASE("mixed counts and averages of what has no mean are refused with the way out") {
  const PlanResult mixed = geometry_frame(4, 1).plan(8, 8);
  REQUIRE(slugs(mixed.diagnostics()) == Names{"sample-mismatch"});
  REQUIRE_THAT(mixed.diagnostics()[0].message, Catch::Contains("\"color\" of 4 and \"depth\" of 1 sample"));
  REQUIRE_THAT(mixed.diagnostics()[0].mend, Catch::Contains("ids in a second pass at one sample"));
  const auto refusal = [](const TargetDescription& description) {
    FrameGraph frame;
    frame.target("t", description);
    frame.add(pass_of("p", {}, {"output"}));
    const Diagnostics found = frame.plan(8, 8).diagnostics();
    return found.empty() ? "" : found[0].slug;
  };
  using D = TargetDescription;
  REQUIRE(refusal(D{.format = Format::r32ui, .resolve = ResolveRule::average}) == "average-of-integers");
  REQUIRE(refusal(D{.format = Format::depth32f, .resolve = ResolveRule::average}) == "average-of-depth");
  REQUIRE(refusal(D{.holds = Holds::normal, .resolve = ResolveRule::average}) == "average-of-depth");
  REQUIRE(refusal(D{.format = Format::stencil8, .resolve = ResolveRule::least}) == "stencil-rule");
  REQUIRE(refusal(D{.samples = 4, .levels = 3}) == "samples-and-levels");
  REQUIRE(refusal(D{.samples = 65}) == "out-of-range");
  REQUIRE(refusal(D{.levels = 5}) == "bad-levels");  // 8 x 8 has 4
  REQUIRE(refusal(D{.layers = 0}) == "bad-layers");
  REQUIRE(refusal(D{.layers = 100000}) == "bad-layers");
  REQUIRE(refusal(D{.size = TargetSize::pixels(8, 4), .shape = TargetShape::cube}) == "cube-not-square");
  REQUIRE(refusal(D{.format = Format::r8ui, .clear_color = {256, 0, 0, 0}}) == "out-of-range");
  REQUIRE(refusal(D{.format = Format::r8i, .clear_color = {0.5f, 0, 0, 0}}) == "out-of-range");
  REQUIRE(refusal(D{.clear_stencil = 256}) == "out-of-range");
}

TEST_CASE(
    "samples are read by those who can: a program for one sample gets a resolve, and of one sample there are none") {
  FrameGraph frame = geometry_frame(1, 0);
  frame.target("other", {});
  frame.keep("other");
  Pass reader = pass_of("reader", {"color"}, {"other"});
  reader.reads[0].samples = SampleReading::each;
  frame.add(reader);
  REQUIRE(slugs(frame.plan(8, 8).diagnostics()) == Names{"no-samples"});
}
