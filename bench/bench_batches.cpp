// Twenty thousand objects of fifty materials: how many draw calls they take, and what they cost the CPU outside of the
// driver, whose entry points are replaced by no-ops; beside two renderers that were written by hand: one that makes a
// call for each object, and one that draws all by multi-draw. And the test of bounds against a view, beside a plain
// loop.
//
//   build/release/bench/bench_batches [rounds]

#include "field.h"
#include "hand_gl.h"
#include "silent_driver.h"

#include "draw/scene/scene_buffers.h"

#include <periscena/batch/draw_list.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/sprites.h>
#include <periscena/scene/sprite_sheet.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <ctime>
#include <random>

using namespace periscena;

namespace {

double cpu_seconds() {
  timespec now{};
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
  return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
}

/// An object as somebody would keep it who writes for this one scene.
struct HandObject {
  Mat4 world = Mat4::identity();
  Mat3 normals = Mat3::identity();
  Sphere bounds;
  std::uint32_t material, mesh, state;
};

/// What both hand-written renderers share: objects in the order of their states, turned about +Y by time.
class ByHand {
 public:
  ByHand(const Field& field, bool moving, gl::Device& device)
      : field_(field), moving_(moving), buffers_(field.scene, device) {
    const auto spheres = batch::mesh_bounds(*field.scene);
    const auto dress = buffers_.materials().dress(nullptr);
    for (std::uint32_t i = 0; i < object_count; ++i) order_.push_back(i);
    const auto& nodes = field.scene->nodes();
    std::sort(order_.begin(), order_.end(), [&](std::uint32_t a, std::uint32_t b) {
      return std::tuple(dress->traits[a].state, nodes[a].mesh.index, nodes[a].material.index, a) <
             std::tuple(dress->traits[b].state, nodes[b].mesh.index, nodes[b].material.index, b);
    });
    for (const std::uint32_t i : order_) {
      HandObject object;
      object.world.set_column(3, field.turns[i].at);
      object.mesh = nodes[i].mesh.index;
      object.bounds = {field.turns[i].at, spheres[object.mesh].radius};
      object.material = nodes[i].material.index;
      object.state = dress->traits[i].state;
      objects_.push_back(object);
    }
    const Mat4 view_projection =
        field.camera.projection(static_cast<float>(frame_width) / frame_height).matrix() * field.camera.view().matrix();
    frustum_ = Frustum::of(view_projection, field.camera.depth);
  }

 protected:
  /// What each frame does, however it draws.
  static void begin(double seconds) {
    const float zeros[4] = {},
                block[8] = {frame_width, frame_height, frame_width, frame_height, static_cast<float>(seconds), 0, 0, 0};
    glNamedBufferSubData(1, 0, sizeof block, block);
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, 1);
    glViewport(0, 0, frame_width, frame_height);
    glClearNamedFramebufferfv(1, GL_COLOR, 0, zeros);
    glClearNamedFramebufferfv(1, GL_DEPTH, 0, zeros);
    for (GLuint i = 0; i < 3; ++i) glBindBufferRange(GL_UNIFORM_BUFFER, i, 1, 0, 256);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 3, 1);
    glUseProgram(1);
    glBindVertexArray(1);
  }

  void turn(double seconds) {
    for (std::size_t i = 0; i < objects_.size(); ++i) {
      const float angle = static_cast<float>(2 * pi * std::fmod(seconds / field_.turns[order_[i]].period, 1.0));
      const float c = std::cos(angle), s = std::sin(angle);
      HandObject& object = objects_[i];
      object.normals = Mat3::of_rows({{c, 0, s}, {0, 1, 0}, {-s, 0, c}});
      object.world.set_corner(object.normals);
    }
  }

  static constexpr double pi = 3.14159265358979;
  const Field& field_;
  bool moving_;
  draw::SceneBuffers buffers_;
  std::vector<std::uint32_t> order_;
  std::vector<HandObject> objects_;
  Frustum frustum_;
};

/// A call for each object: its matrices as uniforms, its material's place in a uniform block when that changes.
class CallEach : public ByHand {
 public:
  using ByHand::ByHand;

  int frame(double seconds) {
    if (moving_) turn(seconds);
    std::uint32_t material = ~0u, state = ~0u;
    int calls = 0;
    begin(seconds);
    for (const HandObject& object : objects_) {
      if (!frustum_.may_see(object.bounds)) continue;
      if (object.state != state) glBindTextures(0, 6, nullptr);
      if (object.material != material) glBindBufferRange(GL_UNIFORM_BUFFER, 1, 1, 256 * object.material, 256);
      state = object.state;
      material = object.material;
      glProgramUniformMatrix4fv(1, 0, 1, GL_FALSE, object.world.data());
      glProgramUniformMatrix3fv(1, 1, 1, GL_FALSE, object.normals.data());
      const gl::DrawCommand command = buffers_.meshes().command({object.mesh, 0, 1});
      glDrawElementsBaseVertex(GL_TRIANGLES, static_cast<GLsizei>(command.index_count), GL_UNSIGNED_SHORT,
                               reinterpret_cast<const void*>(std::uintptr_t{command.first_index} * 2),
                               command.base_vertex);
      ++calls;
    }
    return calls;
  }
};

