// Runs the demo frame's two twins in turn and prints ratios: the whole process by wall clock, frames drawn in turn by
// two processes, and the CPU work outside the driver, in instructions where valgrind is installed, else in CPU time.
// Compares their pictures first: they may differ in a few pixels, as Periscena merges small things, whose places are
// rounded once more then.
//
//   build/release/bench/bench_lock [rounds of processes] [pairs of frames]

#include "paced_twin.h"
#include "timing.h"

#include <periscena/image/files.h>
#include <periscena/image/statistics.h>
#include <periscena/inspect/comparison.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <array>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <stdexcept>
#include <vector>

namespace {

using Json = nlohmann::ordered_json;
namespace fs = std::filesystem;

struct Round {
  double process = 0;  ///< seconds, whole
  Json told;
};

Round run(const fs::path& program, const std::string& options) {
  Round round;
  const auto start = std::chrono::steady_clock::now();
  const std::string text = output_of(program.string() + " " + options);
  round.process = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  round.told = Json::parse(text);
  return round;
}

double least(const std::vector<double>& values) {
  return *std::min_element(values.begin(), values.end());
}

/// Instructions that callgrind counts. Without the driver's cache on disk, which may know one twin's shaders and not
/// the other's. @param options  of callgrind and of the program
double instructions(const fs::path& program, const std::string& of_callgrind, const std::string& of_program) {
  const fs::path report = fs::temp_directory_path() / "periscena-bench.callgrind";
  output_of(
      fmt::format("LP_NUM_THREADS=0 MESA_SHADER_CACHE_DISABLE=true valgrind --tool=callgrind {} "
                  "--callgrind-out-file={} {} {} 2>/dev/null",
                  of_callgrind, report.string(), program.string(), of_program));
  std::ifstream file(report);
  std::string line;
  while (std::getline(file, line)) {
    if (line.starts_with("totals: ")) return std::stod(line.substr(8));
  }
  throw std::runtime_error("callgrind left no total");
}

double total(const Json& calls) {
  double sum = 0;
  for (const auto& [name, count] : calls.items()) sum += count.get<double>();
  return sum;
}

/// Ratios of what ran right after each other, so that a machine whose speed drifts does not count.
void row_of_ratios(const std::vector<double> (&seconds)[2], const char* aim) {
  std::vector<double> ratios;
  for (std::size_t i = 0; i < seconds[0].size(); ++i) ratios.push_back(seconds[0][i] / seconds[1][i]);
  std::sort(ratios.begin(), ratios.end());
  const std::size_t count = ratios.size();
  fmt::print("{:<44} {:>48.3f}   {}\n",
             fmt::format("  of {} pairs, half {:.3f} to {:.3f}: the median", count, ratios[count / 4],
                         ratios[(3 * count) / 4]),
             median(ratios), aim);
}

void row(const std::string& what, double through, double by_hand, const char* unit, const char* aim) {
  fmt::print("{:<44} {:>12.4g} {:>12.4g} {:<14} {:>7.3f}   {}\n", what, through, by_hand, unit, through / by_hand, aim);
}

}  // namespace

