#include "gl/draws.h"

#include "silent_driver.h"

#include <periscena/frame/frame_file.h>
#include <periscena/passes/ambient_occlusion.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/geometry.h>
#include <periscena/passes/light_buffer.h>
#include <periscena/passes/light_markers.h>
#include <periscena/passes/shadow_map.h>

#include <epoxy/gl.h>

#include <algorithm>
#include <cstddef>
#include <cstdlib>
#include <new>

using namespace periscena;

// Every allocation of this program on the heap is counted while `counting` is set. The driver is silenced meanwhile, so
// that its own do not count.
namespace {

bool counting = false;
std::size_t allocations = 0;

void* counted_allocation(std::size_t bytes, std::size_t alignment = alignof(std::max_align_t)) {
  if (counting) ++allocations;
  const std::size_t whole = (std::max<std::size_t>(1, bytes) + alignment - 1) / alignment * alignment;
  if (void* memory = std::aligned_alloc(alignment, whole)) return memory;
  std::abort();  // a test has no use for a machine without memory
}

// Out of line: g++ 12 sees only one of a pair inlined, and takes them for mismatched.
[[gnu::noinline]] void freed(void* memory) {
  std::free(memory);
}

}  // namespace

// All forms of new and delete, so that those that belong together stay together.
void* operator new(std::size_t bytes) {
  return counted_allocation(bytes);
}
void* operator new[](std::size_t bytes) {
  return counted_allocation(bytes);
}
void* operator new(std::size_t bytes, const std::nothrow_t&) noexcept {
  return counted_allocation(bytes);
}
void* operator new[](std::size_t bytes, const std::nothrow_t&) noexcept {
  return counted_allocation(bytes);
}
void* operator new(std::size_t bytes, std::align_val_t alignment) {
  return counted_allocation(bytes, static_cast<std::size_t>(alignment));
}
void* operator new[](std::size_t bytes, std::align_val_t alignment) {
  return counted_allocation(bytes, static_cast<std::size_t>(alignment));
}
void operator delete(void* memory) noexcept {
  freed(memory);
}
void operator delete[](void* memory) noexcept {
  freed(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
  freed(memory);
}
void operator delete[](void* memory, std::size_t) noexcept {
  freed(memory);
}
void operator delete(void* memory, const std::nothrow_t&) noexcept {
  freed(memory);
}
void operator delete[](void* memory, const std::nothrow_t&) noexcept {
  freed(memory);
}
void operator delete(void* memory, std::align_val_t) noexcept {
  freed(memory);
}
void operator delete[](void* memory, std::align_val_t) noexcept {
  freed(memory);
}
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept {
  freed(memory);
}
void operator delete[](void* memory, std::size_t, std::align_val_t) noexcept {
  freed(memory);
}

namespace {

/// What 50 steady frames cost, 1/24 s apart.
struct Steady {
  std::size_t allocations = 0;
  std::vector<CallCount> calls;

  explicit Steady(gl::FrameRunner& runner) {
    // A whole cycle of the gates and the water, so that every list has had its greatest length.
    for (int i = 0; i < 5; ++i) runner.run(i * 5.0);
    // What was drawn so far reads memory that silent frames write.
    runner.wait();
    silence_driver();
    for (int i = 0; i < 24 * 24; ++i) runner.run(i / 24.0);
    reset_silent_calls();
    ::allocations = 0;
    counting = true;
    for (int i = 0; i < 50; ++i) runner.run(i / 24.0);
    counting = false;
    allocations = ::allocations;
    calls = silent_calls();
    wake_driver();
  }
};

}  // namespace

TEST_CASE("a steady frame of the demo touches no heap and makes no object") {
  counting = true;
  const std::string on_the_heap(1000, 'x');
  counting = false;
  REQUIRE(allocations > 0);  // the counter does count
  // No listener: debug groups and checks of state are for debugging.
  gl::Device device = gl::Device::headless();
  const FrameFile file = read_frame_file(PERISCENA_SOURCE_FOLDER "/demo/lock.toml", {.size = std::array{64, 36}});
  gl::FrameRunner runner(device, file.plan(device.limits()).value());
  const Steady steady(runner);
  CHECK(steady.allocations == 0);
  std::uint64_t sum = 0;
  for (const CallCount& count : steady.calls) {
    INFO(count.name);
    CHECK(count.name.find("Create") == std::string::npos);
    CHECK(count.name.find("Gen") == std::string::npos);
    sum += count.calls;
  }
  // The hand-written twin makes 135 (bench_lock prints both lists).
  CHECK(sum <= 50 * 125 + 50);
}

TEST_CASE("a frame with a shadow map whose casters move touches no heap, either") {
  gl::Device device = gl::Device::headless();
  const FrameFile file = read_frame_file(PERISCENA_SOURCE_FOLDER "/demo/lock_day.toml",
                                         {.size = std::array{64, 36}, .overrides = {"target.sun.depth.size=[64, 64]"}});
  gl::FrameRunner runner(device, file.plan(device.limits()).value());
  CHECK(Steady(runner).allocations == 0);
}

TEST_CASE("culling on the device, with text, particles and sprites, touches no heap in a steady frame, either") {
  gl::Device device = gl::Device::headless();
  const FrameFile file = read_frame_file(
      PERISCENA_SOURCE_FOLDER "/demo/lock_day.toml",
      {.size = std::array{64, 36}, .overrides = {"target.sun.depth.size=[64, 64]", "pass.lock.culling=device"}});
  gl::FrameRunner runner(device, file.plan(device.limits()).value());
  CHECK(Steady(runner).allocations == 0);
}

namespace {

/// Balls along the way of a view that moves, a sun, and lamps of two kinds. Its view is "rider".
std::shared_ptr<Scene> ride() {
  auto scene = std::make_shared<Scene>();
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.direction = {0.4f, -1, -0.3f}}});
  for (int i = 0; i < 4; ++i) {
    const Vec3 at(2, 3, -12.0f * static_cast<float>(i));
    scene->add_light(Light{.name = "lamp " + std::to_string(i),
                           .kind = i % 2 ? LightKind(SpotLight{.position = at, .range = 8})
                                         : LightKind(PointLight{.position = at, .range = 8}),
                           .tags = {"lamps"}});
  }
  Node node;
  node.mesh = scene->add_mesh("ball", shapes::sphere(0.5f, 12));
  node.material = scene->add_material({.name = "white"});
  for (int i = 0; i < 60; ++i) {
    node.placement = Transform::translate({static_cast<float>(i % 6) * 3 - 8, 0.5f, -static_cast<float>(i)});
    scene->add_node(node);
  }
  Node rider;
  rider.motion = Motion{.kind = Motion::Kind::slide, .axis = Vec3::unit_z(), .from = 20, .to = -20, .period = 24};
  scene->add_view({"rider", {}, scene->add_node(rider)});
  return scene;
}

}  // namespace

