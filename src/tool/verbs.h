#pragma once

#include <periscena/frame/frame_file.h>
#include <periscena/gl/device.h>

#include <CLI/CLI.hpp>

#include <functional>
#include <memory>
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

  /// The file, read with the overrides. @throws as read_frame_file; CLI::ValidationError for a size that is none
  FrameFile read() const;
};

/// A verb adds its options and returns what runs it.
using Action = std::function<int()>;
Action add_render(CLI::App& app, CLI::App*& verb);
Action add_check(CLI::App& app, CLI::App*& verb);
Action add_plan(CLI::App& app, CLI::App*& verb);
Action add_device(CLI::App& app, CLI::App*& verb);

/// To standard output, all or an Error.
void print(const std::string& text);

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

}  // namespace periscena::tool
