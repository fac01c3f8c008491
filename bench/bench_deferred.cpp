// A geometry buffer of twenty thousand objects, lit once for each pixel: through Periscena, and by hand with the same
// GLSL, as a good engineer writes it for this one scene. Then what ways cost beside each other: edges lit by samples
// beside every sample of every pixel, and a depth prepass beside none. Pictures are compared first.
//
//   build/release/bench/bench_deferred [rounds]

#include "hand_field.h"
#include "timing.h"

#include <periscena/frame/frame_file.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/fullscreen.h>
#include <periscena/passes/geometry.h>

#include <chrono>
#include <cmath>

namespace {

constexpr int width = 1280, height = 720;

passes::Geometry surfaces(FrameGraph& graph, const Field& field, int samples = 1) {
  passes::Geometry buffer{.scene = field.scene, .view = "front"};
  buffer.normal = graph.target("normal", {.format = Format::rgba16, .samples = samples});
  buffer.base_color = graph.target("base_color", {.format = Format::rgba8_srgb, .samples = samples});
  buffer.material = graph.target("material", {.format = Format::rgba8, .samples = samples});
  buffer.depth = graph.target("depth", {.format = Format::depth32f, .samples = samples});
  buffer.batching = batch::Batching::unmerged;
  return buffer;
}

FrameGraph deferred_frame(const Field& field, int samples = 1) {
  FrameGraph graph;
  const passes::Geometry buffer = surfaces(graph, field, samples);
  graph.add(passes::geometry(buffer));
  passes::Deferred light{.scene = field.scene, .view = "front"};
  light.light_bounds = batch::LightBounds::none;
  light.depth = buffer.depth;
  light.normal = buffer.normal;
  light.base_color = buffer.base_color;
  light.material = buffer.material;
  light.color = graph.target("light", {.format = Format::rgba16f, .samples = samples});
  graph.keep(light.color);
  graph.add(passes::deferred(light));
  return graph;
}

/// The same by hand.
class ByHand {
 public:
  ByHand(const Field& field, gl::Device& device)
      : field_(field, false, device, surface_text(), width, height),
        normal_(make_texture(GL_RGBA16, width, height)),
        base_color_(make_texture(GL_SRGB8_ALPHA8, width, height)),
        material_(make_texture(GL_RGBA8, width, height)),
        depth_(make_texture(GL_DEPTH_COMPONENT32F, width, height)),
        light_(make_texture(GL_RGBA16F, width, height)),
        surfaces_(make_framebuffer(normal_, depth_)),
        lit_(make_framebuffer(light_)),
        program_(
            device,
            {.name = "light by hand",
             .vertex = gl::ShaderText::embedded("periscena/fullscreen.vert", passes::pass_shaders()),
             .fragment =
                 gl::ShaderText::embedded("periscena/deferred.frag", passes::pass_shaders()).with_lines(lit_lines())}),
        sampler_(make_sampler(GL_NEAREST)) {
    glNamedFramebufferTexture(surfaces_, GL_COLOR_ATTACHMENT1, base_color_, 0);
    glNamedFramebufferTexture(surfaces_, GL_COLOR_ATTACHMENT2, material_, 0);
    const GLenum buffers[] = {GL_COLOR_ATTACHMENT0, GL_COLOR_ATTACHMENT1, GL_COLOR_ATTACHMENT2};
    glNamedFramebufferDrawBuffers(surfaces_, 3, buffers);
    glCreateVertexArrays(1, &empty_);
    program_.set(program_.uniform<float>("background"), 0.0f);
  }

  void frame(double seconds) {
    const float zeros[4] = {};
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, surfaces_);
    glViewport(0, 0, width, height);
    glDepthMask(GL_TRUE);
    for (GLint i = 0; i < 3; ++i) glClearNamedFramebufferfv(surfaces_, GL_COLOR, i, zeros);
    glClearNamedFramebufferfv(surfaces_, GL_DEPTH, 0, zeros);
    field_.draw(seconds);
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, lit_);
    glClearNamedFramebufferfv(lit_, GL_COLOR, 0, zeros);
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_CULL_FACE);
    gl::State unknown;
    program_.use(unknown);
    const std::pair<const char*, GLuint> reads[] = {
        {"depth", depth_}, {"normal", normal_}, {"base_color", base_color_}, {"material", material_}};
    for (const auto& [name, texture] : reads) {
      const auto unit = static_cast<GLuint>(program_.sampler_unit(name));
      glBindTextureUnit(unit, texture);
      glBindSampler(unit, sampler_);
    }
    glBindVertexArray(empty_);
    glDrawArrays(GL_TRIANGLES, 0, 3);
  }

  std::vector<float> picture() const { return pixels_of(light_, width, height); }

 private:
  static std::vector<std::string> lit_lines() {
    std::vector<std::string> lines{"#define SHADINGS 1"};
    for (const std::string& define : field_light) lines.push_back("#define " + define);
    return lines;
  }

  static gl::ShaderText surface_text() {
    return gl::ShaderText::embedded("periscena/geometry.frag", passes::pass_shaders())
        .with_lines({"#define WRITES_NORMAL", "#define WRITES_BASE_COLOR", "#define WRITES_MATERIAL"});
  }

  HandField field_;
  GLuint normal_, base_color_, material_, depth_, light_, surfaces_, lit_, empty_ = 0;
  gl::Program program_;
  GLuint sampler_;
};