/// Multi-draw: matrices in a storage buffer, a command for each object in view, a call for each state.
class MultiDraw : public ByHand {
 public:
  MultiDraw(const Field& field, bool moving, gl::Device& device)
      : ByHand(field, moving, device), blocks_(objects_.size()) {
    commands_.reserve(objects_.size());
    for (std::size_t i = 0; i < objects_.size(); ++i) fill(i);
  }

  int frame(double seconds) {
    if (moving_) {
      turn(seconds);
      for (std::size_t i = 0; i < objects_.size(); ++i) fill(i);
      glNamedBufferSubData(1, 0, static_cast<GLsizeiptr>(blocks_.size() * sizeof(draw::ObjectBlock)), blocks_.data());
    }
    // Its objects stay where they are, so what is in view does, too.
    if (commands_.empty()) list();
    begin(seconds);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 0, 1);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 1, 1);
    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 2, 1);
    glBindBuffer(GL_DRAW_INDIRECT_BUFFER, 1);
    for (const auto& [first, count] : runs_) {
      glBindTextures(0, 6, nullptr);
      glBindSamplers(0, 6, nullptr);
      glMultiDrawElementsIndirect(GL_TRIANGLES, GL_UNSIGNED_SHORT,
                                  reinterpret_cast<const void*>(first * sizeof(gl::DrawCommand)), count, 0);
    }
    return static_cast<int>(runs_.size());
  }

 private:
  void fill(std::size_t i) {
    const Mat4& world = objects_[i].world;
    draw::ObjectBlock& block = blocks_[i];
    block.x = world.column(0).head<3>(), block.y = world.column(1).head<3>(), block.z = world.column(2).head<3>();
    block.origin = world.column(3).head<3>();
  }

  void list() {
    std::uint32_t state = ~0u;
    for (std::uint32_t i = 0; i < objects_.size(); ++i) {
      if (!frustum_.may_see(objects_[i].bounds)) continue;
      if (objects_[i].state != state) runs_.emplace_back(commands_.size(), 0);
      state = objects_[i].state;
      commands_.push_back(buffers_.meshes().command({objects_[i].mesh, i, 1}));
      ++runs_.back().second;
    }
    glNamedBufferSubData(2, 0, static_cast<GLsizeiptr>(commands_.size() * sizeof(gl::DrawCommand)), commands_.data());
  }

  std::vector<draw::ObjectBlock> blocks_;
  std::vector<gl::DrawCommand> commands_;
  std::vector<std::pair<std::size_t, int>> runs_;
};

/// CPU seconds of a frame, the fastest of several goes.
template <class Frame>
double seconds_of(Frame frame, int rounds, int frames) {
  double best = 1e9, at = 0;
  frame(at += 0.01);
  for (int round = 0; round < rounds; ++round) {
    const double start = cpu_seconds();
    for (int i = 0; i < frames; ++i) frame(at += 0.01);
    best = std::min(best, (cpu_seconds() - start) / frames);
  }
  return best;
}

void row(const char* what, double ours, double theirs, const char* unit, const char* aim) {
  fmt::print("{:<66} {:>10.4g} {:>10.4g} {:<3} {:>8.2f}   {}\n", what, ours, theirs, unit, theirs / ours, aim);
}

void bench_objects(gl::Device& device, bool moving, int rounds) {
  const Field field(moving);
  gl::FrameRunner runner(device, field.frame({}).plan(frame_width, frame_height, device.limits()).value());
  runner.run(0);
  CallEach each(field, moving, device);
  MultiDraw multi(field, moving, device);
  if (!moving) {
    const gl::Counts counts = runner.counts();
    fmt::print("{} objects of {} materials: {} draw calls of {} commands for {} objects in view (aim: 12)\n\n",
               object_count, material_count, counts.draw_calls, counts.commands, counts.instances);
    fmt::print("{:<66} {:>10} {:>10} {:<3} {:>8}   {}\n", "CPU outside of the driver, a frame", "Periscena", "by hand",
               "", "ratio", "aim");
  }
  silence_driver();
  const int frames = moving ? 20 : 200;
  const double ours = seconds_of([&](double at) { runner.run(at); }, rounds, frames) * 1e6;
  const double by_each = seconds_of([&](double at) { each.frame(at); }, rounds, 20) * 1e6;
  const double by_multi = seconds_of([&](double at) { multi.frame(at); }, rounds, frames) * 1e6;
  wake_driver();
  device.state().forget();
  row(moving ? "all of them move, beside a call each" : "nothing moves, beside a call each", ours, by_each, "µs",
      moving ? "5 times less" : "50 times less");
  row(moving ? "all of them move, beside multi-draw" : "nothing moves, beside multi-draw", ours, by_multi, "µs",
      moving ? "1 / 1.10" : "none: both are next to nothing");
}

