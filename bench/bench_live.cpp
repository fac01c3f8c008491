// What it costs that a scene changes while it is drawn: CPU outside of the driver, a frame, next to code by hand that
// writes what changed into a mapped ring.
//
//   build/release/bench/bench_live [rounds, 7]

#include "field.h"
#include "silent_driver.h"
#include "timing.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/math/bounds.h>
#include <periscena/passes/live.h>
#include <periscena/passes/tone_map.h>

#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <functional>
#include <tuple>

namespace {

double cpu_seconds() {
  timespec now{};
  clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &now);
  return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
}

/// Where an object is in a frame.
Transform place(const Field& field, std::size_t object, int frame) {
  const Turn& turn = field.turns[object];
  return Transform::rotate(Vec3::unit_y(), 0.1f * static_cast<float>(frame) / turn.period)
      .then(Transform::translate(turn.at));
}

/// Every so many objects, of which the program moves `count`.
std::size_t moved(std::size_t k, std::size_t count) {
  return k * object_count / count;
}

/// The same by hand: objects sorted once; each frame, blocks and bounds of what moved, then a test of all bounds and a
/// list of what is in view.
class ByHand {
 public:
  explicit ByHand(const Field& field) : field_(field), ring_(3 * ring_part) {
    const auto& nodes = field.scene->nodes();
    for (const Mesh& mesh : field.scene->meshes()) {
      const Box box = mesh.bounds();
      meshes_.push_back({box.center(), 0.5f * (box.max - box.min).norm()});
    }
    for (std::uint32_t i = 0; i < object_count; ++i) order_.push_back(i);
    std::sort(order_.begin(), order_.end(), [&](std::uint32_t a, std::uint32_t b) {
      return std::tuple(nodes[a].material.index % 2, nodes[a].mesh.index, a) <
             std::tuple(nodes[b].material.index % 2, nodes[b].mesh.index, b);
    });
    rank_.resize(object_count);
    for (std::uint32_t k = 0; k < object_count; ++k) rank_[order_[k]] = k;
    spheres_.resize(object_count);
    blocks_.resize(object_count);
    for (std::uint32_t i = 0; i < object_count; ++i) put(i, 0);
    const Camera& camera = field.camera;
    const float aspect = static_cast<float>(frame_width) / frame_height;
    frustum_ = Frustum::of(camera.projection(aspect).matrix() * camera.view().matrix(), camera.depth);
    visible_.reserve(object_count);
  }

  void frame(std::size_t count, int number) {
    std::byte* into = ring_.data() + static_cast<std::size_t>(number % 3) * ring_part;
    for (std::size_t k = 0; k < count; ++k) {
      const auto i = static_cast<std::uint32_t>(moved(k, count));
      put(i, number);
      std::memcpy(into, &blocks_[rank_[i]], sizeof(Block));
      into += sizeof(Block);
    }
    visible_.clear();
    commands_.clear();
    std::uint32_t mesh = ~0u;
    for (std::uint32_t k = 0; k < object_count; ++k) {
      if (!frustum_.may_see(spheres_[k])) continue;
      if (blocks_[k].mesh != mesh) {
        mesh = blocks_[k].mesh;
        commands_.push_back({0, 0, 0, 0, static_cast<std::uint32_t>(visible_.size())});
      }
      ++commands_.back().instances;
      visible_.push_back(k);
    }
    std::memcpy(into, visible_.data(), visible_.size() * sizeof(visible_[0]));
  }

 private:
  struct Block {
    Mat4 world = Mat4::identity();
    std::uint32_t mesh = 0, padding[3] = {};
  };
  struct Command {
    std::uint32_t count, instances, first, base, base_instance;
  };
  static constexpr std::size_t ring_part = object_count * (sizeof(Block) + sizeof(std::uint32_t));

  void put(std::uint32_t object, int frame) {
    const Transform world = place(field_, object, frame);
    const std::uint32_t k = rank_[object], mesh = field_.scene->nodes()[object].mesh.index;
    blocks_[k].world = world.matrix();
    blocks_[k].mesh = mesh;
    spheres_[k] = {world.apply_to_point(meshes_[mesh].center), meshes_[mesh].radius};
  }

  const Field& field_;
  std::vector<std::byte> ring_;
  std::vector<Sphere> meshes_, spheres_;
  std::vector<std::uint32_t> order_, rank_, visible_;
  std::vector<Block> blocks_;
  std::vector<Command> commands_;
  Frustum frustum_;
};

double microseconds(const std::function<void(int)>& frame, int rounds) {
  constexpr int frames = 20;
  static int number = 0;
  std::vector<double> took;
  for (int i = 0; i < 3; ++i) frame(++number);
  for (int round = 0; round < rounds; ++round) {
    const double start = cpu_seconds();
    for (int i = 0; i < frames; ++i) frame(++number);
    took.push_back((cpu_seconds() - start) / frames * 1e6);
  }
  return median(took);
}

