// Shadow maps of twenty thousand objects, beside depth-only passes by hand: objects sorted by mesh once, a command for
// each mesh with its objects as instances, one indirect call, no fragment program. Maps are compared first. Four
// cascades in one layered pass are beside four such passes.
//
//   build/release/bench/bench_shadows [rounds]

#include "field.h"
#include "hand_gl.h"
#include "timing.h"

#include "draw/scene/scene_buffers.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/passes/pass_kind.h>
#include <periscena/passes/shadow_map.h>

#include <algorithm>
#include <chrono>
#include <cmath>

namespace {

constexpr int map_size = 1024;

/// The field's objects, sorted by mesh, all in one indirect call for each view; views are layers of one array.
class ByHand {
 public:
  ByHand(const Field& field, gl::Device& device, std::vector<Mat4> views)
      : views_(std::move(views)),
        buffers_(field.scene, device),
        program_(device, {.name = "depth by hand",
                          .vertex = gl::ShaderText::from_text("depth by hand", R"(#include "periscena/bindings.glsl"
layout(location = POSITION_ATTRIBUTE) in vec3 position;
layout(location = OBJECT_INDEX_ATTRIBUTE) in uint object_index;
layout(std430, binding = OBJECT_STORAGE) readonly buffer Worlds { mat4 worlds[]; };
uniform mat4 view_projection;
void main() { gl_Position = view_projection * (worlds[object_index] * vec4(position, 1.0)); }
)",
                                                              passes::pass_shaders())}),
        view_projection_(program_.uniform<Mat4>("view_projection")) {
    const auto& nodes = field.scene->nodes();
    std::vector<std::uint32_t> order(nodes.size());
    for (std::uint32_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::uint32_t x, std::uint32_t y) { return nodes[x].mesh.index < nodes[y].mesh.index; });
    std::vector<Mat4> worlds;
    std::vector<std::uint32_t> numbers;
    std::vector<gl::DrawCommand> commands;
    for (std::size_t k = 0; k < order.size(); ++k) {
      const std::uint32_t i = order[k];
      const auto at = static_cast<std::uint32_t>(k);
      if (k > 0 && nodes[order[k - 1]].mesh == nodes[i].mesh) {
        ++commands.back().instances;
      } else {
        commands.push_back(buffers_.meshes().command({nodes[i].mesh.index, at, 1}));
      }
      numbers.push_back(at);
      worlds.push_back(field.scene->nodes()[i].placement.matrix());
    }
    worlds_ = make_buffer(worlds.data(), worlds.size() * sizeof(Mat4), 0);
    commands_ = make_buffer(commands.data(), commands.size() * sizeof(gl::DrawCommand), 0);
    count_ = static_cast<GLsizei>(commands.size());
    nodes_ = gl::Buffer::holding(std::as_bytes(std::span(numbers)), "objects by hand");
    vertices_ = buffers_.meshes().vertex_array(nodes_);
    glCreateTextures(GL_TEXTURE_2D_ARRAY, 1, &map_);
    glTextureStorage3D(map_, 1, GL_DEPTH_COMPONENT32F, map_size, map_size, static_cast<GLsizei>(views_.size()));
    framebuffers_.resize(views_.size());
    glCreateFramebuffers(static_cast<GLsizei>(views_.size()), framebuffers_.data());
    for (std::size_t i = 0; i < views_.size(); ++i)
      glNamedFramebufferTextureLayer(framebuffers_[i], GL_DEPTH_ATTACHMENT, map_, 0, static_cast<GLint>(i));
  }

  void frame() {
    constexpr float far = 0;
    glViewport(0, 0, map_size, map_size);
    glDisable(GL_BLEND);
    glDisable(GL_CULL_FACE);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_GREATER);
    glDepthMask(GL_TRUE);
    gl::State unknown;
    program_.use(unknown);
    glBindVertexArray(vertices_->name());
    glBindBuffer(GL_DRAW_INDIRECT_BUFFER, commands_);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, gl::binding::object_storage, worlds_);
    for (std::size_t i = 0; i < views_.size(); ++i) {
      glBindFramebuffer(GL_DRAW_FRAMEBUFFER, framebuffers_[i]);
      glClearNamedFramebufferfv(framebuffers_[i], GL_DEPTH, 0, &far);
      program_.set(view_projection_, views_[i]);
      glMultiDrawElementsIndirect(GL_TRIANGLES, GL_UNSIGNED_SHORT, nullptr, count_, 0);
    }
  }

  /// Of a layer, from the upper left.
  std::vector<float> depths(int layer) const {
    std::vector<float> upward(map_size * map_size), downward(upward.size());
    glGetTextureSubImage(map_, 0, 0, 0, layer, map_size, map_size, 1, GL_DEPTH_COMPONENT, GL_FLOAT,
                         static_cast<GLsizei>(4 * upward.size()), upward.data());
    for (int y = 0; y < map_size; ++y)
      std::copy_n(upward.begin() + (map_size - 1 - y) * map_size, map_size, downward.begin() + y * map_size);
    return downward;
  }

 private:
  std::vector<Mat4> views_;
  draw::SceneBuffers buffers_;
  gl::Program program_;
  gl::Uniform<Mat4> view_projection_;
  gl::Buffer nodes_;
  std::optional<gl::VertexArray> vertices_;
  std::vector<GLuint> framebuffers_;
  GLuint worlds_ = 0, commands_ = 0, map_ = 0;
  GLsizei count_ = 0;
};