/// A camera that moves through the field, with the CPU culling and with the device doing it.
void bench_moving_camera(gl::Device& device, int rounds) {
  Field field(false);
  Node rider;
  rider.motion = Motion{.kind = Motion::Kind::slide, .axis = Vec3::unit_x(), .from = -20, .to = 20, .period = 10};
  field.scene->add_view({"rider", field.camera, field.scene->add_node(rider)});
  const auto cost = [&](batch::Culling culling) {
    FrameGraph frame;
    frame.add(passes::forward({.scene = field.scene,
                               .view = "rider",
                               .culling = culling,
                               .color = frame.output(),
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    gl::FrameRunner runner(device, frame.plan(frame_width, frame_height, device.limits()).value());
    for (const double at : {0.0, 0.01, 0.02}) runner.run(at);
    silence_driver();
    const double seconds = seconds_of([&](double at) { runner.run(at); }, rounds, 50) * 1e6;
    wake_driver();
    device.state().forget();
    return seconds;
  };
  row("a camera that moves, culling on the device beside on the CPU", cost(batch::Culling::device),
      cost(batch::Culling::host), "µs", "more than 1");
}

void bench_sprites(gl::Device& device, int rounds) {
  constexpr int count = 10000;
  auto image = std::make_shared<Image>(64, 64, Format::rgba8_srgb);
  passes::Sprites sprites{.sheets = {SpriteSheet::grid("sheet", image, 4, 4)}};
  for (int i = 0; i < count; ++i) {
    sprites.sprites.push_back({.cell = fmt::format("{}", i % 16),
                               .at = Vec2(static_cast<float>(i % frame_width), static_cast<float>(i % frame_height)),
                               .cells_a_second = 12});
  }
  FrameGraph frame;
  sprites.color = frame.output();
  frame.add(passes::sprites(sprites));
  gl::FrameRunner runner(device, frame.plan(frame_width, frame_height, device.limits()).value());
  runner.run(0);
  const std::uint64_t calls = runner.counts().draw_calls;
  silence_driver();
  const double seconds = seconds_of([&](double at) { runner.run(at); }, rounds, 200) * 1e6;
  wake_driver();
  device.state().forget();
  fmt::print("{} sprites that change with time: {} draw call (aim: 1), {:.2f} µs of CPU outside of the driver\n", count,
             calls, seconds);
}

void bench_culling(int rounds) {
  constexpr std::size_t count = 100000;
  std::mt19937 dice(2);
  std::uniform_real_distribution<float> at(-100, 100), size(0.1f, 2);
  std::vector<Box> boxes;
  batch::BoundsSet bounds(count);
  for (std::size_t i = 0; i < count; ++i) {
    const Vec3 middle(at(dice), at(dice), at(dice)), half(size(dice), size(dice), size(dice));
    boxes.push_back({middle - half, middle + half});
    bounds.set(i, boxes.back(), half.norm());
  }
  Camera camera;
  camera.eye = {0, 0, 90};
  const Frustum view = Frustum::of(camera.projection(1.6f).matrix() * camera.view().matrix(), camera.depth);
  std::vector<std::uint8_t> plain(count), many(bounds.padded_size());
  const double one_by_one = seconds_of(
      [&](double) {
        for (std::size_t i = 0; i < count; ++i) plain[i] = view.may_see(boxes[i]);
      },
      rounds, 10);
  const double together = seconds_of([&](double) { bounds.cull(view, many); }, rounds, 10);
  std::size_t seen = 0;
  for (std::size_t i = 0; i < count; ++i) seen += many[i];
  row(fmt::format("culling {} boxes, {} in view, beside a plain loop", count, seen).c_str(), together * 1e6,
      one_by_one * 1e6, "µs", "4 times faster");
}

}  // namespace

int main(int argc, char** argv) try {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 20;
  gl::Device device = gl::Device::headless();
  bench_objects(device, false, rounds);
  bench_objects(device, true, rounds);
  bench_moving_camera(device, rounds);
  bench_culling(rounds);
  bench_sprites(device, rounds);
  std::fflush(stdout);
  return 0;
} catch (const Error& error) {
  fmt::print(stderr, "{}\n", error.what());
  return 3;
}
