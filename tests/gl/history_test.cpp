#include "gl/draws.h"

using namespace periscena;

namespace {

/// total = total of the frame before + 1, and what it was `ago` frames ago.
struct Counter {
  FrameGraph frame;
  TargetHandle total = frame.target("total", {.format = Format::r32f, .clear_color = {100, 0, 0, 0}});
  TargetHandle earlier = frame.target("earlier", {.format = Format::r32f});

  explicit Counter(int ago = 2) {
    frame.keep(total);
    frame.keep(earlier);
    frame.add(fill("count", "texture(last, uv) + 1.0", {.target = total}, "vec4",
                   {{.slot = "last", .target = total, .history = 1}}, "uniform sampler2D last;\n"));
    frame.add(fill("look back", "texture(was, uv)", {.target = earlier}, "vec4",
                   {{.slot = "was", .target = total, .history = ago}}, "uniform sampler2D was;\n"));
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "a target is read as it was frames ago, and the first frame sees the clear values") {
  Counter counter;
  const FramePlan plan = planned(counter.frame, device);
  REQUIRE(plan.has_history());
  gl::FrameRunner runner(device, plan);
  const double earlier[] = {100, 100, 101, 102, 103};
  for (int i = 0; i < 5; ++i) {
    runner.run(0);
    REQUIRE(runner.read("total").at(3, 3)[0] == 101 + i);
    REQUIRE(runner.read("earlier").at(3, 3)[0] == earlier[i]);
  }
  runner.reset_history();
  runner.run(0);
  REQUIRE(runner.read("total").at(0, 7)[0] == 101);
  REQUIRE(runner.read("earlier").at(0, 7)[0] == 100);
}

TEST_CASE_METHOD(TestDevice, "a settled frame is the same whenever it is asked for") {
  FrameGraph frame;
  const TargetHandle trail = frame.target("trail", {.format = Format::r32f});
  frame.keep(trail);
  frame.add(fill("trail", "0.5 * texture(last, uv) + vec4(frame.time)", {.target = trail}, "vec4",
                 {{.slot = "last", .target = trail, .history = 1}}, "uniform sampler2D last;\n"));
  gl::FrameRunner runner(device, planned(frame, device));
  runner.run_settled(2, 3, 4);
  // 2 + 1.75 / 2 + 1.5 / 4 + 1.25 / 8, a frame every quarter of a second
  REQUIRE(runner.read("trail").at(1, 1)[0] == 2 + 0.875 + 0.375 + 0.15625);
  runner.run(9);
  runner.run_settled(2, 3, 4);
  REQUIRE(runner.read("trail").at(1, 1)[0] == 2 + 0.875 + 0.375 + 0.15625);
}

TEST_CASE_METHOD(TestDevice, "another size resets the history of what follows the frame, and of nothing else") {
  FrameGraph frame;
  TargetHandle follows = frame.target("follows", {.format = Format::r32f});
  TargetHandle fixed = frame.target("fixed", {.format = Format::r32f, .size = TargetSize::pixels(4, 4)});
  frame.keep(follows);
  frame.keep(fixed);
  for (const auto& [name, target] : {std::pair{"one", follows}, std::pair{"two", fixed}}) {
    frame.add(fill(name, "texture(last, uv) + 1.0", {.target = target}, "vec4",
                   {{.slot = "last", .target = target, .history = 1}}, "uniform sampler2D last;\n"));
  }
  gl::FrameRunner runner(device, planned(frame, device));
  for (int i = 0; i < 3; ++i) runner.run(0);
  REQUIRE(runner.diagnostics().empty());
  runner.use(planned(frame, device, 16, 8));
  runner.run(0);
  const std::string told = to_text(runner.diagnostics());
  CHECK_THAT(told, Catch::Contains("warning[history-lost]") &&
                       Catch::Contains("\"follows\" is 16 x 8 pixels now, and was 8 x 8") &&
                       !Catch::Contains("\"fixed\""));
  REQUIRE(runner.read("follows").width() == 16);
  REQUIRE(runner.read("follows").at(9, 1)[0] == 1);
  REQUIRE(runner.read("fixed").at(1, 1)[0] == 4);
}

TEST_CASE_METHOD(TestDevice, "the history of a multisampled target is that of its ordinary form") {
  FrameGraph frame;
  const TargetHandle samples = frame.target("samples", {.format = Format::r32f, .samples = 4});
  const TargetHandle plain = frame.target("plain", {.format = Format::r32f});
  frame.keep(plain);
  frame.add(fill("draw", "vec4(float(gl_SampleID) + 4.0 * frame.time)", {.target = samples}));
  frame.add(fill("use", "texture(last, uv)", {.target = plain}, "vec4",
                 {{.slot = "last", .target = samples, .history = 1}}, "uniform sampler2D last;\n"));
  gl::FrameRunner runner(device, planned(frame, device));
  runner.run(0);
  REQUIRE(runner.read("plain").at(0, 0)[0] == 0);
  runner.run(1);
  REQUIRE(runner.read("plain").at(0, 0)[0] == 1.5);
  runner.run(2);
  REQUIRE(runner.read("plain").at(0, 0)[0] == 5.5);
}
