// How long plan() takes for random frames of 100 and of 10,000 passes, and how near its memory is to the least there
// could be.
//
//   build/release/bench/bench_plan

#include "random_frame.h"

#include <periscena/base/error.h>
#include <periscena/frame/frame_file.h>

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

using namespace periscena;

namespace {

/// Least of many rounds, in microseconds a pass.
double microseconds_a_pass(int passes) {
  const FrameGraph frame = random_frame(passes, 1);
  double least = 1e30;
  const int rounds = std::max(5, 200000 / passes);
  for (int i = 0; i < rounds; ++i) {
    const auto start = std::chrono::steady_clock::now();
    const PlanResult result = frame.plan(1280, 720);
    const std::chrono::duration<double, std::micro> taken = std::chrono::steady_clock::now() - start;
    if (!result.ok()) throw Mistake(result.diagnostics());
    least = std::min(least, taken.count() / passes);
  }
  return least;
}

void memory_row(const char* what, const FramePlan& plan) {
  const auto mebibytes = [](std::size_t bytes) { return static_cast<double>(bytes) / (1 << 20); };
  fmt::print("{:<28} {:>12.1f} {:>12.1f} {:>12.1f} {:>8.3f}   1.05\n", what, mebibytes(plan.unshared_bytes()),
             mebibytes(plan.bytes()), mebibytes(plan.least_bytes()),
             static_cast<double>(plan.bytes()) / static_cast<double>(plan.least_bytes()));
}

}  // namespace

int main() try {
  const double hundred = microseconds_a_pass(100), ten_thousand = microseconds_a_pass(10000);
  fmt::print(
      "plan(), microseconds a pass: {:.2f} of 100 passes, {:.2f} of 10,000 (aim about 2); ratio {:.2f} (aim 2)\n\n",
      hundred, ten_thousand, ten_thousand / hundred);
  fmt::print("{:<28} {:>12} {:>12} {:>12} {:>8}   aim\n", "memory, MiB", "unshared", "planned", "least", "ratio");
  memory_row("Osier Lock", read_frame_file(PERISCENA_SOURCE_FOLDER "/demo/lock.toml").plan().value());
  for (const int passes : {10, 100, 1000}) {
    memory_row(fmt::format("random, {} passes", passes).c_str(), random_frame(passes, 2).plan(1280, 720).value());
  }
} catch (const Error& error) {
  fmt::print(stderr, "{}\n", error.what());
  return 3;
}
