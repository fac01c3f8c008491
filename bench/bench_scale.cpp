// How the time of a frame grows with what is in it: objects that stand and that move, lights, materials, pixels,
// cascades. Each row beside the row before it, so that a bend shows.
//
//   build/release/bench/bench_scale [rounds, 5] [most objects, 1000000] [a word of the tables wanted]

#include "timing.h"

#include <periscena/periscena.h>

#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <fstream>
#include <random>
#include <string>

#include <malloc.h>

using namespace periscena;

namespace {

using Clock = std::chrono::steady_clock;

double seconds_since(Clock::time_point start) {
  return std::chrono::duration<double>(Clock::now() - start).count();
}

/// MiB that the process has in memory, without what it has freed.
double resident() {
  malloc_trim(0);
  std::ifstream file("/proc/self/statm");
  double pages = 0;
  file >> pages >> pages;
  return pages * 4096 / (1 << 20);
}

struct Setting {
  int objects = 1000, materials = 5, lights = 1, width = 640, height = 360, cascades = 0;
  bool moving = false, textured = false;
  batch::Batching batching = batch::Batching::automatic;
};

/// Boxes in rows on a square that is seen whole, from an eye that goes round.
std::shared_ptr<Scene> boxes(const Setting& setting) {
  auto scene = std::make_shared<Scene>();
  std::mt19937 dice(3);
  std::uniform_real_distribution<float> share(0, 1);
  for (int i = 0; i < setting.materials; ++i) {
    Material material{.name = fmt::format("material {}", i),
                      .base_color = {share(dice), share(dice), share(dice)},
                      .roughness = 0.2f + 0.8f * share(dice)};
    if (setting.textured) {
      auto image = std::make_shared<Image>(64, 64, Format::rgba8_srgb);
      for (int p = 0; p < 64 * 64; ++p) image->set(p % 64, p / 64, {255 * share(dice), 200, 180, 255});
      material.base_color_map.texture = scene->add_texture({.name = fmt::format("texture {}", i), .image = image});
    }
    scene->add_material(material);
  }
  const MeshHandle box = scene->add_mesh("box", shapes::box({1, 1, 1}));
  const int across = static_cast<int>(std::ceil(std::sqrt(setting.objects)));
  const float cell = 40.0f / static_cast<float>(across);
  for (int i = 0; i < setting.objects; ++i) {
    Node node;
    node.mesh = box;
    node.material = MaterialHandle{static_cast<std::uint32_t>(i % setting.materials)};
    const float x = (static_cast<float>(i % across) + 0.5f) * cell - 20;
    const float z = (static_cast<float>(i / across) + 0.5f) * cell - 20;
    node.placement = Transform::scale(Vec3::constant(0.6f * cell)).then(translate({x, 0, z}));
    if (setting.moving)
      node.motion = Motion{.kind = Motion::Kind::spin, .period = 2 + 3 * share(dice), .phase = share(dice)};
    scene->add_node(node);
  }
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
  // As many of them reach a place, however many there are: four.
  const float reach = 40 * std::sqrt(4 / (pi * static_cast<float>(setting.lights)));
  for (int i = 1; i < setting.lights; ++i) {
    scene->add_light(Light{.name = fmt::format("lamp {}", i),
                           .kind = PointLight{.intensity = reach * reach,
                                              .position = {40 * share(dice) - 20, 0.5f * cell, 40 * share(dice) - 20},
                                              .range = reach}});
  }
  Node stand;
  stand.motion = Motion{.kind = Motion::Kind::spin, .period = 600};
  const NodeHandle turning = scene->add_node(stand);
  Camera camera;
  camera.eye = {0, 22, 34};
  camera.target = {0, 0, 2};
  scene->add_view({"above", camera, turning});
  return scene;
}

FrameGraph frame_of(const std::shared_ptr<Scene>& scene, const Setting& setting) {
  FrameGraph frame;
  const TargetHandle color = frame.target("light", {.format = Format::rgba16f}),
                     depth = frame.target("depth", {.format = Format::depth32f});
  passes::Forward forward{
      .scene = scene, .view = "above", .batching = setting.batching, .color = color, .depth = depth};
  if (setting.cascades > 0) {
    const TargetHandle map = frame.target(
        "sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(1024, 1024), .layers = setting.cascades});
    frame.add(passes::shadow_map(
        {.scene = scene, .light = "sun", .depth = map, .cascades = setting.cascades, .view = "above", .reach = 70}));
    forward.shadows = {map};
  }
  frame.add(passes::forward(forward));
  frame.keep(color);
  return frame;
}

struct Measured {
  double first, frame, memory;  ///< seconds from a scene to its first picture; ms; MiB
};

Measured measure(gl::Device& device, const Setting& setting, int rounds) {
  const double before = resident();
  const auto scene = boxes(setting);
  const auto start = Clock::now();
  gl::FrameRunner runner(device, frame_of(scene, setting).plan(setting.width, setting.height, device.limits()).value());
  runner.run(0);
  runner.wait();
  const double first = seconds_since(start);
  std::vector<double> times;
  for (int i = 1; i <= rounds + 1; ++i) {
    const auto begin = Clock::now();
    runner.run(i / 24.0);
    runner.wait();
    if (i > 1) times.push_back(1000 * seconds_since(begin));
  }
  return {first, median(times), resident() - before};
}

std::string wanted;  ///< what the names of tables must hold
int printed = 0;     ///< tables

/// A table of settings that differ in one thing. @param set  gives a setting that many
template <class Set>
void table(gl::Device& device, const char* what, const std::vector<int>& counts, int rounds, Set set) {
  if (std::string(what).find(wanted) == std::string::npos) return;
  ++printed;
  fmt::print("\n{:<28} {:>12} {:>14} {:>10} {:>12} {:>8}\n", what, "ms a frame", "times as long", "as many", "first, s",
             "MiB");
  double before_time = 0, before_count = 0;
  for (const int count : counts) {
    Setting setting;
    set(setting, count);
    const Measured measured = measure(device, setting, rounds);
    fmt::print("{:<28} {:>12.2f} {:>14} {:>10} {:>12.2f} {:>8.0f}\n", count, measured.frame,
               before_time > 0 ? fmt::format("{:.2f}", measured.frame / before_time) : "",
               before_count > 0 ? fmt::format("{:.2f}", count / before_count) : "", measured.first, measured.memory);
    std::fflush(stdout);
    before_time = measured.frame;
    before_count = count;
  }
}

std::vector<int> tens(int first, int most) {
  std::vector<int> counts;
  for (int count = first; count <= most; count *= 10) counts.push_back(count);
  return counts;
}

}  // namespace

int main(int argc, char** argv) {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 5;
  const int most = argc > 2 ? std::max(1000, std::atoi(argv[2])) : 1000000;
  if (argc > 3) wanted = argv[3];
  gl::Device device = gl::Device::headless();
  fmt::print("boxes of 5 materials in one light, 640 x 360, from an eye that moves, unless a table says more\n");
  table(device, "objects that stand", tens(1000, most), rounds, [](Setting& s, int n) { s.objects = n; });
  table(device, "the same, unmerged", tens(1000, most), rounds, [](Setting& s, int n) {
    s.objects = n;
    s.batching = batch::Batching::unmerged;
  });
  table(device, "objects that move", tens(1000, most), rounds, [](Setting& s, int n) {
    s.objects = n;
    s.moving = true;
  });
  table(device, "lights, 4 at each place", tens(1, 100000), rounds, [](Setting& s, int n) { s.lights = n; });
  table(device, "materials, 10,000 objects", {1, 10, 100, 400}, rounds, [](Setting& s, int n) {
    s.objects = 10000;
    s.materials = n;
  });
  table(device, "materials with textures", {1, 10, 100, 400}, rounds, [](Setting& s, int n) {
    s.objects = 10000;
    s.materials = n;
    s.textured = true;
  });
  table(device, "rows of pixels", {360, 720, 1080, 2160}, rounds, [](Setting& s, int n) {
    s.height = n;
    s.width = n * 16 / 9;
  });
  table(device, "cascades, 10,000 objects", {1, 2, 3, 4}, rounds, [](Setting& s, int n) {
    s.objects = 10000;
    s.moving = true;
    s.cascades = n;
  });
  if (printed > 0) return 0;
  fmt::print(stderr,
             "bench_scale: no table's name has \"{}\" in it: try objects, lights, materials, rows or cascades\n",
             wanted);
  return 2;
}
