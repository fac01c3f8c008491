#pragma once

#include <periscena/base/error.h>
#include <periscena/frame/frame_file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/inspect/capture.h>

#include <CLI/CLI.hpp>
#include <nlohmann/json_fwd.hpp>

#include <chrono>
#include <functional>
#include <memory>
#include <optional>
#include <string>

namespace periscena::tool {

/// What a verb ends with.
enum ExitCode { done = 0, found_wanting = 1, wrong_usage = 2, machine_failed = 3 };

/// Options that several verbs share.
struct FrameOptions {
  std::string file;
  std::string size;
  std::vector<std::string> overrides;
  bool json = false;

  void add_to(CLI::App& verb);

  /// --size; nothing when it was left out.
  std::optional<std::array<int, 2>> picture_size() const;

  /// The file, read with the overrides. @throws as read_frame_file; CLI::ValidationError for a size that is none
  FrameFile read(Contents contents = Contents::whole) const;
};

/// Options of verbs that run a frame at one moment.
struct MomentOptions : FrameOptions {
  double time = 0;

  void add_to(CLI::App& verb);
};

/// A frame that was checked, planned and set up on a device of its own.
struct RunningFrame {
  FrameFile file;
  std::unique_ptr<gl::Device> device;
  std::unique_ptr<gl::FrameRunner> runner;

  inspect::Moment moment(double seconds) const { return {seconds, file.history_steps, file.history_rate}; }
};

/// What can be told without a device is told without one; warnings go to standard error.
/// @param wrong  gets what is wrong with the frame @param each_pass  leaves passes that could be one by themselves, to
/// look at each @return nothing when something is wrong
std::optional<RunningFrame> start(const FrameOptions& options, Diagnostics& wrong, bool each_pass = false);

/// "640x360"; nothing when it is no size.
std::optional<std::array<int, 2>> parse_size(const std::string& text);

/// A whole text as a finite number; nothing when it is none.
std::optional<double> parse_finite(const std::string& text);

/// Adds --size.
void add_size(CLI::App& verb, std::string& size);

/// Adds --time.
void add_time(CLI::App& verb, double& seconds);

/// Says how far something long is, on a terminal only.
class Progress {
 public:
  /// @param noun  "frame"
  Progress(std::string noun, std::size_t total);
  Progress(const Progress&) = delete;
  Progress& operator=(const Progress&) = delete;
  ~Progress();

  void step();

 private:
  std::string noun_;
  std::size_t total_, done_ = 0;
  bool shown_;
  std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
};

/// A verb adds its options and returns what runs it.
using Action = std::function<int()>;
Action add_render(CLI::App& app, CLI::App*& verb);
Action add_frame(CLI::App& app, CLI::App*& verb);
Action add_check(CLI::App& app, CLI::App*& verb);
Action add_plan(CLI::App& app, CLI::App*& verb);
Action add_device(CLI::App& app, CLI::App*& verb);
Action add_capture(CLI::App& app, CLI::App*& verb);
Action add_sheet(CLI::App& app, CLI::App*& verb);
Action add_probe(CLI::App& app, CLI::App*& verb);
Action add_vary(CLI::App& app, CLI::App*& verb);
Action add_bench(CLI::App& app, CLI::App*& verb);
Action add_compare(CLI::App& app, CLI::App*& verb);
Action add_pack(CLI::App& app, CLI::App*& verb);

/// To standard output, all or an Error; nothing more once its reader is gone, which is none. Control characters but
/// line feeds are shown by their pictures: names come from files.
void print(const std::string& text);
void print_json(const nlohmann::ordered_json& json);  ///< names that are no UTF-8 are mended
void print_json_text(const std::string& json);        ///< which escapes by its own rules

/// To standard error.
void print_diagnostics(const Diagnostics& diagnostics);

/// Tells what is wrong with a frame: as text on standard error or JSON on standard output. @return found_wanting
int fail_with(const Diagnostics& diagnostics, bool json);

/// "2 errors and 1 warning"; empty for none.
std::string count_text(const Diagnostics& diagnostics);

/// Reports what an exception says, as text on standard error or JSON on standard output.
int report(const Error& error, bool json);

/// A headless device whose driver's errors and warnings of misuse go to the log.
gl::Device open_device();

/// What a frame has drawn is not to be trusted after an error of the driver. @throws Error "driver-error"
void expect_no_driver_errors();

/// A command that asks for what can't be: exit code 2.
class WrongUsage : public Error {
 public:
  WrongUsage(std::string slug, std::string message, std::string mend);
};

/// Starts to note which files are read, for expect_no_input.
void note_inputs();

/// @throws WrongUsage "output-is-input" when this run has read the file, by whatever path, or it is the program that
/// runs
void expect_no_input(const std::string& output);

/// The ways to write an output: none overwrites what this run has read, and none follows an error of the driver.
void write_picture(const Image& picture, const std::string& path);
void write_output(const std::string& text, const std::string& path);

}  // namespace periscena::tool
