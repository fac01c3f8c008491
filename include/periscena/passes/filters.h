#pragma once

#include <periscena/passes/options.h>

#include <string>

// Passes that change a picture, each by a short function. Where some follow each other and all but the first ask of
// what they read only the pixel that they write, plan() makes one pass of them (FrameGraph::set_fusing).
//
// All need and give linear light, 0..1, as tone_map leaves it; what is meant as the eye sees it is done in sRGB
// encoding within, and comes out as light.

namespace periscena::passes {

/// Lift, gamma, gain and saturation:
///
///     c = gain · (c + lift · (1 − c)), then c^(1 / gamma), then from grey to colour by the saturation, all in sRGB
///     encoding
struct Grade {
  std::string name = "grade";
  std::array<float, 3> lift{0, 0, 0};   ///< −1..1: what black becomes
  std::array<float, 3> gamma{1, 1, 1};  ///< 0.1..10: over 1, middles are brighter
  std::array<float, 3> gain{1, 1, 1};   ///< 0..10: what white becomes
  float saturation = 1;                 ///< 0..4: 0 is grey (Rec. 709 luma), 1 leaves it
  TargetUse from = {};
  TargetUse color = {};
};
Pass grade(const Grade& options, Place place = Place::here());
PassKind grade_kind();

/// Colours by a table of a `.cube` file, of one or three dimensions, linear between its entries; see read_color_table.
struct ColorTablePass {
  std::string name = "color table";
  Reference file;
  float strength = 1;     ///< 0..1: from what it is to what the table says
  bool of_light = false;  ///< the table is meant for linear light; else for sRGB-encoded colours
  TargetUse from = {};
  TargetUse color = {};
};
/// @throws nothing: a file that can't be read is told by plan()
Pass color_table(const ColorTablePass& options, Place place = Place::here());
PassKind color_table_kind();

/// Darker towards the corners: light times 1 − strength · smoothstep(start, 1, distance), where the distance from the
/// middle is 1 in the corners.
struct Vignette {
  std::string name = "vignette";
  float strength = 0.3f;  ///< 0..1
  float start = 0.3f;     ///< 0..1, less than 1
  TargetUse from = {};
  TargetUse color = {};
};
Pass vignette(const Vignette& options, Place place = Place::here());
PassKind vignette_kind();

/// Noise as of film, in sRGB encoding, strongest in the middle tones, none in black and white; another at each step of
/// time.
struct Grain {
  std::string name = "grain";
  float strength = 0.04f;  ///< 0..1: standard deviation at middle grey, encoded
  float rate = 24;         ///< pictures of noise a second; 0: it stands still
  TargetUse from = {};
  TargetUse color = {};
};
Pass grain(const Grain& options, Place place = Place::here());
PassKind grain_kind();

/// Colours part towards the edges, as through a simple lens: red is taken from farther in, blue from farther out.
struct Fringe {
  std::string name = "fringe";
  float strength = 0.003f;  ///< 0..0.1: by how much, in the corners, as a share of the way from the middle
  TargetUse from = {};
  TargetUse color = {};
};
Pass fringe(const Fringe& options, Place place = Place::here());
PassKind fringe_kind();

/// What differs from its four neighbours' mean differs more; never brighter or darker than what is around, so that
/// edges get no rims.
struct Sharpen {
  std::string name = "sharpen";
  float strength = 0.5f;  ///< 0..4
  TargetUse from = {};
  TargetUse color = {};
};
Pass sharpen(const Sharpen& options, Place place = Place::here());
PassKind sharpen_kind();

/// Large pixels: each cell has the mean of what is in it.
struct Pixelate {
  std::string name = "pixelate";
  int cell = 8;  ///< 1..256, pixels, from the upper left corner
  TargetUse from = {};
  TargetUse color = {};
};
Pass pixelate(const Pixelate& options, Place place = Place::here());
PassKind pixelate_kind();

}  // namespace periscena::passes
