#include "gl/draws.h"
#include "passes/picture_pass.h"

#include <periscena/passes/trails.h>
#include <periscena/passes/transition.h>

#include <cmath>
#include <limits>

using namespace periscena;
using passes::Ease;
using passes::Transition;
using passes::TransitionWay;

namespace {

Vec3 first_at(int x, int y) {
  return Vec3(0.25f + 0.001f * static_cast<float>(x), 0.5f, 0.001f * static_cast<float>(y));
}

/// The first picture is at hand; the second is drawn by two passes that count how often they run.
struct Changing : PictureFrame {
  explicit Changing(Transition options, int wide = 60, int high = 40) : PictureFrame(picture_of(wide, high, first_at)) {
    const TargetHandle base = frame.target("base", {.format = Format::rgba32f}),
                       second = frame.target("second", {.format = Format::rgba32f});
    const TargetHandle shown = frame.target("first", {.format = Format::rgba32f});
    frame.add(counted(fill("draw first", "texture(light, uv)", {.target = shown}, "vec4", {{"light", light}},
                           "uniform sampler2D light;\n"),
                      0));
    frame.add(counted(fill("draw base", "vec4(0.1, 0.0, 0.0, 1.0)", {.target = base}), 1));
    frame.add(counted(fill("draw second", "texture(base, uv) + vec4(0.0, 1.0, 0.5, 0.0)", {.target = second}, "vec4",
                           {{"base", base}}, "uniform sampler2D base;\n"),
                      2));
    if (options.way == TransitionWay::displace) options.by = options.from = shown;
    options.from = shown;
    options.to = second;
    options.color = result;
    frame.add(passes::transition(options));
  }

  Pass counted(Pass pass, std::size_t index) {
    struct Counting final : gl::PassWork {
      Counting(std::unique_ptr<gl::PassWork> of, int& count) : work(std::move(of)), runs(count) {}
      void run(gl::PassContext& context) override {
        ++runs;
        work->run(context);
      }
      std::unique_ptr<gl::PassWork> work;
      int& runs;
    };
    pass.work = gl::work([before = pass.work, &count = ran[index]](gl::PassSetup& setup) {
      return std::make_unique<Counting>(before->make(setup), count);
    });
    return pass;
  }

  std::array<int, 3> ran{};
};

constexpr double second_green = 1;

}  // namespace

TEST_CASE_METHOD(TestDevice, "at its ends a transition is exactly one picture, and only that one is drawn") {
  for (const TransitionWay way :
       {TransitionWay::fade, TransitionWay::wipe, TransitionWay::dissolve, TransitionWay::displace}) {
    INFO(static_cast<int>(way));
    Changing changing({.way = way, .start_seconds = 2, .seconds = 4, .ease = Ease::linear});
    const Image before = changing.run(device, 1);
    CHECK(changing.ran == std::array{1, 0, 0});
    for (int x = 0; x < 60; ++x) REQUIRE(before.at(x, 7)[0] == first_at(x, 7)[0]);
    const Image after = changing.run(device, 6);
    CHECK(changing.ran == std::array{1, 1, 1});
    for (int x = 0; x < 60; ++x) REQUIRE(after.at(x, 7)[1] == second_green);
    changing.run(device, 4);
    CHECK(changing.ran == std::array{2, 2, 2});
    // The same time gives the same pixels again.
    CHECK(changing.run(device, 1).bytes().size() == before.bytes().size());
    CHECK(std::equal(before.bytes().begin(), before.bytes().end(), changing.run(device, 1).bytes().begin()));
  }
}

TEST_CASE_METHOD(TestDevice, "a wipe's edge is where its mask on the CPU is, in any direction") {
  for (const float degrees : {0.0f, 90.0f, 180.0f, -45.0f, 200.0f}) {
    for (const float softness : {0.0f, 0.3f}) {
      for (const float progress : {0.25f, 0.7f}) {
        const Transition options{.way = TransitionWay::wipe,
                                 .progress = progress,
                                 .ease = Ease::linear,
                                 .direction_degrees = degrees,
                                 .softness = softness};
        Changing changing(options);
        const Image image = changing.run(device);
        int wrong = 0;
        for (int y = 0; y < 40; ++y) {
          for (int x = 0; x < 60; ++x) {
            const double share =
                options.wiped((static_cast<float>(x) + 0.5f) / 60, 1 - (static_cast<float>(y) + 0.5f) / 40, progress);
            const double expected = 0.5 + share * (second_green - 0.5);
            // A hard edge may fall on either side of a pixel that it meets.
            wrong += std::abs(image.at(x, y)[1] - expected) > 1e-3;
          }
        }
        CHECK(wrong <= (softness > 0 ? 0 : 40));
      }
    }
  }
}

