#pragma once

#include <periscena/inspect/capture.h>

namespace periscena::inspect {

/// What is in one target at a place, after one pass.
struct ProbeEntry {
  std::string pass, target;
  int level = 0, layer = 0;
  bool stencil = false;
  int x = 0, y = 0, width = 1, height = 1;  ///< of this target, from the upper left
  std::vector<double> values;               ///< by channel, of one pixel
  std::vector<ChannelStatistics> region;    ///< by channel, of a region
  std::string unit;                         ///< "nits", "of 255", "id"; empty for plain numbers
  std::optional<double> metres;             ///< distance along the view axis, of depth
  std::string object;                       ///< of ids that a geometry pass wrote: the name of the scene's object
};

/// What is at a place of the picture, in every target, pass by pass. Targets of other sizes are looked at in the same
/// share of their width and height.
/// @param place  pixels of the frame from the upper left; 1 x 1 for one pixel
/// @throws Mistake "pixel-outside"
std::vector<ProbeEntry> probe(gl::FrameRunner& runner, const Moment& moment, const PixelRect& place);

std::string to_text(const std::vector<ProbeEntry>& entries);
std::string to_json(const std::vector<ProbeEntry>& entries);

}  // namespace periscena::inspect