template <class Frame>
double milliseconds_of(const Frame& frame) {
  const auto start = std::chrono::steady_clock::now();
  for (int i = 0; i < 5; ++i) frame(i);
  glFinish();
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count() / 5;
}

FrameGraph frame_of(const Field& field, int cascades) {
  FrameGraph graph;
  const TargetHandle map = graph.target("map", {.format = Format::depth32f,
                                                .size = TargetSize::pixels(map_size, map_size),
                                                .layers = std::max(1, cascades),
                                                .shape = cascades > 0 ? TargetShape::array : TargetShape::flat});
  graph.keep(map);
  graph.add(passes::shadow_map({.scene = field.scene,
                                .light = "sun",
                                .batching = batch::Batching::unmerged,
                                .depth = map,
                                .cascades = cascades,
                                .view = cascades > 0 ? Reference("front") : Reference(),
                                .reach = 200}));
  return graph;
}

/// The pass through Periscena, everything drawn anew in each frame, beside as many passes by hand as it has views.
void bench(gl::Device& device, const Field& field, int cascades, int rounds) {
  const FrameGraph graph = frame_of(field, cascades);
  gl::FrameRunner runner(device, graph.plan(frame_width, frame_height, device.limits()).value());
  runner.run(0);
  std::vector<Mat4> views;
  for (int i = 0; i < std::max(1, cascades); ++i) {
    const Camera& camera = *runner.camera(0, i);
    views.push_back(camera.projection(1).matrix() * camera.view().matrix());
  }
  ByHand by_hand(field, device, views);
  by_hand.frame();
  std::size_t differ = 0;
  for (int layer = 0; layer < static_cast<int>(views.size()); ++layer) {
    const Image ours = runner.read("map", {.layer = layer});
    const std::vector<float> theirs = by_hand.depths(layer);
    const auto* depths = reinterpret_cast<const float*>(ours.bytes().data());
    for (std::size_t i = 0; i < theirs.size(); ++i) differ += std::abs(depths[i] - theirs[i]) > 1e-4f;
  }
  std::vector<double> through, hand, ratios;
  for (int i = 0; i < rounds; ++i) {
    device.state().forget();
    through.push_back(milliseconds_of([&](int) {
      runner.draw_all_anew();
      runner.run(0);
    }));
    hand.push_back(milliseconds_of([&](int) { by_hand.frame(); }));
    ratios.push_back(through.back() / hand.back());
  }
  device.state().forget();
  fmt::print("{:<34} {:>10.2f} {:>10.2f} {:>8.2f} {:>8.2f} {:>10}\n",
             cascades > 0 ? fmt::format("{} cascades in one layered pass", cascades) : "one map", median(through),
             median(hand), median(ratios),
             *std::min_element(through.begin(), through.end()) / *std::min_element(hand.begin(), hand.end()), differ);
  runner.run(1);
  if (cascades > 0) fmt::print("\nthe next frame of a still scene draws {} calls\n", runner.counts(0).draw_calls);
}

}  // namespace

int main(int argc, char** argv) try {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 9;
  gl::Device device = gl::Device::headless();
  const Field field(false);
  fmt::print("shadow maps of {} objects, {} x {} texels (aims: one map 1.05, cascades 1.00)\n\n", object_count,
             map_size, map_size);
  fmt::print("{:<34} {:>10} {:>10} {:>8} {:>8} {:>10}\n", "", "ms", "hand ms", "median", "fastest", "texels off");
  bench(device, field, 0, rounds);
  bench(device, field, 4, rounds);
  std::fflush(stdout);
  return 0;
} catch (const Error& error) {
  fmt::print(stderr, "{}\n", error.what());
  return 3;
}