TEST_CASE_METHOD(TestDevice, "what has dissolved is as much as the progress says, in whole cells, and stays so") {
  Image earlier;
  for (const float progress : {0.3f, 0.6f}) {
    Changing changing(
        {.way = TransitionWay::dissolve, .progress = progress, .ease = Ease::linear, .softness = 0, .cell = 2}, 200,
        100);
    const Image image = changing.run(device);
    int gone = 0;
    for (int y = 0; y < 100; ++y) {
      for (int x = 0; x < 200; ++x) {
        const bool second = image.at(x, y)[1] == second_green;
        gone += second;
        REQUIRE(second == (image.at(x / 2 * 2, 99 - (99 - y) / 2 * 2)[1] == second_green));
        if (earlier.width() > 0 && earlier.at(x, y)[1] == second_green) REQUIRE(second);
      }
    }
    CHECK(gone / 20000.0 == Approx(progress).margin(0.03));  // 5,000 cells: 0.007 is one deviation
    earlier = image;
  }
}

TEST_CASE_METHOD(TestDevice, "GLSL of one's own says how much there is of the second picture") {
  const auto text = gl::ShaderText::from_text("own.frag",
                                              "#include \"periscena/transition.glsl\"\nfloat second_share(vec2 place, "
                                              "float progress) { return place.x < progress ? 1.0 : 0.0; }\n",
                                              passes::pass_shaders());
  Changing changing({.shader = text, .progress = 0.5f, .ease = Ease::linear});
  const Image image = changing.run(device);
  CHECK(image.at(29, 3)[1] == second_green);
  CHECK(image.at(30, 3)[1] == 0.5f);
}

TEST_CASE("progress is eased over absolute time, and holds before and after") {
  for (const Ease ease : {Ease::linear, Ease::smooth, Ease::slow_start, Ease::slow_end}) {
    const Transition options{.start_seconds = 10, .seconds = 4, .ease = ease};
    CHECK(options.progress_at(-100) == 0);
    CHECK(options.progress_at(10) == 0);
    CHECK(options.progress_at(14) == 1);
    CHECK(options.progress_at(1e9) == 1);
    float before = 0;
    for (double t = 10; t <= 14; t += 0.05) {
      CHECK(options.progress_at(t) >= before);
      before = options.progress_at(t);
    }
  }
  CHECK(Transition{.seconds = 2, .ease = Ease::smooth}.progress_at(1) == 0.5f);
  CHECK(Transition{.seconds = 2, .ease = Ease::slow_start}.progress_at(1) == 0.25f);
  CHECK(Transition{.seconds = 2, .ease = Ease::slow_end}.progress_at(1) == 0.75f);
}

TEST_CASE("a transition beyond its ends, or displaced by nothing, is refused") {
  FrameGraph frame;
  const TargetHandle one = frame.target("one", {});
  frame.add({.name = "draw", .writes = {{.slot = "color", .target = one}}});
  frame.add(passes::transition(
      {.way = TransitionWay::displace, .progress = 1.5f, .from = one, .to = one, .color = frame.output()}));
  const std::string told = to_text(frame.plan(8, 8).diagnostics());
  INFO(told);
  CHECK(told.find("\"progress\" is 1.5, out of its range") != std::string::npos);
  CHECK(told.find("displaces by no picture") != std::string::npos);
}

TEST_CASE_METHOD(TestDevice, "a trail has faded to 1 / e after its time, whatever the frame rate, and a cut has none") {
  for (const int rate : {4, 30}) {
    PictureFrame one(picture_of(8, 8, [](int, int) -> Vec3 { return Vec3::constant(100); }));
    one.frame.add(passes::trails({.seconds = 0.5f, .from = one.light, .color = one.result}));
    CHECK(one.run(device, 10).at(2, 2)[0] == 100);
    one.show(picture_of(8, 8, [](int, int) -> Vec3 { return Vec3::constant(1); }));
    double left = 0;
    for (int i = 1; i <= rate; ++i) left = one.run(device, 10 + 0.5 * i / rate).at(2, 2)[0];
    CHECK(left == Approx(100 / std::exp(1.0)).epsilon(1e-3));
    CHECK(one.run(device, 3).at(2, 2)[0] == 1);
    one.runner(device).reset_history();
    CHECK(one.run(device, 3.1).at(2, 2)[0] == 1);
  }
}

TEST_CASE_METHOD(TestDevice, "a running mean keeps what stands still, and what is no number does not stay") {
  const auto strange = std::numeric_limits<float>::quiet_NaN();
  PictureFrame one(picture_of(8, 8, [&](int x, int) -> Vec3 { return Vec3::constant(x == 3 ? strange : 2.0f); }));
  one.frame.add(passes::trails({.seconds = 1, .mix = passes::TrailMix::mean, .from = one.light, .color = one.result}));
  for (int i = 0; i < 5; ++i) CHECK(one.run(device, i).at(2, 2)[0] == Approx(2));
  one.show(picture_of(8, 8, [](int, int) -> Vec3 { return Vec3::constant(4); }));
  CHECK(one.run(device, 5).at(3, 2)[0] == Approx(4 * (1 - std::exp(-1.0))));
  CHECK(one.run(device, 5.0001).at(2, 2)[0] == Approx(4 - 2 * std::exp(-1.0)).epsilon(1e-3));
}
