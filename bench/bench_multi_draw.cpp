// Whole frames, device and all, of twenty thousand objects of fifty materials, through Periscena and by multi-draw as a
// good engineer writes it for this one scene: the same GLSL, meshes and textures; objects sorted once, a command for each
// mesh with its objects as instances, a call for each set of textures, matrices in a storage buffer. Both pictures are
// compared first.
//
//   build/release/bench/bench_multi_draw [rounds]

#include "field.h"
#include "hand_gl.h"
#include "timing.h"

#include "passes/pass_kind.h"
#include "passes/scene_buffers.h"

#include <periscena/gl/frame_runner.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <numbers>

namespace {

GLuint bound(GLenum what, GLuint index) {
  GLint name = 0;
  glGetIntegeri_v(what, index, &name);
  return static_cast<GLuint>(name);
}

/// Draws what Periscena drew in this context before: its camera, lights and frame blocks are taken over.
class ByHand {
 public:
  ByHand(const Field& field, bool moving, gl::Device& device)
      : field_(field),
        moving_(moving),
        buffers_(field.scene, device.capabilities()),
        program_({.name = "by hand",
                  .vertex = gl::ShaderText::embedded("periscena/forward.vert", passes::pass_shaders()),
                  .fragment = gl::ShaderText::embedded("periscena/forward.frag", passes::pass_shaders())}) {
    for (GLuint i = 0; i < 4; ++i) uniform_blocks_[i] = bound(GL_UNIFORM_BUFFER_BINDING, i);
    lights_ = bound(GL_SHADER_STORAGE_BUFFER_BINDING, gl::binding::light_storage);
    sort(*buffers_.dress(nullptr));
    for (std::size_t i = 0; i < passes::map_count; ++i)
      map_units_[i] = program_.sampler_unit(std::string(material_maps[i].name) + "s");
    framebuffer_ = make_framebuffer(color_ = make_texture(GL_RGBA16F, frame_width, frame_height),
                                    make_texture(GL_DEPTH_COMPONENT32F, frame_width, frame_height));
    gl::State& state = device.state();
    buffers_.bind_materials(state, buffers_.states()[0]);
    materials_ = bound(GL_SHADER_STORAGE_BUFFER_BINDING, gl::binding::material_storage);
    state.forget();
  }

