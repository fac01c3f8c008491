#include "twin.h"

#include "silent_driver.h"

#include <periscena/base/error.h>
#include <periscena/image/files.h>

#include <epoxy/gl.h>
#include <fmt/format.h>

#include <chrono>
#include <cstdlib>
#include <ctime>
#include <iostream>
#include <string>
#include <string_view>

#include <sys/resource.h>

#if __has_include(<valgrind/callgrind.h>)
#include <valgrind/callgrind.h>
#else
#define CALLGRIND_START_INSTRUMENTATION
#define CALLGRIND_STOP_INSTRUMENTATION
#endif

namespace {

double wall_seconds() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

/// @param clock  of the thread, or of the process with the driver's threads
double cpu_seconds(clockid_t clock) {
  timespec now{};
  clock_gettime(clock, &now);
  return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
}

constexpr double frame_seconds = 1.0 / 24;

/// Draws a frame whenever it is asked for one, and answers with the seconds that it took, by the wall's clock and of
/// CPUs.
void run_paced(const Twin& twin) {
  std::string line;
  for (int i = 0; std::getline(std::cin, line); ++i) {
    const double before = wall_seconds(), cpu_before = cpu_seconds(CLOCK_PROCESS_CPUTIME_ID);
    twin.run_frame(i * frame_seconds);
    glFinish();
    fmt::print("{:.6f} {:.6f}\n", wall_seconds() - before, cpu_seconds(CLOCK_PROCESS_CPUTIME_ID) - cpu_before);
    std::fflush(stdout);
  }
  std::_Exit(0);
}

}  // namespace

TwinOptions read_twin_options(int argc, char** argv) {
  TwinOptions options;
  for (int i = 1; i + 1 < argc; i += 2) {
    const std::string_view name = argv[i];
    if (name == "--frames") options.frames = std::atoi(argv[i + 1]);
    if (name == "--silent") options.silent_frames = std::atoi(argv[i + 1]);
    if (name == "--counted") options.counted = std::atoi(argv[i + 1]) != 0;
    if (name == "--paced") options.paced = std::atoi(argv[i + 1]) != 0;
    if (name == "--output") options.output = argv[i + 1];
    if (name == "--frame") options.frame = argv[i + 1];
    if (name == "--samples") options.samples = std::atoi(argv[i + 1]);
    if (name == "--start") options.start = std::atof(argv[i + 1]);
    if (name == "--size") std::sscanf(argv[i + 1], "%dx%d", &options.width, &options.height);
  }
  return options;
}

int run_twin(const TwinOptions& options, const std::function<Twin()>& setup) {
  try {
    const double start = wall_seconds();
    const Twin twin = setup();
    glFinish();
    const double ready = wall_seconds();
    if (options.paced) run_paced(twin);
    double first = ready;
    for (int i = 0; i < options.frames; ++i) {
      if (options.counted && i == 2) CALLGRIND_START_INSTRUMENTATION;
      twin.run_frame(options.start + i * frame_seconds);
      glFinish();
      if (i == 0) first = wall_seconds();
    }
    if (options.counted) CALLGRIND_STOP_INSTRUMENTATION;
    const double done = wall_seconds();
    if (!options.output.empty()) periscena::write_png(twin.read_output(), options.output);
    double silent = 0;
    if (options.silent_frames > 0) {
      silence_driver();
      twin.run_frame(options.frames * frame_seconds);
      reset_silent_calls();
      const double before = cpu_seconds(CLOCK_THREAD_CPUTIME_ID);
      CALLGRIND_START_INSTRUMENTATION;
      for (int i = 0; i < options.silent_frames; ++i) twin.run_frame((options.frames + 1 + i) * frame_seconds);
      CALLGRIND_STOP_INSTRUMENTATION;
      silent = (cpu_seconds(CLOCK_THREAD_CPUTIME_ID) - before) / options.silent_frames;
    }
    rusage used{};
    getrusage(RUSAGE_SELF, &used);
    fmt::print(
        "{{\"setup\": {:.6f}, \"first_frame\": {:.6f}, \"frames\": {:.6f}, \"memory\": {:.1f}, \"silent_frame\": "
        "{:.9f}, "
        "\"calls\": {{",
        ready - start, first - ready, done - ready, static_cast<double>(used.ru_maxrss) / 1024, silent);
    const char* separator = "";
    for (const CallCount& count : silent_calls()) {
      fmt::print("{}\"{}\": {}", separator, count.name, static_cast<double>(count.calls) / options.silent_frames);
      separator = ", ";
    }
    fmt::print("}}}}\n");
    std::fflush(stdout);
    // The driver was silenced, so objects can't be deleted in order any more.
    std::_Exit(0);
  } catch (const periscena::Error& error) {
    fmt::print(stderr, "{}\n", error.what());
    return 3;
  }
}
