#pragma once

#include <periscena/graph/frame_graph.h>
#include <periscena/passes/pass_kind.h>

namespace periscena::passes {

/// How light of any strength becomes 0..1 for a screen.
enum class ToneCurve {
  clip,      ///< as it is, cut off at 1
  reinhard,  ///< x (1 + x / white²) / (1 + x): `white` becomes 1 (Reinhard et al., "Photographic Tone Reproduction for
             ///< Digital Images", SIGGRAPH 2002, equation 4), each channel by itself
  film,      ///< x (2.6 x + 0.05) / (x (2.45 x + 0.62) + 0.16): a toe, a straight middle, a long shoulder
};

/// @param light  exposed, linear, >= 0; @param white  of reinhard: the least light that becomes 1
float tone_curve(ToneCurve curve, float light, float white);

/// What light is multiplied with, so that 1 is the brightest that a camera set to that exposure value holds:
/// 1 / (1.2 · 2^EV100) (ISO 12232, saturation-based speed). @param ev100  exposure value at ISO 100
float exposure_factor(float ev100);

/// Exposes linear light and bends it into the range of a screen.
///
/// Needs: light in nits. Gives: linear 0..1, for a target whose format encodes to sRGB, such as "output": nothing is
/// encoded here.
struct ToneMap {
  std::string name = "tone map";
  float exposure_ev100 = 10;  ///< as a light meter reads it: 15 in the sun, 10 at sunset, 0 by moonlight
  ToneCurve curve = ToneCurve::film;
  float white = 4;  ///< of reinhard, exposed
  /// Of light with several samples: bends each by itself, and takes the mean after that, so that edges of bright things are
  /// smooth on the screen. Else the mean of the light is bent.
  bool each_sample = false;
  TargetUse from = {};
  TargetUse into = {};
};

Pass tone_map(const ToneMap& options, Place place = Place::here());

PassKind tone_map_kind();

}  // namespace periscena::passes
