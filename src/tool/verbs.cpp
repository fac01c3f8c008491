#include "tool/verbs.h"

#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/base/names.h>
#include <periscena/base/utf8.h>
#include <periscena/image/files.h>
#include <periscena/inspect/report.h>
#include <periscena/scene/default_cache.h>

#include <fmt/format.h>
#include <spdlog/spdlog.h>
#include <nlohmann/json.hpp>

#include <atomic>
#include <cerrno>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <exception>
#include <future>

#include <unistd.h>

namespace periscena::tool {

std::optional<std::array<int, 2>> parse_size(const std::string& text) {
  const std::size_t cross = text.find('x');
  if (cross == text.npos) return std::nullopt;
  std::array<int, 2> size{};
  const auto parse = [](const char* from, const char* to, int& into) {
    const auto result = std::from_chars(from, to, into);
    return result.ec == std::errc() && result.ptr == to && from != to;
  };
  const char* start = text.data();
  if (!parse(start, start + cross, size[0]) || !parse(start + cross + 1, start + text.size(), size[1]))
    return std::nullopt;
  return size;
}

void add_size(CLI::App& verb, std::string& into) {
  verb.add_option("--size", into, "Size of the picture instead of the file's, such as 640x360 (pixels)")
      ->check([](const std::string& text) {
        const auto parsed = parse_size(text);
        if (!parsed) return fmt::format("\"{}\" is no size; write width x height, such as 640x360", text);
        if ((*parsed)[0] < 1 || (*parsed)[1] < 1) return fmt::format("\"{}\": both must be at least 1", text);
        return std::string();
      });
}

void FrameOptions::add_to(CLI::App& verb) {
  verb.add_option("FRAME", file, "The frame file; or a model (.glb, .gltf, .obj), in a frame that is made around it")
      ->required();
  add_size(verb, size);
  verb.add_option(
          "--set", overrides,
          "Set a key of the file for this run: SECTION.NAME.KEY=VALUE, such as pass.finish.uniforms.exposure_ev100=11")
      ->take_all()
      ->expected(1);
  verb.add_flag("--json", json, "Answer in JSON on standard output");
}

void MomentOptions::add_to(CLI::App& verb) {
  FrameOptions::add_to(verb);
  add_time(verb, time);
}

std::optional<double> parse_finite(const std::string& text) {
  double number = 0;
  const auto result = std::from_chars(text.data(), text.data() + text.size(), number);
  if (result.ec != std::errc() || result.ptr != text.data() + text.size() || !std::isfinite(number))
    return std::nullopt;
  return number;
}

void add_time(CLI::App& verb, double& into) {
  verb.add_option("--time", into, "Seconds; where a series starts")
      ->capture_default_str()
      ->check([](const std::string& text) {
        return parse_finite(text) ? std::string() : fmt::format("\"{}\" is no finite number of seconds", text);
      });
}

std::optional<RunningFrame> start(const FrameOptions& options, Diagnostics& wrong, bool each_pass) {
  // Files are read and decoded while the driver starts; what is wrong with them counts before what is wrong with it.
  auto reading = std::async([&] { return options.read(); });
  std::unique_ptr<gl::Device> device;
  std::exception_ptr no_device;
  try {
    device = std::unique_ptr<gl::Device>(new gl::Device(open_device()));
  } catch (const Error&) {
    no_device = std::current_exception();
  }
  RunningFrame running{reading.get(), std::move(device), nullptr};
  if (each_pass) running.file.graph.set_fusing(false);
  if (const PlanResult checked = running.file.plan(); !checked.ok()) {
    wrong = checked.diagnostics();
    return std::nullopt;
  }
  if (no_device) std::rethrow_exception(no_device);
  const PlanResult planned = running.file.plan(running.device->limits());
  if (!planned.ok()) {
    wrong = planned.diagnostics();
    return std::nullopt;
  }
  running.runner = std::make_unique<gl::FrameRunner>(*running.device, planned.value());
  if (!options.json) {
    print_diagnostics(planned.diagnostics());
    print_diagnostics(running.runner->diagnostics());
  }
  return running;
}

Progress::Progress(std::string noun, std::size_t total)
    : noun_(std::move(noun)), total_(total), shown_(total > 1 && ::isatty(STDERR_FILENO)) {}

Progress::~Progress() {
  if (shown_) fmt::print(stderr, "\r\033[K");
}

void Progress::step() {
  ++done_;
  if (!shown_) return;
  const std::chrono::duration<double> elapsed = std::chrono::steady_clock::now() - start_;
  fmt::print(stderr, "\r{} {} of {}, {:.0f} s to go \033[K", noun_, done_, total_,
             elapsed.count() / static_cast<double>(done_) * static_cast<double>(total_ - done_));
}

std::optional<std::array<int, 2>> FrameOptions::picture_size() const {
  return parse_size(size);
}

FrameFile FrameOptions::read(Contents contents) const {
  FrameFileOptions options;
  options.size = picture_size();
  options.overrides = overrides;
  options.contents = contents;
  return read_frame_file(file, options);
}

namespace {

void put(const std::string& text) {
  static bool reader_is_gone = false;
  if (reader_is_gone) return;
  if (std::fwrite(text.data(), 1, text.size(), stdout) == text.size() && std::fflush(stdout) == 0) return;
  const int cause = errno;
  reader_is_gone = cause == EPIPE;
  if (reader_is_gone) return;  // it has read what it wanted
  fail("unwritable-file", {}, fmt::format("cannot write to standard output: {}", std::strerror(cause)),
       "check where it leads");
}

/// Errors of the driver so far; several threads may report them.
std::atomic<int>& driver_errors() {
  static std::atomic<int> count = 0;
  return count;
}

std::unique_ptr<FilesRead>& inputs() {
  static std::unique_ptr<FilesRead> noted;
  return noted;
}

}  // namespace

void print(const std::string& text) {
  put(printable_lines(text));
}

void print_json_text(const std::string& json) {
  put(printable_json(json));
}

void print_json(const nlohmann::ordered_json& json) {
  print_json_text(json.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n");
}

WrongUsage::WrongUsage(std::string slug, std::string message, std::string mend)
    : Error(Diagnostic{Severity::error, std::move(slug), {}, std::move(message), std::move(mend)}) {}

void note_inputs() {
  inputs() = std::make_unique<FilesRead>();
}

void expect_no_input(const std::string& output) {
  if (const auto program = file_identity("/proc/self/exe"); program && program == file_identity(output)) {
    throw WrongUsage("output-is-input", fmt::format("\"{}\" is this program itself", output),
                     "name another file for the output");
  }
  if (!inputs() || !inputs()->contains(output)) return;
  throw WrongUsage("output-is-input", fmt::format("\"{}\" is read by this run and would be overwritten", output),
                   "name another file for the output");
}

void expect_no_driver_errors() {
  if (const int count = driver_errors(); count > 0) {
    fail("driver-error", {}, fmt::format("the driver reported {}, see above", counted(count, "error")),
         "the picture can't be trusted and was not written; smaller targets may be within what the device can do");
  }
}

void write_picture(const Image& picture, const std::string& path) {
  expect_no_driver_errors();
  expect_no_input(path);
  write_png(picture, path);
}

void write_output(const std::string& text, const std::string& path) {
  expect_no_driver_errors();
  expect_no_input(path);
  write_file(path, text);
}

void print_diagnostics(const Diagnostics& diagnostics) {
  const std::string text = to_text(diagnostics);
  std::fwrite(text.data(), 1, text.size(), stderr);
}

int fail_with(const Diagnostics& diagnostics, bool json) {
  if (json) {
    print_json_text(inspect::to_json(diagnostics));
  } else {
    print_diagnostics(diagnostics);
  }
  return found_wanting;
}

std::string count_text(const Diagnostics& diagnostics) {
  const std::size_t errors = diagnostics.error_count(), warnings = diagnostics.remark_count();
  if (errors && warnings) return counted(errors, "error") + " and " + counted(warnings, "warning");
  if (errors) return counted(errors, "error");
  return warnings ? counted(warnings, "warning") : "";
}

int report(const Error& error, bool json) {
  try {
    if (json) print_json_text(inspect::to_json(error.diagnostics()));
  } catch (const Error& unwritable) {
    // What can't be said there is said where errors go; that may have been the error itself.
    print_diagnostics(error.diagnostics());
    if (std::string_view(error.what()) != unwritable.what()) print_diagnostics(unwritable.diagnostics());
    return machine_failed;
  }
  if (!json) print_diagnostics(error.diagnostics());
  if (dynamic_cast<const WrongUsage*>(&error)) return wrong_usage;
  return dynamic_cast<const Mistake*>(&error) ? found_wanting : machine_failed;
}

gl::Device open_device() {
  gl::DeviceOptions options;
  options.on_message = [](const gl::DebugMessage& message) {
    using Kind = gl::DebugMessage::Kind;
    if (message.from_compiler) return;
    if (message.kind == Kind::error || message.kind == Kind::undefined || message.kind == Kind::deprecated) {
      spdlog::warn("driver, {}: {}", to_string(message.kind), printable(message.text));
      if (message.kind == Kind::error) ++driver_errors();
    }
  };
  if (const std::string cache = default_cache(); !cache.empty())
    options.program_folder = std::filesystem::path(cache) / "programs";
  return gl::Device::headless(std::move(options));
}

}  // namespace periscena::tool
