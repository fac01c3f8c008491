#include "gl/draws.h"

#include "silent_driver.h"

#include <periscena/frame/frame_file.h>

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
  std::free(memory);
}
void operator delete[](void* memory) noexcept {
  std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
  std::free(memory);
}
void operator delete[](void* memory, std::size_t) noexcept {
  std::free(memory);
}
void operator delete(void* memory, const std::nothrow_t&) noexcept {
  std::free(memory);
}
void operator delete[](void* memory, const std::nothrow_t&) noexcept {
  std::free(memory);
}
void operator delete(void* memory, std::align_val_t) noexcept {
  std::free(memory);
}
void operator delete[](void* memory, std::align_val_t) noexcept {
  std::free(memory);
}
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept {
  std::free(memory);
}
void operator delete[](void* memory, std::size_t, std::align_val_t) noexcept {
  std::free(memory);
}

namespace {

/// What 50 steady frames cost, 1/24 s apart.
struct Steady {
  std::size_t allocations = 0;
  std::vector<CallCount> calls;

  explicit Steady(gl::FrameRunner& runner) {
    // A whole cycle of the gates and the water, so that every list has had its greatest length.
    for (int i = 0; i < 5; ++i) runner.run(i * 5.0);
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
  // The hand-written twin makes 121 (bench_lock prints both lists).
  CHECK(sum <= 50 * 121 + 50);
}

TEST_CASE("a frame with a shadow map whose casters move touches no heap, either") {
  gl::Device device = gl::Device::headless();
  const FrameFile file = read_frame_file(PERISCENA_SOURCE_FOLDER "/demo/lock_day.toml",
                                         {.size = std::array{64, 36}, .overrides = {"target.sun.depth.size=[64, 64]"}});
  gl::FrameRunner runner(device, file.plan(device.limits()).value());
  CHECK(Steady(runner).allocations == 0);
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
  frame.add(passes::copy({.from = {.target = trail}, .to = {.target = half}, .linear = true}));
  frame.add(fill("end", "texture(half_, uv)", {.target = frame.output()}, "vec4", {{"half_", half}},
                 "uniform sampler2D half_;\n"));
  gl::FrameRunner runner(device, frame.plan(16, 16, device.limits()).value());
  CHECK(Steady(runner).allocations == 0);
}
