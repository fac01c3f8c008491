#pragma once

#include <periscena/gl/device.h>
#include <periscena/graph/frame_graph.h>
#include <periscena/scene/shadow_truth.h>

#include <optional>
#include <string>
#include <vector>

namespace periscena::inspect {

struct ShadowMeasuring {
  double seconds = 0;
  int step = 4;  ///< pixels and rows from one that is looked at to the next, >= 1
  /// Lights by name; empty: of each shadow map that a pass reads, the first of its lights that lights the pass.
  std::vector<std::string> lights = {};
  /// How wide lights are in truth, >= 0: half the angle of directional ones, radians; the radius of spot and point
  /// lights, metres. Left out, as ShadowMap::light_angle and light_radius have it, whatever the filter.
  std::optional<float> sun_size = {}, lamp_size = {};
};

/// One light's shadows in one pass' picture, beside the truth.
struct MeasuredShadows {
  std::string pass;  ///< that takes the shadows
  std::string light;
  std::string map;  ///< the pass that draws its map
  float away = 0;   ///< texels: how near to an edge of the true shadow points count as edges
  ShadowErrors errors;
  Image lit;  ///< r32f: share of light that gets past, as the picture has it; NaN where no light reaches
};

/// Is there a forward pass that takes the shadows of a light that lights it?
bool takes_shadows(const FrameGraph& frame);

/// Runs a frame with passes of its own beside those that take shadows, and measures each light's shadows by rays: see
/// ShadowErrors. Only `forward` passes that look up a shadow map are measured.
/// @param width, height  of the frame, pixels
/// @throws Mistake when the frame can't be planned, "unknown-light", "no-shadows" when nothing in it takes shadows
std::vector<MeasuredShadows> measure_shadows(gl::Device& device, const FrameGraph& frame, int width, int height,
                                             const ShadowMeasuring& measuring = {});

}  // namespace periscena::inspect