TEST_CASE("cascades, lamps, and GLSL and markers that ask them touch no heap while the view moves, either") {
  gl::Device device = gl::Device::headless();
  const std::shared_ptr<Scene> scene = ride();
  FrameGraph frame;
  const TargetHandle map = frame.target(
      "map",
      {.format = Format::depth32f, .size = TargetSize::pixels(64, 64), .layers = 3, .shape = TargetShape::array});
  frame.add(passes::shadow_map({.scene = scene, .light = "sun", .depth = map, .cascades = 3, .view = "rider"}));
  const TargetHandle lamps = frame.target(
      "lamps",
      {.format = Format::depth32f, .size = TargetSize::pixels(256, 256), .layers = 4, .shape = TargetShape::array});
  frame.add(
      passes::shadow_map({.name = "lamps", .scene = scene, .lights = {"lamps"}, .depth = lamps, .view = "rider"}));
  frame.add(passes::forward({.scene = scene, .view = "rider", .shadows = {map, lamps}, .color = frame.output()}));
  passes::Fullscreen air;
  air.name = "air";
  air.shader = gl::ShaderText::from_text("air", R"(#include "periscena/lights.glsl"
out vec4 color;
void main() {
  vec3 to_light, sum = vec3(0.0);
  for (int i = 0; i < lighting.light_count; ++i) sum += light_reaching(i, vec3(gl_FragCoord.xy, 0.0), vec3(0.0), to_light);
  color = vec4(sum, 1.0);
})",
                                         passes::pass_shaders());
  air.writes = {{"color", frame.target("air", {.format = Format::rgba16f})}};
  air.scene = scene;
  air.shadows = {map, lamps};
  frame.keep("air");
  frame.add(passes::fullscreen(air));
  frame.add(passes::light_markers({.scene = scene, .view = "rider", .shadows = {map, lamps}, .color = frame.output()}));
  gl::FrameRunner runner(device, frame.plan(64, 36, device.limits()).value());
  CHECK(Steady(runner).allocations == 0);
}

