#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <sys/types.h>

/// What a command prints. @throws std::runtime_error  if it fails
std::string output_of(const std::string& command);

/// A twin that lives on and draws a frame when it is told to, so that two of them can draw in turn: what the machine
/// does meanwhile meets both.
class PacedTwin {
 public:
  /// Starts the program and draws its first two frames, in both of which drivers compile.
  /// @param more  arguments @throws std::runtime_error  if it does not start, or ends
  explicit PacedTwin(const std::filesystem::path& program, const std::vector<std::string>& more = {});
  ~PacedTwin();
  PacedTwin(const PacedTwin&) = delete;
  PacedTwin& operator=(const PacedTwin&) = delete;

  struct Took {
    double wall, cpu;  ///< seconds until the queue is finished; of CPUs, with the driver's threads
  };
  /// Draws the next frame.
  Took frame();

 private:
  int to_ = -1, from_ = -1;
  pid_t process_ = -1;
};
