#pragma once

#include <periscena/image/image.h>

#include <functional>
#include <string>

/// What both twins are asked for on the command line: --frames N, --size WxH, --samples N, --frame NAME, --output
/// FILE.png, --silent N,
/// --paced 1, --counted 1, --start SECONDS.
struct TwinOptions {
  int frames = 24;
  bool counted =
      false;  ///< callgrind, if it does not start at once, counts all frames but the first two: drivers compile in both
  bool paced = false;  ///< a frame for each line of standard input, until it ends: see paced_twin.h
  int width = 1280, height = 720;
  int samples = 1;   ///< of twins that can do with several
  double start = 0;  ///< of the first frame, seconds
  std::string output;
  std::string frame;      ///< of programs that draw one of several
  int silent_frames = 0;  ///< that many more frames with the driver's entry points replaced by no-ops
};

TwinOptions read_twin_options(int argc, char** argv);

/// A twin's two moves.
struct Twin {
  std::function<void(double seconds)> run_frame;
  std::function<periscena::Image()> read_output;
};

/// Runs the frames, one every 1/24 s; writes the last; then the silent ones. Prints JSON: seconds for setup, for the
/// first frame and for all frames, the most memory that the process took in MiB, CPU seconds of a silent frame, and the
/// GL calls of the last silent frame by name.
/// @param setup  opens the device and makes everything
int run_twin(const TwinOptions& options, const std::function<Twin()>& setup);
