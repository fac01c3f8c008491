#pragma once

#include <periscena/graph/target.h>

#include <string_view>

namespace periscena {

/// A target that a pass samples.
struct Read {
  std::string slot = {};  ///< what the pass calls it: the sampler's name in its GLSL
  TargetUse target = {};
  Place place = {};          ///< of the slot's name, when it has one of its own
  int history = 0;           ///< as it was at the end of that many frames ago; 0 for this frame
  int level = all_levels;    ///< one mip level alone
  int layer = all_layers;    ///< one layer or face alone
  bool each_sample = false;  ///< the pass reads the samples itself (sampler2DMS), so nothing is resolved for it
  bool own_samples = false;  ///< the same where the target has several; where it has one, an ordinary texture. What the
                             ///< pass writes must have as many
  bool as_array = false;     ///< whatever its shape: a flat picture as an array of one layer, a cube as one of six
};

/// Pixels of a picture, counted from its upper left corner.
struct PixelRect {
  int x = 0, y = 0, width = 0, height = 0;  ///< a width and height of 0 mean the whole picture

  bool whole() const { return width == 0 && height == 0; }
  bool operator==(const PixelRect&) const = default;
};

/// Whether colours are light, or encoded (sRGB) for looking at.
enum class ColorCoding { unknown, light, encoded };

/// How far light goes.
enum class LightRange {
  unknown,
  scene,   ///< nits, as bright as it is
  screen,  ///< 0..1, bent into the range of a screen
  same     ///< of what a pass makes: as what it reads
};

/// A target that a pass draws into.
struct Write {
  std::string slot = {};  ///< "depth" for depth (and its stencil), "stencil" for stencil alone, else the fragment
                          ///< program's output
  TargetUse target = {};
  bool overwrites = false;  ///< does the pass set every pixel, whatever was there? then nothing is cleared or kept
  bool stays = false;  ///< does the pass clear it itself, and may leave what it drew in an earlier frame? then nobody
                       ///< else's contents lie there
  bool any_size = false;   ///< does the pass draw the same thing at any size? then a target that is larger than the
                           ///< device can have is made as large as it can
  bool no_mean = false;    ///< is the mean of its samples of no use, as of normals and numbers of objects?
  Place place = {};        ///< of the slot's name, when it has one of its own
  int level = 0;           ///< mip level
  int layer = all_layers;  ///< one layer or face; all: the program chooses by gl_Layer
  ColorCoding coding = ColorCoding::unknown;  ///< of a colour: light when the pass takes light and writes light
};

/// Is a write of this name a colour? "depth" and "stencil" are not.
inline bool is_color_slot(std::string_view slot) {
  return slot != "depth" && slot != "stencil";
}

}  // namespace periscena
