#pragma once

#include <periscena/math/vector.h>
#include <periscena/passes/options.h>

namespace periscena::passes {

/// How light of any strength becomes 0..1 for a screen. All leave black black.
enum class ToneCurve {
  clip,      ///< as it is, cut off at 1
  reinhard,  ///< x (1 + x / white²) / (1 + x): `white` becomes 1 (Reinhard et al., "Photographic Tone Reproduction for
             ///< Digital Images", SIGGRAPH 2002, equation 4), each channel by itself
  film,      ///< x (2.6 x + 0.05) / (x (2.45 x + 0.62) + 0.16): a toe, a straight middle, a long shoulder
  hable,     ///< Hable, "Filmic Tonemapping for Real-time Rendering", SIGGRAPH courses 2010: `white` becomes 1
  narkowicz,   ///< x (2.51 x + 0.03) / (x (2.43 x + 0.59) + 0.14) (Narkowicz, "ACES Filmic Tone Mapping Curve", 2016)
  aces,        ///< Hill's fit of the reference and output transforms of the Academy Color Encoding System, 2015
  uchimura,    ///< Uchimura, "HDR Theory and Practice", 2017, with its own values: a straight middle of slope 1
  lottes,      ///< Lottes, "Advanced Techniques and Optimization of HDR Color Pipelines", 2016: `white` becomes 1
  pbr_neutral  ///< Khronos PBR Neutral Tone Mapper, 2024: base colours up to 0.8 come out nearly as they are
};
const std::vector<std::string>& choices_of(ToneCurve);

/// @param light  exposed, linear, each >= 0 @param white  of reinhard, hable and lottes, > 0
/// @return each 0..1
Vec3 tone_curve(ToneCurve curve, const Vec3& light, float white);

/// What light is multiplied with, so that 1 is the brightest that a camera set to that exposure value holds:
/// 1 / (1.2 · 2^EV100) (ISO 12232, saturation-based speed). @param ev100  exposure value at ISO 100
float exposure_factor(float ev100);

/// Exposes linear light and bends it into the range of a screen.
///
/// Needs: light in nits. Gives: linear 0..1, for a target whose format encodes to sRGB, such as "output": nothing is
/// encoded here. Pixels that are no finite numbers come out black or white, and are told. Filters before and after it
/// become one pass with it where nobody looks between them (see filters.h).
struct ToneMap {
  std::string name = "tone map";
  float exposure_ev100 = 10;  ///< −20..30, as a light meter reads it: 15 in the sun, 10 at sunset, 0 by moonlight
  float compensation_ev = 0;  ///< −20..20: so many times twice as bright
  ToneCurve curve = ToneCurve::film;
  float white = 4;  ///< of reinhard, hable and lottes: the least exposed light that becomes 1, > 0
  /// Adds noise of a step of eight bits, fixed to the pixel, so that slow gradients show no bands. Black and white stay
  /// exact.
  bool dither = false;
  /// Of light with several samples: bends each by itself, and takes the mean after that, so that edges of bright things
  /// are smooth on the screen. Else the mean of the light is bent.
  bool each_sample = false;
  TargetUse light = {};
  TargetUse exposure = {};  ///< of a meter pass, instead of exposure_ev100
  TargetUse color = {};
};

Pass tone_map(const ToneMap& options, Place place = Place::here());

PassKind tone_map_kind();

}  // namespace periscena::passes
