#pragma once

#include <filesystem>

#include <sys/types.h>

/// A twin that lives on and draws a frame when it is told to, so that two of them can draw in turn: what the machine
/// does meanwhile meets both.
class PacedTwin {
 public:
  /// Starts the program and draws its first two frames, in both of which drivers compile.
  /// @throws std::runtime_error  if it does not start, or ends
  explicit PacedTwin(const std::filesystem::path& program);
  ~PacedTwin();
  PacedTwin(const PacedTwin&) = delete;
  PacedTwin& operator=(const PacedTwin&) = delete;

  /// @return seconds that the next frame takes until the queue is finished
  double frame();

 private:
  int to_ = -1, from_ = -1;
  pid_t process_ = -1;
};
