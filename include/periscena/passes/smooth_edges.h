#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// How edges are found and smoothed in a picture that is drawn already.
enum class EdgeWay {
  quick,  ///< across the slope of brightness, a few linear fetches along the edge: cheap, and a little soft
  shapes  ///< each step of an edge is followed to its ends, and covers as much as the straight line between them would
          ///< (Reshetov, "Morphological Antialiasing", HPG 2009): only pixels at edges change
};
const std::vector<std::string>& choices_of(EdgeWay);

/// Smooths the edges of a finished picture, when it was drawn with one sample a pixel.
///
/// Needs and gives: linear light, 0..1, as tone_map leaves it; edges are where brightness, encoded, differs as the eye
/// sees it.
struct SmoothEdges {
  std::string name = "smooth edges";
  EdgeWay way = EdgeWay::shapes;
  float threshold = 0.06f;  ///< 0.001..1: what differs by less, encoded, is no edge
  int reach = 16;           ///< 1..64 pixels, of shapes: how far an edge is followed to either side
  TargetUse from = {};
  TargetUse color = {};
};

Pass smooth_edges(const SmoothEdges& options, Place place = Place::here());

PassKind smooth_edges_kind();

}  // namespace periscena::passes