  void frame(double seconds) {
    if (moving_) {
      turn(seconds);
      glNamedBufferSubData(objects_, 0, static_cast<GLsizeiptr>(blocks_.size() * sizeof(passes::ObjectBlock)),
                           blocks_.data());
    }
    const float zeros[4] = {}, block[8] = {frame_width, frame_height, frame_width, frame_height, static_cast<float>(seconds), 0, 0, 0};
    glNamedBufferSubData(uniform_blocks_[gl::binding::frame_block], 0, sizeof block, block);
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, framebuffer_);
    glViewport(0, 0, frame_width, frame_height);
    glDisable(GL_BLEND);
    glEnable(GL_CULL_FACE);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_GREATER);
    glDepthMask(GL_TRUE);
    glClearNamedFramebufferfv(framebuffer_, GL_COLOR, 0, zeros);
    glClearNamedFramebufferfv(framebuffer_, GL_DEPTH, 0, zeros);
    for (GLuint i = 0; i < 4; ++i) {
      if (uniform_blocks_[i]) glBindBufferBase(GL_UNIFORM_BUFFER, i, uniform_blocks_[i]);
    }
    namespace at = gl::binding;
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, at::object_storage, objects_);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, at::material_number_storage, material_numbers_);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, at::material_storage, materials_);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, at::light_storage, lights_);
    glUseProgram(program_.name());
    glBindVertexArray(vertices_->name());
    glBindBuffer(GL_DRAW_INDIRECT_BUFFER, commands_);
    for (const Run& run : runs_) {
      for (std::size_t i = 0; i < passes::map_count; ++i) {
        const passes::TextureSet& set = buffers_.states()[run.state].textures;
        glBindTextureUnit(static_cast<GLuint>(map_units_[i]), buffers_.textures().array(set.arrays[i]).name());
        glBindSampler(static_cast<GLuint>(map_units_[i]), buffers_.textures().sampler_at(set.samplers[i]).name());
      }
      glMultiDrawElementsIndirect(GL_TRIANGLES, GL_UNSIGNED_SHORT,
                                  reinterpret_cast<const void*>(run.first * sizeof(gl::DrawCommand)), run.count, 0);
    }
  }

  std::vector<float> picture() const {
    std::vector<float> pixels(4 * frame_width * frame_height);
    glGetTextureImage(color_, 0, GL_RGBA, GL_FLOAT, static_cast<GLsizei>(4 * pixels.size()), pixels.data());
    return pixels;
  }

  std::size_t calls() const { return runs_.size(); }

 private:
  struct Run {
    std::size_t first;
    int count;
    std::uint32_t state;
  };

  /// The field's objects stay where they are, so what is in view does, too.
  void sort(const passes::Dress& dress) {
    const auto meshes = batch::mesh_bounds(*field_.scene);
    const auto& nodes = field_.scene->nodes();
    const Mat4 view_projection =
        field_.camera.projection(static_cast<float>(frame_width) / frame_height).matrix() * field_.camera.view().matrix();
    const Frustum frustum = Frustum::of(view_projection, field_.camera.depth);
    std::vector<std::uint32_t> order;
    for (std::uint32_t i = 0; i < nodes.size(); ++i) {
      if (frustum.may_see(Sphere{field_.turns[i].at, meshes[nodes[i].mesh.index].radius})) order.push_back(i);
    }
    std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
      return std::pair(dress.traits[a].state, nodes[a].mesh.index) <
             std::pair(dress.traits[b].state, nodes[b].mesh.index);
    });
    std::vector<gl::DrawCommand> commands;
    std::vector<std::uint32_t> numbers, materials;
    const std::uint32_t* last = nullptr;
    for (const std::uint32_t& i : order) {
      const bool same_state = last && dress.traits[*last].state == dress.traits[i].state;
      const auto at = static_cast<std::uint32_t>(numbers.size());
      if (!same_state) runs_.push_back({commands.size(), 0, dress.traits[i].state});
      if (same_state && nodes[*last].mesh == nodes[i].mesh) {
        ++commands.back().instances;
      } else {
        commands.push_back(buffers_.command({nodes[i].mesh.index, at, 1}));
        ++runs_.back().count;
      }
      last = &i;
      numbers.push_back(at);
      materials.push_back(nodes[i].material.index);
      passes::ObjectBlock block;
      block.world.block<3, 1>(0, 3) = field_.turns[i].at;
      block.normals.topRows<3>().setIdentity();
      blocks_.push_back(block);
      turns_.push_back(field_.turns[i]);
    }
    objects_ = make_buffer(blocks_.data(), blocks_.size() * sizeof(passes::ObjectBlock), GL_DYNAMIC_STORAGE_BIT);
    material_numbers_ = make_buffer(materials.data(), materials.size() * sizeof(std::uint32_t), 0);
    commands_ = make_buffer(commands.data(), commands.size() * sizeof(gl::DrawCommand), 0);
    nodes_ = gl::Buffer::holding(std::as_bytes(std::span(numbers)), "objects by hand");
    vertices_ = buffers_.vertex_array(nodes_);
  }

  void turn(double seconds) {
    for (std::size_t i = 0; i < blocks_.size(); ++i) {
      const auto angle = static_cast<float>(2 * std::numbers::pi * std::fmod(seconds / turns_[i].period, 1.0));
      const float c = std::cos(angle), s = std::sin(angle);
      Mat3 turned;
      turned << c, 0, s, 0, 1, 0, -s, 0, c;
      blocks_[i].world.topLeftCorner<3, 3>() = turned;
      blocks_[i].normals.topRows<3>() = turned;
    }
  }

  const Field& field_;
  bool moving_;
  passes::SceneBuffers buffers_;
  gl::Program program_;
  gl::Buffer nodes_;
  std::optional<gl::VertexArray> vertices_;
  std::vector<passes::ObjectBlock> blocks_;
  std::vector<Turn> turns_;
  std::vector<Run> runs_;
  GLuint uniform_blocks_[4] = {}, lights_ = 0, materials_ = 0, objects_ = 0, material_numbers_ = 0, commands_ = 0;
  GLuint framebuffer_ = 0, color_ = 0;
  std::array<int, passes::map_count> map_units_{};
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
  fmt::print("{:<16} {:<10} {:>6} {:>6} {:>10.2f} {:>10.2f} {:>8.2f} {:>8.2f} {:>9}\n", moving ? "all of them move" : "nothing moves",
             batch::batching_names()[static_cast<std::size_t>(batching)], counts.draw_calls, by_hand.calls(),
             median(through), median(hand), median(ratios),
             *std::min_element(through.begin(), through.end()) / *std::min_element(hand.begin(), hand.end()), differ);
}

}  // namespace

int main(int argc, char** argv) try {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 15;
  gl::Device device = gl::Device::headless();
  fmt::print("whole frames of {} objects of {} materials, {} x {} pixels (aim: ratio at most 1.10)\n\n", object_count,
             material_count, frame_width, frame_height);
  fmt::print("{:<16} {:<10} {:>6} {:>6} {:>10} {:>10} {:>8} {:>8} {:>9}\n", "", "batching", "calls", "hand", "ms", "hand ms",
             "median", "fastest", "px differ");
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
