#include "gl/draws.h"

using namespace periscena;

namespace {

/// A picture of what time it was when a pass ran, every third frame, shown in each; another pass leads to it alone.
struct Clock {
  FrameGraph frame;

  Clock() {
    const TargetHandle before = frame.target("before", {.format = Format::r32f}),
                       seen = frame.target("seen", {.format = Format::r32f});
    const TargetHandle shown = frame.target("shown", {.format = Format::r32f}),
                       scratch = frame.target("scratch", {.format = Format::r32f});
    frame.keep(shown);
    frame.add(fill("leads there", "frame.time", {.target = before}, "float"));
    Pass pass = fill("clock", "texelFetch(before, ivec2(0), 0).r", {.target = seen}, "float",
                     {{.slot = "before", .target = before}}, "uniform sampler2D before;\n");
    pass.every = 3;
    frame.add(std::move(pass));
    frame.add(fill("uses memory", "-1.0", {.target = scratch}, "float"));
    frame.add(fill("shows", "texelFetch(seen, ivec2(0), 0).r + texelFetch(scratch, ivec2(0), 0).r + 1.0",
                   {.target = shown}, "float",
                   {{.slot = "seen", .target = seen}, {.slot = "scratch", .target = scratch}},
                   "uniform sampler2D seen, scratch;\n"));
  }
};

double shown(gl::FrameRunner& runner, double seconds) {
  runner.run(seconds);
  return runner.read("shown").at(3, 3)[0];
}

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "a pass of every third frame leaves its picture in between, and what leads to it alone does not run") {
  const Clock clock;
  gl::FrameRunner runner(device, planned(clock.frame, device));
  for (int i = 0; i < 10; ++i) {
    const double found = shown(runner, 1 + i);
    INFO("frame " << i);
    CHECK(found == 1 + i / 3 * 3);
    const bool runs = i % 3 == 0;
    CHECK(runner.counts(0).draw_calls == (runs ? 1 : 0));
    CHECK(runner.counts(1).draw_calls == (runs ? 1 : 0));
    CHECK(runner.counts(3).draw_calls == 1);
  }
}

TEST_CASE_METHOD(TestDevice, "a picture that is asked for alone, of another size, or to be measured, has all anew") {
  const Clock clock;
  gl::FrameRunner runner(device, planned(clock.frame, device));
  CHECK(shown(runner, 1) == 1);
  CHECK(shown(runner, 2) == 1);
  runner.run_settled(5, 60, 60);
  CHECK(runner.read("shown").at(0, 0)[0] == 5);
  CHECK(shown(runner, 6) == 5);
  runner.use(planned(clock.frame, device, 16, 16));
  CHECK(shown(runner, 7) == 7);
  CHECK(shown(runner, 8) == 7);
  runner.draw_all_anew();
  CHECK(shown(runner, 9) == 9);
  runner.reset_history();
  CHECK(shown(runner, 10) == 10);
}

TEST_CASE("what rests has no history") {
  FrameGraph frame;
  const TargetHandle sum = frame.target("sum", {.format = Format::r32f});
  frame.keep(sum);
  Pass seldom = fill("seldom", "texture(last, uv).r + 1.0", {.target = sum}, "float",
                     {{.slot = "last", .target = sum, .history = 1}}, "uniform sampler2D last;\n");
  seldom.every = 2;
  frame.add(std::move(seldom));
  CHECK_THAT(to_text(frame.plan(8, 8).diagnostics()), Catch::Contains("resting-history") && Catch::Contains("\"sum\""));
}

TEST_CASE("passes that draw into one target run in the same frames, and rates are 1 or more") {
  FrameGraph frame;
  Pass seldom = fill("seldom", "vec4(1.0)", {.target = frame.output()});
  seldom.every = 4;
  frame.add(std::move(seldom));
  frame.add(fill("always", "vec4(0.5)", {.target = frame.output()}));
  Pass never = fill("never", "vec4(1.0)", {.target = frame.output()});
  never.every = 0;
  frame.add(std::move(never));
  const std::string told = to_text(frame.plan(8, 8).diagnostics());
  CHECK_THAT(told, Catch::Contains("uneven-rates") && Catch::Contains("set every = 4 in both"));
  CHECK_THAT(told, Catch::Contains("out-of-range") && Catch::Contains("choose 1 or more"));
}
