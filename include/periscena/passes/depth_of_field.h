#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// What is nearer or farther than a lens is focused on is a disc on the picture (thin lens):
///
///     diameter = f² / N · |d − s| / (d · (s − f)) / sensor height
///
/// as a share of the picture's height, with the focal length f that the view's field of view and the sensor's height
/// make, the f-number N, the focus distance s and the distance d along the view's axis. Each pixel gathers from those
/// around it whose discs reach it; of what lies behind it, no more than its own disc.
///
/// Needs: linear light and its depth. Gives: linear light. Views of perspective alone.
struct DepthOfField {
  std::string name = "depth of field";
  std::shared_ptr<const Scene> scene = {};
  Reference view = {};
  float focus_distance = 10;     ///< metres, > 0
  float f_number = 2.8f;         ///< 0.1..128: the smaller, the larger the discs
  float sensor_height = 0.024f;  ///< metres, > 0: 0.024 is that of 35 mm film
  float largest = 0.03f;         ///< 0..0.2: discs are at most so large (radius, as a share of the picture's height)
  int taps = 48;                 ///< 8..256, a pixel
  TargetUse light = {};
  TargetUse depth = {};
  TargetUse color = {};

  /// Radius of the disc of what is so far away, as a share of the picture's height, before `largest`.
  /// @param distance  metres along the axis, > 0; infinity is fine @param fov_y  radians
  float disc_radius(float distance, float fov_y) const;
};

/// Mistakes: "parallel-view" for a view without perspective; "too-near" when the focus lies within the focal length.
Pass depth_of_field(const DepthOfField& options, Place place = Place::here());
/// With what the frame's passes share.
Pass depth_of_field(const Defaults& defaults, DepthOfField options, Place place = Place::here());

PassKind depth_of_field_kind();

}  // namespace periscena::passes
