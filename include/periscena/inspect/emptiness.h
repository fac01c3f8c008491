#pragma once

#include <periscena/base/diagnostic.h>
#include <periscena/graph/frame_graph.h>

namespace periscena::inspect {

/// Why a frame's picture may be empty: warnings for each `forward` and `geometry` pass that draws none of its objects,
/// or draws them black.
///
/// - "empty-scene": the scene has no objects that show triangles, lines or points.
/// - "nothing-chosen": tags, variant or surfaces leave none of them.
/// - "nothing-in-view": all are outside of the view; says how many are behind it, beside it, too near or too far.
/// - "faces-away": of all in view, every triangle is turned away and its material is not double-sided.
/// - "no-light": no light of the pass reaches any face in view: there are none, or they are off, out of reach, or
/// behind.
///
/// Computed from the scene on the CPU at one moment, without a device; objects behind other objects count as in view.
/// The cost grows with the objects, and with their triangles only while nothing is found.
/// @param plan  of this frame: passes that do not run are left out
Diagnostics find_empty_passes(const FrameGraph& frame, const FramePlan& plan, double seconds);

}  // namespace periscena::inspect
