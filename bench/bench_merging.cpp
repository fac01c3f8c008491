// What merging is worth that stands still: whole frames, device and all, of the same objects as they are (a call, with
// a command for each mesh and an instance for each object) and merged; by triangles an object, and objects a mesh. From
// these figures comes the rule by which `batching = "automatic"` merges: see batch::MergeLimits::where_it_pays.
//
//   build/release/bench/bench_merging [rounds]

#include "timing.h"

#include <periscena/base/error.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/passes/forward.h>
#include <periscena/scene/scene.h>

#include <epoxy/gl.h>
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <random>

using namespace periscena;

namespace {

constexpr int width = 160, height = 90;

/// Bent plates in a field, `sharing` to a mesh.
std::shared_ptr<Scene> field(int objects, int triangles, int sharing) {
  std::mt19937 dice(5);
  std::uniform_real_distribution<float> share(0, 1);
  auto scene = std::make_shared<Scene>();
  Camera camera;
  camera.eye = {0, 22, 60};
  camera.target = {0, 0, 0};
  scene->add_view({"front", camera});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.4f, -1, -0.3f}}});
  const MaterialHandle material = scene->add_material({.name = "slate", .base_color = Vec3(0.4f, 0.5f, 0.6f)});
  MeshHandle mesh;
  for (int i = 0; i < objects; ++i) {
    if (i % sharing == 0) {
      MeshBuilder builder;
      const int steps = triangles / 2;
      const auto at = [&](int k) { return 0.3f * static_cast<float>(k) / static_cast<float>(steps) - 0.15f; };
      for (int k = 0; k <= steps; ++k) {
        for (const float y : {-0.15f, 0.15f})
          builder.vertices.push_back({.position = Vec3(at(k), y, share(dice) * 0.02f), .normal = Vec3(0, 0, 1)});
      }
      for (int k = 0; k < steps; ++k) {
        const auto first = static_cast<std::uint32_t>(2 * k);
        for (const std::uint32_t corner : {0u, 2u, 1u, 1u, 2u, 3u}) builder.indices.push_back(first + corner);
      }
      mesh = scene->add_mesh(fmt::format("plate {}", i), builder.build());
    }
    Node node;
    node.mesh = mesh;
    node.material = material;
    node.placement = Transform::translate({60 * share(dice) - 30, 6 * share(dice), 60 * share(dice) - 40});
    scene->add_node(node);
  }
  return scene;
}

gl::FrameRunner runner(gl::Device& device, const std::shared_ptr<Scene>& scene, batch::Batching batching) {
  FrameGraph frame;
  frame.add(passes::forward({.scene = scene,
                             .view = "front",
                             .batching = batching,
                             .color = frame.output(),
                             .depth = frame.target("depth", {.format = Format::depth32f})}));
  return {device, frame.plan(width, height, device.limits()).value()};
}

double milliseconds_of(gl::FrameRunner& runner) {
  const auto start = std::chrono::steady_clock::now();
  runner.run(0);
  glFinish();
  return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
}

}  // namespace

int main(int argc, char** argv) try {
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 15;
  gl::Device device = gl::Device::headless();
  fmt::print("{:>10} {:>10} {:>14} {:>10} {:>10} {:>10} {:>14}\n", "triangles", "objects", "objects a mesh", "commands",
             "apart ms", "merged ms", "apart / merged");
  for (const int sharing : {1, 4, 16, 64, 1024}) {
    for (const int triangles : {2, 12, 48, 192, 768}) {
      const int objects = std::min(16384, 400000 / triangles);
      const auto scene = field(objects, triangles, sharing);
      gl::FrameRunner apart = runner(device, scene, batch::Batching::unmerged),
                      merged = runner(device, scene, batch::Batching::merged);
      milliseconds_of(apart);
      milliseconds_of(merged);
      std::vector<double> one, other, ratios;
      for (int i = 0; i < rounds; ++i) {
        one.push_back(milliseconds_of(apart));
        other.push_back(milliseconds_of(merged));
        ratios.push_back(one.back() / other.back());
      }
      fmt::print("{:>10} {:>10} {:>14} {:>10} {:>10.2f} {:>10.2f} {:>14.2f}\n", triangles, objects, sharing,
                 apart.counts().commands, median(one), median(other), median(ratios));
    }
  }
  std::fflush(stdout);
  return 0;
} catch (const Error& error) {
  fmt::print(stderr, "{}\n", error.what());
  return 3;
}
