// Whole frames, device and all, of twenty thousand objects of fifty materials, through Periscena and by multi-draw as a
// good engineer writes it for this one scene: the same GLSL, meshes and textures; objects sorted once, a command for
// each mesh with its objects as instances, a call for each set of textures, matrices in a storage buffer. Both pictures
// are compared first.
//
//   build/release/bench/bench_multi_draw [rounds]

#include "hand_field.h"
#include "timing.h"

#include <chrono>
#include <cmath>

namespace {

/// The same frame by hand.
class ByHand {
 public:
  ByHand(const Field& field, bool moving, gl::Device& device)
      : field_(field, moving, device, gl::ShaderText::embedded("periscena/forward.frag", passes::pass_shaders()),
               frame_width, frame_height),
        color_(make_texture(GL_RGBA16F, frame_width, frame_height)),
        framebuffer_(make_framebuffer(color_, make_texture(GL_DEPTH_COMPONENT32F, frame_width, frame_height))) {}

  void frame(double seconds) {
    const float zeros[4] = {};
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, framebuffer_);
    glViewport(0, 0, frame_width, frame_height);
    glDepthMask(GL_TRUE);
    glClearNamedFramebufferfv(framebuffer_, GL_COLOR, 0, zeros);
    glClearNamedFramebufferfv(framebuffer_, GL_DEPTH, 0, zeros);
    field_.draw(seconds);
  }

  std::vector<float> picture() const { return pixels_of(color_, frame_width, frame_height); }
  std::size_t calls() const { return field_.calls(); }

 private:
  HandField field_;
  GLuint color_, framebuffer_;
};

template <class Frame>
double milliseconds_of(const Frame& frame, double from) {
  const auto start = std::chrono::steady_clock::now();
  for (int i = 0; i < 5; ++i) frame(from + 0.01 * i);
  glFinish();
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count() / 5;
}

void bench(gl::Device& device, bool moving, batch::Batching batching, int rounds) {
  const Field field(moving);
  FrameGraph graph;
  const TargetHandle color = graph.target("color", {.format = Format::rgba16f});
  graph.keep(color);
  graph.add(passes::forward({.scene = field.scene,
                             .view = "front",
                             .batching = batching,
                             .color = color,
                             .depth = graph.target("depth", {.format = Format::depth32f})}));
  gl::FrameRunner runner(device, graph.plan(frame_width, frame_height, device.limits()).value());
  runner.run(0.3);
  ByHand by_hand(field, moving, device);
  by_hand.frame(0.3);
  const Image ours = runner.read("color");
  const std::vector<float> theirs = by_hand.picture();
  int differ = 0;
  for (int y = 0; y < frame_height; ++y) {
    for (int x = 0; x < frame_width; ++x) {
      // GL has the lowest row first.
      const auto at = static_cast<std::size_t>(4 * ((frame_height - 1 - y) * frame_width + x));
      differ += std::abs(ours.at(x, y)[0] - theirs[at]) > 0.01 || std::abs(ours.at(x, y)[2] - theirs[at + 2]) > 0.01;
    }
  }
  std::vector<double> through, hand, ratios;
  for (int i = 0; i < rounds; ++i) {
    device.state().forget();
    through.push_back(milliseconds_of([&](double at) { runner.run(at); }, i));
    hand.push_back(milliseconds_of([&](double at) { by_hand.frame(at); }, i));
    ratios.push_back(through.back() / hand.back());
  }
  device.state().forget();
  const gl::Counts counts = runner.counts(0);
  fmt::print("{:<16} {:<10} {:>6} {:>6} {:>10.2f} {:>10.2f} {:>8.2f} {:>8.2f} {:>9}\n",
             moving ? "all of them move" : "nothing moves", choices_of(batching)[static_cast<std::size_t>(batching)],
             counts.draw_calls, by_hand.calls(), median(through), median(hand), median(ratios),
             *std::min_element(through.begin(), through.end()) / *std::min_element(hand.begin(), hand.end()), differ);
}

}  // namespace

int main(int argc, char** argv) try {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 15;
  gl::Device device = gl::Device::headless();
  fmt::print("whole frames of {} objects of {} materials, {} x {} pixels (aim: ratio at most 1.10)\n\n", object_count,
             material_count, frame_width, frame_height);
  fmt::print("{:<16} {:<10} {:>6} {:>6} {:>10} {:>10} {:>8} {:>8} {:>9}\n", "", "batching", "calls", "hand", "ms",
             "hand ms", "median", "fastest", "px differ");
  for (const bool moving : {false, true}) {
    for (const batch::Batching batching : {batch::Batching::unmerged, batch::Batching::automatic})
      bench(device, moving, batching, rounds);
  }
  std::fflush(stdout);
  return 0;
} catch (const Error& error) {
  fmt::print(stderr, "{}\n", error.what());
  return 3;
}
