// What passes after the scene cost beside each other, at 1280 x 720: the pyramid of bloom beside a Gaussian to and fro
// of equal width, pairs of pixels by one linear fetch beside pixel by pixel, and a chain of six filters in one pass
// beside six. Pictures are compared first.
//
//   build/release/bench/bench_after_scene [rounds]

#include "timing.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/passes/bloom.h>
#include <periscena/passes/blur.h>
#include <periscena/passes/filters.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/opening.h>
#include <periscena/scene/mesh.h>
#include <periscena/scene/scene.h>

#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <cstdlib>

using namespace periscena;

namespace {

constexpr int width = 1280, height = 720;

/// A few bright dots over a gradient, drawn once for each frame of either side.
TargetHandle add_source(FrameGraph& frame) {
  const TargetHandle source = frame.target("source", {.format = Format::rgba16f});
  passes::Fullscreen draw;
  draw.name = "source";
  draw.shader = gl::ShaderText::from_text(
      "source.frag",
      "#include \"periscena/fullscreen.glsl\"\nlayout(location = 0) out vec4 color;\nvoid main() { color = "
      "vec4(uv * 0.8, 0.3, 1.0) + vec4(40.0, 30.0, 10.0, 0.0) * step(0.985, sin(uv.x * 40.0) * sin(uv.y * 25.0)); }\n",
      passes::pass_shaders());
  draw.writes = {{"color", source}};
  frame.add(passes::fullscreen(draw));
  return source;
}

gl::FrameRunner runner_of(gl::Device& device, const FrameGraph& frame) {
  return {device, frame.plan(width, height, device.limits()).value()};
}

/// Milliseconds of all passes but the source's.
double milliseconds_of(gl::FrameRunner& runner) {
  using Clock = std::chrono::steady_clock;
  Clock::time_point start;
  runner.run(0, [&](std::size_t pass) {
    if (pass != 0) return;
    runner.wait();
    start = Clock::now();
  });
  runner.wait();
  return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

int most_apart(const gl::FrameRunner& a, const gl::FrameRunner& b) {
  const Image one = a.read("output"), other = b.read("output");
  int most = 0;
  for (std::size_t i = 0; i < one.bytes().size(); ++i)
    most = std::max(most, std::abs(static_cast<int>(one.bytes()[i]) - static_cast<int>(other.bytes()[i])));
  return most;
}

/// How much longer the second takes.
void compare(const std::string& what, gl::FrameRunner first, gl::FrameRunner second, int rounds) {
  first.run(0);
  second.run(0);
  const int apart = most_apart(first, second);
  std::vector<double> one, other, ratios;
  for (int i = 0; i < rounds; ++i) {
    one.push_back(milliseconds_of(first));
    other.push_back(milliseconds_of(second));
    ratios.push_back(other.back() / one.back());
  }
  fmt::print("{:<66} {:>9.1f} {:>9.1f} {:>7.2f} {:>10}\n", what, median(one), median(other), median(ratios), apart);
}

FrameGraph bloom_frame(passes::BloomMethod method) {
  FrameGraph frame;
  passes::Bloom bloom{.method = method, .strength = 0.3f, .radius = 64.0f / height};
  bloom.light = add_source(frame);
  bloom.color = frame.output();
  frame.add(passes::bloom(bloom));
  return frame;
}

FrameGraph blur_frame(float pixels, bool paired) {
  FrameGraph frame;
  passes::Blur blur{.radius = pixels / height, .paired = paired};
  blur.from = add_source(frame);
  blur.color = frame.output();
  frame.add(passes::blur(blur));
  return frame;
}

FrameGraph filters_frame(bool fuses) {
  FrameGraph frame;
  TargetHandle last = add_source(frame);
  frame.set_fusing(fuses);
  const auto next = [&](int i) {
    return i == 6 ? frame.output() : frame.target(fmt::format("after {}", i), {.format = Format::rgba16f});
  };
  int count = 0;
  const auto add = [&](auto options, auto make) {
    options.name = fmt::format("filter {}", ++count);
    options.from = last;
    last = next(count);
    options.color = last;
    frame.add(make(options, Place::here()));
  };
  // Corners twice, a balance of whites, one of shadows, colour, film.
  add(passes::Vignette{.strength = 0.3f}, passes::vignette);
  add(passes::Vignette{.strength = 0.2f, .start = 0.6f}, passes::vignette);
  add(passes::Grade{.gain = {1.05f, 1, 0.95f}}, passes::grade);
  add(passes::Grade{.lift = {0, 0, 0.03f}}, passes::grade);
  add(passes::Grade{.saturation = 1.1f}, passes::grade);
  add(passes::Grain{.strength = 0.02f}, passes::grain);
  return frame;
}

/// A tenth of the picture is a window, and what is behind it takes a loop for each pixel.
FrameGraph window_frame(bool inside) {
  auto scene = std::make_shared<Scene>();
  Camera camera;
  camera.eye = {0, 0, 5};
  camera.parallel_height = 2;
  camera.far = 20;
  scene->add_view({"front", camera});
  Node pane;
  pane.mesh = scene->add_mesh("pane", shapes::box({1.125f, 0.632f, 0.01f}));
  pane.material = scene->add_material({.name = "pane"});
  scene->add_node(pane);
  FrameGraph frame;
  const TargetHandle source = add_source(frame), depth = frame.target("depth", {.format = Format::depth32f_stencil8});
  frame.add(passes::opening({.name = "pane", .scene = scene, .view = "front", .depth = depth}));
  passes::Fullscreen draw;
  draw.name = "behind";
  draw.shader = gl::ShaderText::from_text(
      "behind.frag",
      "#include \"periscena/fullscreen.glsl\"\nuniform sampler2D source;\nlayout(location = 0) out vec4 color;\nvoid "
      "main() { vec4 sum = "
      "vec4(0.0); for (int i = 0; i < 32; ++i) sum += texture(source, uv + 0.002 * float(i)); color = sum / 32.0; }\n",
      passes::pass_shaders());
  draw.reads = {{.slot = "source", .target = source}};
  draw.writes = {{"color", frame.output()}};
  Pass behind = passes::fullscreen(draw);
  if (inside) behind.inside = "pane";
  frame.add(std::move(behind));
  if (!inside) frame.keep(depth);
  return frame;
}

}  // namespace

int main(int argc, char** argv) try {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 9;
  gl::Device device = gl::Device::headless();
  fmt::print("{:<66} {:>9} {:>9} {:>7} {:>10}\n", "1280 x 720, ms", "first", "second", "ratio", "of 255");
  compare("bloom 64 pixels wide: Gaussian to and fro, beside pyramid (aim 6)",
          runner_of(device, bloom_frame(passes::BloomMethod::pyramid)),
          runner_of(device, bloom_frame(passes::BloomMethod::gaussian)), rounds);
  for (const float pixels : {8.0f, 24.0f, 64.0f})
    compare(fmt::format("blur of {} pixels: pixel by pixel, beside pairs (aim 1.6)", pixels),
            runner_of(device, blur_frame(pixels, true)), runner_of(device, blur_frame(pixels, false)), rounds);
  compare("six filters: six passes, beside one (aim 3)", runner_of(device, filters_frame(true)),
          runner_of(device, filters_frame(false)), rounds);
  compare("behind a window of a tenth of the picture: all of it, beside inside", runner_of(device, window_frame(true)),
          runner_of(device, window_frame(false)), rounds);
  return 0;
} catch (const Error& error) {
  fmt::print(stderr, "{}\n", error.what());
  return 3;
}