TEST_CASE(
    "lights kept to tiles, quads and clusters, corners, edges by samples and a light pre-pass touch no heap while the "
    "view moves, either") {
  gl::Device device = gl::Device::headless();
  const std::shared_ptr<Scene> scene = ride();
  for (const auto bounds : {batch::LightBounds::tiles, batch::LightBounds::quads}) {
    for (const int samples : {1, 4}) {
      FrameGraph frame;
      passes::Geometry buffer{.scene = scene, .view = "rider"};
      buffer.normal = frame.target("normal", {.format = Format::rgba16, .samples = samples});
      buffer.base_color = frame.target("base_color", {.format = Format::rgba8, .samples = samples});
      buffer.material = frame.target("material", {.format = Format::rgba8, .samples = samples});
      buffer.depth = frame.target("depth", {.format = Format::depth32f, .samples = samples});
      frame.add(passes::geometry(buffer));
      passes::Deferred light{.scene = scene, .view = "rider", .light_bounds = bounds};
      if (samples == 1) {
        light.occlusion = frame.target("free", {.format = Format::r8});
        frame.add(passes::ambient_occlusion({.scene = scene,
                                             .view = "rider",
                                             .depth = buffer.depth,
                                             .normal = buffer.normal,
                                             .occlusion = light.occlusion}));
      }
      light.depth = buffer.depth;
      light.normal = buffer.normal;
      light.base_color = buffer.base_color;
      light.material = buffer.material;
      light.color = frame.target("light", {.format = Format::rgba16f, .samples = samples});
      frame.keep(light.color);
      frame.add(passes::deferred(light));
      passes::Forward forward{.scene = scene, .view = "rider", .light_bounds = batch::LightBounds::clusters};
      forward.color = frame.target("forward", {.format = Format::rgba16f});
      frame.keep(forward.color);
      frame.add(passes::forward(forward));
      if (samples == 1) {
        const TargetHandle diffuse = frame.target("diffuse", {.format = Format::rgba16f}),
                           specular = frame.target("specular", {.format = Format::rgba16f}),
                           again = frame.target("again", {.format = Format::rgba16f});
        frame.add(passes::light_buffer({.scene = scene,
                                        .view = "rider",
                                        .light_bounds = bounds,
                                        .depth = buffer.depth,
                                        .normal = buffer.normal,
                                        .material = buffer.material,
                                        .diffuse = diffuse,
                                        .specular = specular}));
        frame.keep(again);
        frame.add(passes::forward({.name = "again",
                                   .scene = scene,
                                   .view = "rider",
                                   .surfaces = Surfaces::opaque,
                                   .light_diffuse = diffuse,
                                   .light_specular = specular,
                                   .color = again,
                                   .depth = buffer.depth}));
      }
      gl::FrameRunner runner(device, frame.plan(64, 36, device.limits()).value());
      CHECK(Steady(runner).allocations == 0);
    }
  }
}

TEST_CASE("history, resolves and copies touch no heap in a steady frame, either") {
  gl::Device device = gl::Device::headless();
  FrameGraph frame;
  const TargetHandle samples = frame.target("samples", {.format = Format::rgba16f, .samples = 4});
  const TargetHandle ids = frame.target("ids", {.format = Format::r32ui, .samples = 4});
  const TargetHandle trail = frame.target("trail", {.format = Format::rgba16f});
  const TargetHandle half = frame.target("half", {.format = Format::rgba16f, .size = TargetSize::of_frame(0.5f)});
  frame.add(fill("samples", "vec4(uv, frame.time, 1.0)", {.target = samples}));
  frame.add(fill("ids", "uvec4(1u)", {.target = ids}, "uvec4"));
  frame.add(fill("trail", "0.5 * texture(last, uv) + texture(now, uv) + vec4(texture(ids, uv))", {.target = trail},
                 "vec4", {{.slot = "last", .target = trail, .history = 3}, {"now", samples}, {"ids", ids}},
                 "uniform sampler2D last;\nuniform sampler2D now;\nuniform usampler2D ids;\n"));
  frame.add(passes::copy({.from = {.target = trail}, .to = {.target = half}, .filter = passes::Stretch::linear}));
  frame.add(fill("end", "texture(half_, uv)", {.target = frame.output()}, "vec4", {{"half_", half}},
                 "uniform sampler2D half_;\n"));
  gl::FrameRunner runner(device, frame.plan(16, 16, device.limits()).value());
  CHECK(Steady(runner).allocations == 0);
}
