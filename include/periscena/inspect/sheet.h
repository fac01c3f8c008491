#pragma once

#include <periscena/inspect/capture.h>

namespace periscena::inspect {

/// A target as a picture for people, with a word on how to read it.
struct FittingView {
  Image picture;      ///< rgba8_srgb
  std::string scale;  ///< "white is 5200 nits", "2.1 m (light) to 80 m (dark)"; empty when it shows what is there
};

/// Light is exposed so that the brightest hundredth is white; depth becomes distance by its lens, near is light;
/// normals become colours; each id gets a colour of its own; stencil values become levels. NaN is magenta and infinity
/// cyan, where even one pixel of what a smaller picture brings together is.
/// @param width, height  the most that the picture may have; it is only ever made smaller
FittingView fitting_view(const CapturedTarget& target, int width, int height);

struct SheetOptions {
  int width = 1280;  ///< pixels of the whole sheet, 320..16384
  int columns = 0;   ///< 0: as fits
};

/// All targets of a frame on one picture, in the order in which they were made, each with its name, format, size and
/// range.
/// @throws Mistake "bad-size"
Image make_sheet(gl::FrameRunner& runner, const Moment& moment, const SheetOptions& options = {});

}  // namespace periscena::inspect
