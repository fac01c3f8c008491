// Pictures, each drawn through Periscena and by OpenGL that was written by hand for that picture alone, with GLSL,
// buffers and meshes of its own. Compares the pictures first; then two processes draw frames in turn.
//
//   build/release/bench/bench_by_hand [pairs of frames, 30] [picture …]

#include "paced_twin.h"
#include "timing.h"

#include <periscena/image/files.h>
#include <periscena/image/statistics.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <array>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <stdexcept>

namespace {

namespace fs = std::filesystem;
using Words = std::vector<std::string>;

struct Picture {
  const char* name;
  const char* twin;
  const char* what;
  Words options;
};

const Picture pictures[] = {
    {"ring", "ring", "A  a ring in one light", {"--size", "960x600"}},
    {"model", "model", "B  a model, its shadow, a sky", {}},
    {"model 4x", "model", "B  the same, 4 samples", {"--samples", "4"}},
    {"lamps", "lamps", "C  64 lamps over a buffer", {}},
    {"cubes", "cubes", "D  20,000 cubes that turn", {}},
    {"bloom", "bloom", "E  bloom", {}},
};

nlohmann::json run(const fs::path& program, const Words& words, const std::string& before = "") {
  std::string command = before + program.string();
  for (const std::string& word : words) command += " " + word;
  return nlohmann::json::parse(output_of(command));
}

struct Quartiles {
  double low, middle, high;
};

Quartiles quartiles(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  return {values[values.size() / 4], values[values.size() / 2], values[3 * values.size() / 4]};
}

/// @return wall time by hand's
double bench(const Picture& picture, const fs::path& folder, int pairs) {
  const fs::path programs[] = {folder / "through_periscena", folder / fmt::format("{}_by_hand", picture.twin)};
  Words words[2];
  for (int side = 0; side < 2; ++side) {
    words[side] = picture.options;
    if (side == 0) words[side].insert(words[side].end(), {"--frame", picture.twin});
  }
  periscena::Image drawn[2];
  nlohmann::json told[2], cold[2];
  for (int side = 0; side < 2; ++side) {
    const fs::path file = fs::temp_directory_path() / fmt::format("periscena-by-hand-{}.png", side);
    Words more = words[side];
    more.insert(more.end(), {"--frames", "1", "--start", "0.7", "--output", file.string()});
    run(programs[side], more);  // the driver's own cache of shaders is warm after that
    told[side] = run(programs[side], more);
    cold[side] = run(programs[side], more, "MESA_SHADER_CACHE_DISABLE=true ");
    drawn[side] = periscena::read_png(file);
  }
  const double rmse = periscena::compare(drawn[0], drawn[1]).rmse;
  std::vector<double> wall, cpu, milliseconds[2];
  {
    PacedTwin twins[] = {PacedTwin(programs[0], words[0]), PacedTwin(programs[1], words[1])};
    for (int i = 0; i < pairs; ++i) {
      PacedTwin::Took took[2]{};
      for (int k = 0; k < 2; ++k) took[(i + k) % 2] = twins[(i + k) % 2].frame();
      wall.push_back(took[0].wall / took[1].wall);
      cpu.push_back(took[0].cpu / took[1].cpu);
      for (int side = 0; side < 2; ++side) milliseconds[side].push_back(1e3 * took[side].wall);
    }
  }
  const Quartiles by_wall = quartiles(wall), by_cpu = quartiles(cpu);
  const auto first = [](const nlohmann::json& one) {
    return one["setup"].get<double>() + one["first_frame"].get<double>();
  };
  fmt::print(
      "{:<30} {:7.1f} {:7.1f}   {:5.2f} ({:.2f} to {:.2f})  {:5.2f} ({:.2f} to {:.2f})  {:6.2f} {:6.2f}  {:6.2f} "
      "{:6.2f}  {:5.0f} {:5.0f}  {:.4f}\n",
      picture.what, median(milliseconds[0]), median(milliseconds[1]), by_wall.middle, by_wall.low, by_wall.high,
      by_cpu.middle, by_cpu.low, by_cpu.high, first(told[0]), first(told[1]), first(cold[0]), first(cold[1]),
      told[0]["memory"].get<double>(), told[1]["memory"].get<double>(), rmse);
  if (!(rmse < 0.01)) throw std::runtime_error(fmt::format("the pictures of \"{}\" are not alike", picture.name));
  return by_wall.middle;
}

}  // namespace

int main(int argc, char** argv) try {
  std::setvbuf(stdout, nullptr, _IOLBF, 0);
  const int pairs = argc > 1 ? std::max(4, std::atoi(argv[1])) : 30;
  const fs::path folder = fs::canonical("/proc/self/exe").parent_path();
  fmt::print("{:<30} {:>15}   {:^20}  {:^20}  {:^27}  {:>11}\n", "", "ms a frame", "ratio, wall clock", "ratio, CPU",
             "s to a first picture", "MiB");
  fmt::print("{:<30} {:>7} {:>7}   {:^20}  {:^20}  {:>6} {:>6}  {:>6} {:>6}  {:>5} {:>5}  {}\n\n", "", "ours", "hand",
             "median, quartiles", "median, quartiles", "ours", "hand", "cold", "hand", "ours", "hand", "RMSE");
  double product = 1;
  int count = 0;
  for (const Picture& picture : pictures) {
    bool wanted = argc < 3;
    for (int i = 2; i < argc; ++i) wanted = wanted || picture.twin == std::string(argv[i]);
    if (!wanted) continue;
    product *= bench(picture, folder, pairs);
    ++count;
  }
  if (count == 0) throw std::runtime_error("no picture has such a name: there are ring, model, lamps, cubes and bloom");
  fmt::print("\n{:<30} {:>15}   {:5.2f}\n", "geometric mean", "", std::pow(product, 1.0 / count));
  return 0;
} catch (const std::exception& error) {
  fmt::print(stderr, "bench_by_hand: {}\n", error.what());
  return 3;
}
