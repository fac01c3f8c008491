// From `periscena render` to the first picture's file, compared with what can't be spared: a process that starts the
// driver, and one frame drawn and read back when everything is warm. The driver's own cache of shaders is warm.
//
//   build/release/bench/bench_start [rounds, 9]

#include "paced_twin.h"
#include "timing.h"

#include <periscena/periscena.h>

#include <fmt/format.h>

#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <string>

namespace {

namespace fs = std::filesystem;
using namespace periscena;

struct Frame {
  const char* what;
  const char* file;
  const char* size;
};

const Frame frames[] = {
    {"example 01, 960 x 600", PERISCENA_SOURCE_FOLDER "/examples/01_first_picture.toml", "960x600"},
    {"the demo, 640 x 360", PERISCENA_SOURCE_FOLDER "/demo/lock.toml", "640x360"},
};

template <class Work>
double seconds_of(const Work& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// A process that only starts the driver and draws nothing but a clear.
int start_driver() {
  auto device = gl::Device::headless();
  const gl::Texture texture(16, 16, Format::rgba8, "picture");
  return texture.read().width() == 16 ? 0 : 1;
}

/// The parts of a first picture, and a frame when everything is warm, in milliseconds.
struct Parts {
  double file, driver, setup, first_frame, frame, write;
};

Parts measure_parts(const Frame& frame) {
  FrameFileOptions options;
  int width = 0, height = 0;
  std::sscanf(frame.size, "%dx%d", &width, &height);
  options.size = {width, height};
  Parts parts{};
  const fs::path picture = fs::temp_directory_path() / "periscena-start-parts.png";
  std::optional<FrameFile> file;
  parts.file = seconds_of([&] { file.emplace(read_frame_file(frame.file, options)); });
  std::unique_ptr<gl::Device> device;
  std::optional<gl::FrameRunner> runner;
  parts.driver = seconds_of([&] { device.reset(new gl::Device(gl::Device::headless())); });
  parts.setup = seconds_of([&] { runner.emplace(*device, file->plan(device->limits()).value()); });
  const auto draw = [&] {
    runner->run(0);
    return runner->read("output");
  };
  parts.first_frame = seconds_of(draw);
  draw();
  std::vector<double> warm;
  for (int i = 0; i < 3; ++i) warm.push_back(seconds_of(draw));
  parts.frame = median(warm);
  const Image drawn = draw();
  parts.write = seconds_of([&] { write_png(drawn, picture); });
  fs::remove(picture);
  return parts;
}

double median_of(const std::vector<Parts>& all, double Parts::*part) {
  std::vector<double> values;
  for (const Parts& one : all) values.push_back(one.*part);
  return median(values);
}

void bench(const Frame& frame, int rounds, const fs::path& self) {
  const std::string picture = (fs::temp_directory_path() / "periscena-start.png").string();
  const std::string render =
      fmt::format("{} render {} --size {} -o {}", (self.parent_path().parent_path() / "periscena").string(), frame.file,
                  frame.size, picture);
  const std::string driver = self.string() + " --driver";
  output_of(render);
  std::vector<double> whole, floor, ratio;
  std::vector<Parts> parts;
  for (int i = 0; i < rounds; ++i) {
    const double took = seconds_of([&] { output_of(render); });
    const double started = seconds_of([&] { output_of(driver); });
    parts.push_back(measure_parts(frame));
    const double least = started + parts.back().frame;
    whole.push_back(took);
    floor.push_back(started);
    ratio.push_back(took / least);
  }
  fs::remove(picture);
  fmt::print("{:<24} {:7.3f}  {:7.3f} {:7.3f}   {:5.2f}   {:6.3f} {:6.3f} {:6.3f} {:6.3f} {:6.3f}\n", frame.what,
             median(whole), median(floor), median_of(parts, &Parts::frame), median(ratio),
             median_of(parts, &Parts::file), median_of(parts, &Parts::driver), median_of(parts, &Parts::setup),
             median_of(parts, &Parts::first_frame), median_of(parts, &Parts::write));
}

}  // namespace

int main(int argc, char** argv) try {
  if (argc > 1 && argv[1] == std::string("--driver")) return start_driver();
  std::setvbuf(stdout, nullptr, _IOLBF, 0);
  const int rounds = argc > 1 ? std::max(3, std::atoi(argv[1])) : 9;
  fmt::print("{:<24} {:>7}  {:>7} {:>7}   {:>5}   {}\n", "", "", "process,", "one", "", "parts within one process");
  fmt::print("{:<24} {:>7}  {:>7} {:>7}   {:>5}   {:>6} {:>6} {:>6} {:>6} {:>6}\n\n", "seconds", "render", "driver",
             "frame", "ratio", "file", "driver", "set up", "first", "write");
  for (const Frame& frame : frames) bench(frame, rounds, fs::canonical("/proc/self/exe"));
  return 0;
} catch (const std::exception& error) {
  fmt::print(stderr, "bench_start: {}\n", error.what());
  return 3;
}