template <class Frame>
double milliseconds_of(const Frame& frame) {
  const auto start = std::chrono::steady_clock::now();
  for (int i = 0; i < 3; ++i) frame();
  glFinish();
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count() / 3;
}

template <class One, class Other>
void print_ratio(const char* what, int rounds, const One& one, const Other& other) {
  std::vector<double> first, second, ratios;
  for (int i = 0; i < rounds; ++i) {
    first.push_back(milliseconds_of(one));
    second.push_back(milliseconds_of(other));
    ratios.push_back(first.back() / second.back());
  }
  fmt::print("{:<52} {:>10.1f} {:>10.1f} {:>8.2f}\n", what, median(first), median(second), median(ratios));
}

void against_hand(gl::Device& device, const Field& field, int rounds) {
  gl::FrameRunner runner(device, deferred_frame(field).plan(width, height, device.limits()).value());
  runner.run(0);
  ByHand by_hand(field, device);
  by_hand.frame(0);
  const std::vector<float> theirs = by_hand.picture();
  device.state().forget();
  const Image ours = runner.read("light");
  int differ = 0;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      // GL has the lowest row first.
      const auto at = static_cast<std::size_t>(4 * ((height - 1 - y) * width + x));
      differ += std::abs(ours.at(x, y)[0] - theirs[at]) > 0.01 || std::abs(ours.at(x, y)[2] - theirs[at + 2]) > 0.01;
    }
  }
  print_ratio(
      fmt::format("deferred, beside by hand (aim 1.02; {} px differ)", differ).c_str(), rounds,
      [&] {
        device.state().forget();
        runner.run(0);
      },
      [&] { by_hand.frame(0); });
  device.state().forget();
}

/// The night of lanterns with four samples. @param every_sample  lights all of each pixel
gl::FrameRunner lanterns(gl::Device& device, bool every_sample) {
  FrameFileOptions options;
  for (const char* target :
       {"light", "\"kept.normal\"", "\"kept.base_color\"", "\"kept.material\"", "\"kept.emission\""})
    options.overrides.push_back(fmt::format("target.{}.samples=4", target));
  options.overrides.push_back(fmt::format("pass.lock.every_sample={}", every_sample));
  return {device,
          read_frame_file(PERISCENA_SOURCE_FOLDER "/demo/lock_lanterns.toml", options).plan(device.limits()).value()};
}

/// Of one pass, with the device idle before and after.
double milliseconds_of_pass(gl::FrameRunner& runner, std::string_view name) {
  using Clock = std::chrono::steady_clock;
  Clock::time_point before = Clock::now();
  double found = 0;
  runner.run(0, [&](std::size_t pass) {
    glFinish();
    const Clock::time_point now = Clock::now();
    if (runner.plan().passes()[pass].name == name)
      found = std::chrono::duration<double, std::milli>(now - before).count();
    before = now;
  });
  return found;
}

void edges(gl::Device& device, int rounds) {
  gl::FrameRunner by_edges = lanterns(device, false), everywhere = lanterns(device, true);
  std::vector<double> edge, every, ratios;
  for (int i = 0; i <= rounds; ++i) {
    const double one = milliseconds_of_pass(everywhere, "lock"), other = milliseconds_of_pass(by_edges, "lock");
    if (i == 0) continue;  // programs are made
    every.push_back(one);
    edge.push_back(other);
    ratios.push_back(one / other);
  }
  fmt::print("{:<52} {:>10.1f} {:>10.1f} {:>8.2f}\n", "lanterns: every sample lit, beside edges (aim 2)", median(every),
             median(edge), median(ratios));
}

/// A forward pass with its depth drawn first beside one without, both of the same picture.
void depth_first(gl::Device& device, const char* what, const FrameGraph& plain, const FrameGraph& first, int rounds) {
  gl::FrameRunner without(device, plain.plan(width, height, device.limits()).value()),
      with(device, first.plan(width, height, device.limits()).value());
  without.run(0);
  with.run(0);
  print_ratio(
      fmt::format("depth first, beside without: {}", what).c_str(), rounds, [&] { with.run(0); },
      [&] { without.run(0); });
}

FrameGraph forward_field(const Field& field, bool depth_first) {
  FrameGraph graph;
  graph.add(passes::forward({.scene = field.scene,
                             .view = "front",
                             .batching = batch::Batching::unmerged,
                             .depth_first = depth_first,
                             .color = graph.output(),
                             .depth = graph.target("depth", {.format = Format::depth32f})}));
  return graph;
}

FrameGraph forward_file(const char* file, bool depth_first) {
  FrameFileOptions options;
  options.overrides = {fmt::format("pass.lock.depth_first={}", depth_first)};
  return read_frame_file(fmt::format("{}/{}", PERISCENA_SOURCE_FOLDER, file), options).graph;
}

}  // namespace

int main(int argc, char** argv) try {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 7;
  gl::Device device = gl::Device::headless();
  const Field field(false);
  fmt::print("{} objects, {} x {} pixels, whole frames\n\n{:<52} {:>10} {:>10} {:>8}\n", object_count, width, height,
             "", "ms", "beside", "ratio");
  against_hand(device, field, rounds);
  edges(device, rounds);
  depth_first(device, "20,000 objects, one light", forward_field(field, false), forward_field(field, true), rounds);
  for (const char* file : {"demo/lock_day.toml", "demo/lock_night.toml"})
    depth_first(device, file, forward_file(file, false), forward_file(file, true), rounds);
  return 0;
} catch (const Error& error) {
  fmt::print(stderr, "{}\n", error.what());
  return 3;
}