void bench_moves(gl::Device& device, int rounds) {
  for (const std::size_t count : {std::size_t{1000}, std::size_t{5000}, std::size_t{object_count}}) {
    const Field field(false);
    for (std::uint32_t i = 0; i < object_count; ++i) field.scene->set_local_transform({i}, place(field, i, 0));
    gl::FrameRunner runner(device, field.frame({}).plan(frame_width, frame_height, device.limits()).value());
    runner.run(0);
    ByHand hand(field);
    std::vector<double> ratio, ours, theirs;
    for (int round = 0; round < rounds; ++round) {
      silence_driver();
      ours.push_back(microseconds(
          [&](int number) {
            for (std::size_t k = 0; k < count; ++k) {
              const std::size_t i = moved(k, count);
              field.scene->set_local_transform({static_cast<std::uint32_t>(i)}, place(field, i, number));
            }
            runner.run(0);
          },
          3));
      wake_driver();
      theirs.push_back(microseconds([&](int number) { hand.frame(count, number); }, 3));
      ratio.push_back(ours.back() / theirs.back());
    }
    device.state().forget();
    fmt::print("{:>6} of {} objects moved          {:>9.0f} {:>9.0f}   {:>6.2f}   1.20\n", count, object_count,
               median(ours), median(theirs), median(ratio));
  }
}

/// A frame, with the driver replaced by nothing, after a change of the scene or of an option.
double changed_frame(gl::Device& device, gl::FrameRunner& runner, int rounds, const std::function<void(int)>& change) {
  silence_driver();
  const double took = microseconds(
      [&](int number) {
        change(number);
        runner.run(0);
      },
      rounds);
  wake_driver();
  device.state().forget();
  return took;
}

/// What one change costs beyond a frame in which nothing changes.
void bench_values(gl::Device& device, int rounds) {
  const Field field(false);
  Scene& scene = *field.scene;
  gl::FrameRunner runner(device, field.frame({}).plan(frame_width, frame_height, device.limits()).value());
  runner.run(0);
  const auto cost = [&](const std::function<void(int)>& change) {
    return changed_frame(device, runner, rounds, change);
  };
  Light light = scene.lights()[0];
  Material material = scene.materials()[0];
  Camera camera = field.camera;
  const double still = cost([](int) {});
  const double lights = cost([&](int number) {
    std::get<DirectionalLight>(light.kind).illuminance = 2 + 0.01f * static_cast<float>(number % 100);
    scene.change_light(LightHandle{0}, light);
  });
  const double materials = cost([&](int number) {
    material.base_color.x() = 0.01f * static_cast<float>(number % 100);
    scene.change_material({0}, material);
  });
  const double cameras = cost([&](int number) {
    camera.eye.x() = 0.01f * static_cast<float>(number % 100);
    scene.set_camera({0}, camera);
  });
  fmt::print("\nmicroseconds of CPU outside of the driver: a frame without changes {:.1f}\n", still);
  fmt::print("  and beyond that: a light {:.1f}, a material {:.1f}, the camera (which culls 20,000 objects) {:.1f}\n",
             lights - still, materials - still, cameras - still);
}

/// The same for an option of a pass.
void bench_option(gl::Device& device, int rounds) {
  const Field field(false);
  FrameGraph frame;
  const TargetHandle light = frame.target("light", {.format = Format::rgba16f});
  frame.add(passes::forward({.scene = field.scene,
                             .view = "front",
                             .color = light,
                             .depth = frame.target("depth", {.format = Format::depth32f})}));
  frame.add(passes::tone_map({.name = "tones", .light = light, .color = frame.output()}));
  gl::FrameRunner runner(device, frame.plan(frame_width, frame_height, device.limits()).value());
  runner.run(0);
  passes::Live<passes::ToneMap> tones(frame, "tones");
  const double still = changed_frame(device, runner, rounds, [](int) {});
  const double changed = changed_frame(device, runner, rounds, [&](int number) {
    tones.change([&](passes::ToneMap& one) { one.exposure_ev100 = 0.01f * static_cast<float>(number % 100); });
  });
  fmt::print("  of two passes without changes {:.1f}, and beyond that: an option of one of them {:.1f}\n", still,
             changed - still);
}

/// Whole frames of a scene to which one object is added each time.
void bench_structure(gl::Device& device) {
  const Field field(false);
  gl::FrameRunner runner(device, field.frame({}).plan(frame_width, frame_height, device.limits()).value());
  runner.run(0);
  std::vector<double> still, added;
  for (int i = 0; i < 9; ++i) {
    const auto seconds = [&] {
      const auto start = cpu_seconds();
      runner.run(0);
      runner.wait();
      return cpu_seconds() - start;
    };
    Node node;
    node.mesh = {0};
    node.material = {0};
    field.scene->add_node(node);
    added.push_back(seconds());
    still.push_back(seconds());
  }
  fmt::print("an object is added: the next frame takes {:.0f} ms of CPU, others {:.1f} ms\n", 1e3 * median(added),
             1e3 * median(still));
}

}  // namespace

int main(int argc, char** argv) try {
  std::setvbuf(stdout, nullptr, _IOLBF, 0);
  const int rounds = argc > 1 ? std::max(3, std::atoi(argv[1])) : 7;
  gl::Device device = gl::Device::headless();
  fmt::print("{:<38} {:>9} {:>9}   {:>6}   {}\n", "CPU outside of the driver, µs a frame", "Periscena", "by hand",
             "ratio", "aim");
  bench_moves(device, rounds);
  bench_values(device, rounds);
  bench_option(device, rounds);
  bench_structure(device);
  return 0;
} catch (const std::exception& error) {
  fmt::print(stderr, "bench_live: {}\n", error.what());
  return 3;
}
