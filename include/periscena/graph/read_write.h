#pragma once

#include <periscena/graph/target.h>
#include <periscena/graph/wanted.h>

#include <string_view>

namespace periscena {

/// How a pass reads a target that has several samples a pixel.
enum class SampleReading {
  resolved,  ///< brought together into one before
  each,      ///< the samples themselves (sampler2DMS); the target must have several
  own  ///< the same where the target has several; where it has one, an ordinary texture. What the pass writes must
       ///< have as many
};

/// As which kind of texture a pass reads a target.
enum class TextureReading {
  as_it_is,
  as_array  ///< a flat picture as an array of one layer, a cube as one of six
};

/// A target that a pass samples.
struct Read {
  std::string slot = {};  ///< what the pass calls it: the sampler's name in its GLSL
  TargetUse target = {};
  Place place = {};        ///< of the slot's name, when it has one of its own
  int history = 0;         ///< as it was at the end of that many frames ago; 0 for this frame
  int level = all_levels;  ///< one mip level alone
  int layer = all_layers;  ///< one layer or face alone
  SampleReading samples = SampleReading::resolved;
  TextureReading texture = TextureReading::as_it_is;
  Wanted wants = {};  ///< what the passes that write it must be
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

/// What a pass does with what a target held before.
enum class Covering {
  draws_over,  ///< it stays where nothing is drawn
  replaces,    ///< every pixel is set, whatever was there: nothing is cleared or kept
  rests  ///< the pass clears it itself, and may leave what it drew in an earlier frame: nobody else's contents lie
         ///< there
};

/// Must a target be as large as it says?
enum class TargetFit {
  exact,
  largest  ///< the pass draws the same thing at any size: one that is larger than the device can have is made as large
           ///< as it can
};

/// How what a pass writes is shown to people.
enum class Shows {
  what_it_holds,  ///< as its target says: see Holds
  directions,     ///< octahedral
  surface_kind,   ///< roughness, metalness, occlusion
  object_ids,     ///< numbers of the scene's nodes, from 1
  places,         ///< metres
  shares,         ///< 0..1
  motions,        ///< shares of the picture, to the right and up
  counts
};

/// Is the mean of a pixel's samples of use? It is none of normals and of numbers of objects.
enum class SampleMean { useful, useless };

/// A target that a pass draws into.
struct Write {
  std::string slot = {};  ///< "depth" for depth (and its stencil), "stencil" for stencil alone, else the fragment
                          ///< program's output
  TargetUse target = {};
  Covering covering = Covering::draws_over;
  TargetFit fit = TargetFit::exact;
  SampleMean mean = SampleMean::useful;
  Shows shows = Shows::what_it_holds;
  Place place = {};                           ///< of the slot's name, when it has one of its own
  int level = 0;                              ///< mip level
  int layer = all_layers;                     ///< one layer or face; all: the program chooses by gl_Layer
  ColorCoding coding = ColorCoding::unknown;  ///< of a colour: light when the pass takes light and writes light
};

/// Is a write of this name a colour? "depth" and "stencil" are not.
inline bool is_color_slot(std::string_view slot) {
  return slot != "depth" && slot != "stencil";
}

}  // namespace periscena
