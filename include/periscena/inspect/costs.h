#pragma once

#include <periscena/gl/frame_runner.h>
#include <periscena/image/image.h>
#include <periscena/inspect/capture.h>

#include <span>
#include <string>
#include <vector>

namespace periscena::inspect {

/// What a pass takes, by the wall clock, with the device idle before and after it.
struct PassCost {
  std::string name, kind;
  int width = 0, height = 0, samples = 1;
  double milliseconds = 0;
  gl::Counts counts;
};

/// What a frame takes. Passes that run side by side where nobody waits between them make the whole less than their sum.
struct FrameCosts {
  std::vector<PassCost> passes;  ///< that ran, in order
  double milliseconds = 0;       ///< of the whole frame, nobody waiting in between
  std::size_t bytes = 0;         ///< of its targets
};

/// Medians of some rounds in which everything is drawn anew. @param rounds  1 or more
FrameCosts measure_costs(gl::FrameRunner& runner, const Moment& moment, int rounds);

/// Of a whole frame, nobody waiting in between; the same medians.
double frame_milliseconds(gl::FrameRunner& runner, double seconds, int rounds);

/// A table, the most expensive pass marked.
std::string costs_text(const FrameCosts& costs);
std::string costs_json(const FrameCosts& costs);

/// A frame on a page.
struct PageFrame {
  std::string title;  ///< its file
  Image picture;      ///< of its output, 8 bits; empty: none
  FrameCosts costs;
};

/// One HTML file with pictures and what each pass takes; it holds all that it shows, and runs no script.
/// @param device  the renderer's name
std::string page_html(std::span<const PageFrame> frames, const std::string& device);

}  // namespace periscena::inspect
