// Many lights that reach only so far, over one geometry buffer, 1280 x 720: kept to the pixels that they reach, by
// quads and by tiles, beside every pixel asking all of them. Pictures are compared first.
//
//   build/release/bench/bench_lights [rounds]

#include "timing.h"

#include <periscena/image/statistics.h>
#include <periscena/periscena.h>

#include <fmt/format.h>

#include <chrono>
#include <cstdlib>
#include <random>

using namespace periscena;

namespace {

/// Pillars on a floor, with lamps among them.
std::shared_ptr<Scene> yard(int lamps) {
  auto scene = std::make_shared<Scene>();
  scene->add_view({"gate", {.eye = {0, 4, 14}, .target = {0, 1, -6}}});
  const MaterialHandle stone = scene->add_material({.name = "stone", .base_color = {0.7f, 0.65f, 0.6f}});
  const auto show = [&](const std::string& name, MeshHandle mesh, const Vec3& at) {
    Node node;
    node.name = name;
    node.mesh = mesh;
    node.material = stone;
    node.placement = Transform::translate(at);
    scene->add_node(node);
  };
  show("floor", scene->add_mesh("floor", shapes::plane(120, 120)), {0, 0, -40});
  const MeshHandle pillar = scene->add_mesh("pillar", shapes::box({1, 5, 1}));
  std::mt19937 dice(7);
  std::uniform_real_distribution<float> across(-20, 20), along(-50, 8), share(0, 1);
  for (int i = 0; i < 120; ++i) show(fmt::format("pillar {}", i), pillar, {across(dice), 2.5f, along(dice)});
  for (int i = 0; i < lamps; ++i) {
    scene->add_light(Light{.name = fmt::format("lamp {}", i),
                           .kind = PointLight{.intensity = 4,
                                              .position = {across(dice), 0.3f + 2 * share(dice), along(dice)},
                                              .range = 1.5f + 2 * share(dice)},
                           .color = {0.5f + share(dice), 0.5f + share(dice), 0.5f + share(dice)}});
  }
  return scene;
}

FrameGraph frame_of(const std::shared_ptr<Scene>& scene, batch::LightBounds bounds) {
  FrameGraph frame;
  passes::Geometry buffer;
  buffer.scene = scene;
  buffer.view = "gate";
  buffer.normal = frame.target("normal", {.format = Format::rgba16});
  buffer.base_color = frame.target("base_color", {.format = Format::rgba8_srgb});
  buffer.material = frame.target("material", {.format = Format::rgba8});
  buffer.depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::geometry(buffer));
  passes::Deferred lights{.scene = scene, .view = "gate"};
  lights.light_bounds = bounds;
  lights.depth = buffer.depth;
  lights.normal = buffer.normal;
  lights.base_color = buffer.base_color;
  lights.material = buffer.material;
  lights.color = frame.target("light", {.format = Format::rgba16f});
  frame.keep(lights.color);
  frame.add(passes::deferred(lights));
  return frame;
}

double milliseconds_of(gl::FrameRunner& runner) {
  const auto start = std::chrono::steady_clock::now();
  runner.run(0);
  runner.wait();
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
}

}  // namespace

int main(int argc, char** argv) {
  const int rounds = argc > 1 ? std::atoi(argv[1]) : 5;
  gl::Device device = gl::Device::headless();
  fmt::print(
      "bounded lights, 1280 x 720, whole frames with their geometry buffer (aims: 256 lights 8 times faster than all "
      "for each pixel; tiles\n"
      "no slower than quads at 256, faster at 1024)\n\n{:<8} {:>12} {:>9} {:>9} {:>11} {:>11} {:>12} {:>10}\n",
      "lights", "all, ms", "quads", "tiles", "all/quads", "all/tiles", "quads/tiles", "rmse");
  for (const int count : {16, 64, 256, 1024}) {
    const auto scene = yard(count);
    std::vector<std::unique_ptr<gl::FrameRunner>> runners;
    for (const auto bounds : {batch::LightBounds::none, batch::LightBounds::quads, batch::LightBounds::tiles}) {
      runners.push_back(
          std::make_unique<gl::FrameRunner>(device, frame_of(scene, bounds).plan(1280, 720, device.limits()).value()));
      runners.back()->run(0);
    }
    const Image all = runners[0]->read("light");
    const double rmse =
        std::max(compare(all, runners[1]->read("light")).rmse, compare(all, runners[2]->read("light")).rmse);
    std::vector<double> times[3], ratios[3];
    for (int i = 0; i < rounds; ++i) {
      double of[3];
      for (std::size_t k = 0; k < 3; ++k) times[k].push_back(of[k] = milliseconds_of(*runners[k]));
      ratios[0].push_back(of[0] / of[1]);
      ratios[1].push_back(of[0] / of[2]);
      ratios[2].push_back(of[1] / of[2]);
    }
    fmt::print("{:<8} {:>12.1f} {:>9.1f} {:>9.1f} {:>11.2f} {:>11.2f} {:>12.2f} {:>10.1e}\n", count, median(times[0]),
               median(times[1]), median(times[2]), median(ratios[0]), median(ratios[1]), median(ratios[2]), rmse);
  }
  return 0;
}