int main(int argc, char** argv) try {
  std::setvbuf(stdout, nullptr, _IOLBF, 0);  // the last rows take minutes
  const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 5;
  const int pairs = argc > 2 ? std::max(1, std::atoi(argv[2])) : 60;
  const fs::path folder = fs::canonical("/proc/self/exe").parent_path();
  const fs::path twins[] = {folder / "lock_through_periscena", folder / "lock_by_hand"};
  const fs::path pictures[] = {fs::temp_directory_path() / "periscena-bench-through.png",
                               fs::temp_directory_path() / "periscena-bench-by-hand.png"};
  for (int k = 0; k < 2; ++k) run(twins[k], fmt::format("--frames 1 --output {}", pictures[k].string()));
  const periscena::PictureDifference difference =
      periscena::compare(periscena::read_png(pictures[0]), periscena::read_png(pictures[1]));
  fmt::print("pictures: {}\n\n", periscena::inspect::to_text(difference));
  if (difference.pixels > 1280 * 720 / 100 || difference.psnr < 60)
    throw std::runtime_error("the twins draw different things");
  constexpr int frames = 4;
  std::vector<double> process[2], per_frame[2], silent[2];
  Json calls[2];
  for (int i = 0; i < rounds; ++i) {
    for (int k = 0; k < 2; ++k) {
      const int twin = (i + k) % 2;  // each goes first in turn
      const Round round = run(twins[twin], fmt::format("--frames {}", frames));
      process[twin].push_back(round.process);
    }
  }
  {
    PacedTwin paced[] = {PacedTwin(twins[0]), PacedTwin(twins[1])};
    for (int i = 0; i < 2 * pairs; ++i) {
      const int twin = (i + i / 2) % 2;
      per_frame[twin].push_back(paced[twin].frame().wall);
    }
  }
  for (int i = 0; i < 2 * std::max(3, rounds / 3); ++i) {
    const int twin = i % 2;
    const Round quiet = run(twins[twin], "--frames 1 --size 64x36 --silent 2000");
    silent[twin].push_back(quiet.told["silent_frame"].get<double>());
    calls[twin] = quiet.told["calls"];
  }
  fmt::print("Osier Lock, 1280 x 720: {} processes of {} frames in turn, then {} frames in turn; medians\n\n", rounds,
             frames, pairs);
  fmt::print("{:<44} {:>12} {:>12} {:<14} {:>7}   {}\n", "", "Periscena", "by hand", "", "ratio", "aim");
  row("whole process, wall clock", median(process[0]), median(process[1]), "s", "1.05");
  row("  the fastest", least(process[0]), least(process[1]), "s", "1.05");
  row_of_ratios(process, "1.05");
  row("a frame but the first two, queue finished", 1e3 * median(per_frame[0]), 1e3 * median(per_frame[1]), "ms",
      "1.02");
  row("  the fastest", 1e3 * least(per_frame[0]), 1e3 * least(per_frame[1]), "ms", "1.02");
  row_of_ratios(per_frame, "1.02");
  row("a frame outside the driver, CPU time", 1e6 * median(silent[0]), 1e6 * median(silent[1]), "us", "");
  if (std::system("command -v valgrind >/dev/null 2>&1") == 0) {
    constexpr int counted = 50;
    const auto outside_driver = [&](const fs::path& program) {
      const std::string silent_frames = fmt::format("--frames 1 --size 64x36 --silent {}", counted);
      return instructions(program, "--instr-atstart=no", silent_frames) / counted;
    };
    const auto frame = [](const fs::path& program) {
      return instructions(program, "--instr-atstart=no", "--counted 1 --frames 4 --size 320x180") / 2;
    };
    const auto whole = [](const fs::path& program) { return instructions(program, "", "--frames 1 --size 96x54"); };
    row("a frame outside the driver, instructions", outside_driver(twins[0]), outside_driver(twins[1]), "", "1.10");
    row("a frame at 320 x 180, driver included, instr.", frame(twins[0]), frame(twins[1]), "", "1.02");
    row("whole process, driver included, instructions", whole(twins[0]), whole(twins[1]), "", "1.05");
  } else {
    fmt::print("(valgrind is not installed: instructions outside the driver are not counted)\n");
  }
  row("GL calls a frame", total(calls[0]), total(calls[1]), "", "");
  std::vector<std::string> names;
  for (const Json& list : calls) {
    for (const auto& [name, count] : list.items()) names.push_back(name);
  }
  std::sort(names.begin(), names.end());
  names.erase(std::unique(names.begin(), names.end()), names.end());
  for (const std::string& name : names)
    fmt::print("  {:<42} {:>12.4g} {:>12.4g}\n", name, calls[0].value(name, 0.0), calls[1].value(name, 0.0));
  return 0;
} catch (const std::exception& error) {
  fmt::print(stderr, "bench_lock: {}\n", error.what());
  return 3;
}
