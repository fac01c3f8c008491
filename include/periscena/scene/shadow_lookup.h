#pragma once

#include <periscena/math/angle.h>

#include <optional>
#include <string>
#include <vector>

namespace periscena {

/// How passes that look a shadow map up bring several of its texels together.
enum class ShadowFilter {
  linear,    ///< the four nearest comparisons, blended
  gaussian,  ///< all within a radius, by a bell
  disc,      ///< sixteen places on a disc, turned from pixel to pixel
  contact    ///< a disc as wide as the light makes the edge there: hard where a shadow meets its caster, soft far away
};
const std::vector<std::string>& choices_of(ShadowFilter);  ///< their names

/// How a shadow map is asked what is lit.
struct ShadowLookup {
  ShadowFilter filter = ShadowFilter::gaussian;
  float radius = 1;                    ///< texels; gaussian: 1, 2, 3 or 4; disc: up to 64; contact: the most, up to 64
  float light_angle = radians(0.53f);  ///< of contact, radians, 0..π/4: how wide a directional light is seen
  float light_radius = 0.05f;          ///< of contact, metres, >= 0: of a spot or point light
  float bias = 0;                      ///< metres that a point is moved towards the light before it is looked up
  float slope_bias = 0;                ///< texels that it is, times the tangent of light's angle of incidence
  std::optional<float> normal_bias = {};  ///< texels along its normal; left out: just as many as it takes

  /// Texels that comparisons reach from what is looked up.
  float reach() const { return filter == ShadowFilter::linear ? 0 : radius; }
};

}  // namespace periscena
