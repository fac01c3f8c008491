#pragma once

#include <periscena/inspect/capture.h>

namespace periscena::inspect {

/// What differs between two captures at one target after one pass.
struct CaptureDifference {
  std::string pass, target;
  std::string what;  ///< "only in the first", "4 x 4 pixels against 8 x 8", … ; empty when the numbers differ
  PictureDifference numbers;
};

struct CaptureComparison {
  std::size_t compared = 0;
  std::vector<CaptureDifference> differences;  ///< in the order of the frame: the first is where it began
  Image heat;                                  ///< of the first whose numbers differ; empty when there is none
};

/// @throws as read_capture and read_captured
CaptureComparison compare_captures(const std::filesystem::path& a, const std::filesystem::path& b);

std::string to_text(const PictureDifference& difference);

}  // namespace periscena::inspect
