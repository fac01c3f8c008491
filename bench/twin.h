#pragma once

#include <periscena/image/image.h>

#include <functional>
#include <string>

/// What both twins are asked for on the command line: --frames N, --size WxH, --output FILE.png, --silent N, --paced 1,
/// --counted 1.
struct TwinOptions {
  int frames = 24;
  bool counted =
      false;  ///< callgrind, if it does not start at once, counts all frames but the first two: drivers compile in both
  bool paced = false;  ///< a frame for each line of standard input, until it ends: see paced_twin.h
  int width = 1280, height = 720;
  std::string output;
  int silent_frames = 0;  ///< that many more frames with the driver's entry points replaced by no-ops
};

TwinOptions read_twin_options(int argc, char** argv);

/// A twin's two moves.
struct Twin {
  std::function<void(double seconds)> run_frame;
  std::function<periscena::Image()> read_output;
};

/// Runs the frames, one every 1/24 s from time 0; writes the last; then the silent ones. Prints JSON: seconds for setup
/// and for frames, CPU seconds of a silent frame, and the GL calls of the last silent frame by name.
/// @param setup  opens the device and makes everything
int run_twin(const TwinOptions& options, const std::function<Twin()>& setup);
