#include <periscena/passes/tone_map.h>

#include "passes/filters/filter_steps.h"
#include "passes/shared_keys.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::passes {
namespace {

void finish_tone_map(const ToneMap& options, Pass& pass) {
  FilterStep step{.kind = "tone_map", .strange = "reads light that is no finite number"};
  step.defines.push_back(fmt::format("CURVE {}", static_cast<int>(options.curve)));
  step.uniforms.emplace_back("white", options.white);
  if (options.dither) step.defines.emplace_back("DITHER");
  if (options.exposure.empty()) {
    step.uniforms.emplace_back("factor", exposure_factor(options.exposure_ev100 - options.compensation_ev));
  } else {
    step.defines.emplace_back("READS_EXPOSURE");
    step.uniforms.emplace_back("compensation", options.compensation_ev);
    step.more_reads = {"exposure"};
  }
  if (options.each_sample && !pass.reads.empty() && pass.reads[0].slot == "light") {
    pass.reads[0].samples = SampleReading::each;
    pass.shader->samplers[0].shape = SamplerShape::flat_samples;
    step.reach = FilterReach::samples;
    step.defines.emplace_back("EACH_SAMPLE");
  }
  make_filter(pass, std::move(step));
  pass.takes = LightRange::scene;
  pass.makes = LightRange::screen;
}

const Kind<ToneMap>& tone_map_said() {
  static const Kind<ToneMap> kind{
      .name = "tone_map",
      .sentence = "Exposes linear light and bends it into the range of a screen.",
      .example =
          "[[pass]]\nname           = \"develop\"\nkind           = \"tone_map\"\nexposure_ev100 = 10\nreads          "
          "= "
          "{ light = \"scene.color\" }\nwrites         = { color = \"output\" }\n",
      .reads = {{{"light", Need::required, "Linear light, nits"}, &ToneMap::light},
                {{"exposure", Need::optional, "What a meter pass keeps, instead of exposure_ev100"},
                 &ToneMap::exposure}},
      .writes = {{{"color", Need::required, "0..1, linear: for a format that encodes to sRGB"},
                  &ToneMap::color,
                  whole_picture()}},
      .keys =
          Keys<ToneMap>()
              .key("exposure_ev100", &ToneMap::exposure_ev100, {.unit = "EV100", .minimum = -20, .maximum = 30},
                   "Exposure value at ISO 100: 15 in the sun, 10 at sunset, 0 by moonlight; one more is half as bright")
              .key("compensation_ev", &ToneMap::compensation_ev, {.unit = "EV", .minimum = -20, .maximum = 20},
                   "Brighter by so many times two than the exposure says")
              .key("curve", &ToneMap::curve, {},
                   "How bright light ends: clip cuts it off; reinhard, hable and lottes let `white` become 1; film, "
                   "narkowicz, aces and uchimura have a toe and a shoulder; pbr_neutral keeps base colours")
              .key("white", &ToneMap::white, {.minimum = 0, .above_minimum = true},
                   "Of reinhard, hable and lottes: the least exposed light that becomes 1")
              .key("dither", &ToneMap::dither, {},
                   "true: noise of a step of eight bits, so that slow gradients show no bands; black and white stay "
                   "exact")
              .key("each_sample", &ToneMap::each_sample, {.fixed = true},
                   "Of light with several samples: bends each by itself and takes the mean after that, so that edges "
                   "of bright things are smooth on the screen"),
      .finish = finish_tone_map};
  return kind;
}

Vec3 each(const Vec3& x, float (*curve)(float, float), float white) {
  return {curve(x[0], white), curve(x[1], white), curve(x[2], white)};
}

float reinhard(float x, float white) {
  return x * (1 + x / (white * white)) / (1 + x);
}
float film(float x, float) {
  return x * (2.6f * x + 0.05f) / (x * (2.45f * x + 0.62f) + 0.16f);
}
float narkowicz(float x, float) {
  return x * (2.51f * x + 0.03f) / (x * (2.43f * x + 0.59f) + 0.14f);
}

float hable(float x, float white) {
  const auto curve = [](float y) {
    return (y * (0.15f * y + 0.05f) + 0.004f) / (y * (0.15f * y + 0.5f) + 0.06f) - 0.004f / 0.06f;
  };
  return curve(x) / curve(white);
}

Vec3 aces(const Vec3& light) {
  static constexpr Mat3 into =
      Mat3::of_rows({{0.59719f, 0.35458f, 0.04823f}, {0.07600f, 0.90834f, 0.01566f}, {0.02840f, 0.13383f, 0.83777f}});
  static constexpr Mat3 out_of = Mat3::of_rows(
      {{1.60475f, -0.53108f, -0.07367f}, {-0.10208f, 1.10813f, -0.00605f}, {-0.00327f, -0.07276f, 1.07602f}});
  const auto bend = [](float x, float) {
    return (x * (x + 0.0245786f) - 0.000090537f) / (x * (0.983729f * x + 0.4329510f) + 0.238081f);
  };
  return out_of * each(into * light, bend, 0);
}

float uchimura(float x, float) {
  constexpr float most = 1, slope = 1, start = 0.22f, length = 0.4f, toe = 1.33f;
  constexpr float l0 = (most - start) * length / slope, s0 = start + l0, s1 = start + slope * l0,
                  c2 = slope * most / (most - s1);
  const float t = std::clamp(x / start, 0.0f, 1.0f);
  const float past_toe = t * t * (3 - 2 * t), past_line = x >= s0 ? 1.0f : 0.0f;
  return start * std::pow(x / start, toe) * (1 - past_toe) + (start + slope * (x - start)) * (past_toe - past_line) +
         (most - (most - s1) * std::exp(-c2 * (x - s0) / most)) * past_line;
}

float lottes(float x, float white) {
  constexpr float contrast = 1.6f, shoulder = 0.977f, middle_in = 0.18f, middle_out = 0.267f,
                  power = contrast * shoulder;
  const float w = std::pow(white, contrast), ws = std::pow(white, power), m = std::pow(middle_in, contrast),
              ms = std::pow(middle_in, power);
  const float b = (-m + w * middle_out) / ((ws - ms) * middle_out),
              c = (ws * m - w * ms * middle_out) / ((ws - ms) * middle_out);
  x = std::min(x, white);
  return std::pow(x, contrast) / (std::pow(x, power) * b + c);
}

Vec3 pbr_neutral(Vec3 x) {
  constexpr float start = 0.8f - 0.04f, fading = 0.15f, rest = 1 - start;
  const float least = x.smallest();
  x -= Vec3::constant(least < 0.08f ? least - 6.25f * least * least : 0.04f);
  const float peak = x.largest();
  if (peak < start) return x;
  const float bent = 1 - rest * rest / (peak + rest - start), share = 1 - 1 / (fading * (peak - bent) + 1);
  return x * bent / peak * (1 - share) + Vec3::constant(bent * share);
}

Vec3 bent(ToneCurve curve, const Vec3& x, float white) {
  switch (curve) {
    case ToneCurve::reinhard: return each(x, reinhard, white);
    case ToneCurve::film: return each(x, film, white);
    case ToneCurve::hable: return each(x, hable, white);
    case ToneCurve::narkowicz: return each(x, narkowicz, white);
    case ToneCurve::aces: return aces(x);
    case ToneCurve::uchimura: return each(x, uchimura, white);
    case ToneCurve::lottes: return each(x, lottes, white);
    case ToneCurve::pbr_neutral: return pbr_neutral(x);
    case ToneCurve::clip: break;
  }
  return x;
}

}  // namespace

const std::vector<std::string>& choices_of(ToneCurve) {
  static const std::vector<std::string> names{"clip", "reinhard", "film",   "hable",      "narkowicz",
                                              "aces", "uchimura", "lottes", "pbr_neutral"};
  return names;
}

Vec3 tone_curve(ToneCurve curve, const Vec3& light, float white) {
  return bent(curve, light, white).max(0).min(1);
}

float exposure_factor(float ev100) {
  return 1 / (1.2f * std::exp2(ev100));
}

Pass tone_map(const ToneMap& options, Place place) {
  return tone_map_said().make(options, std::move(place));
}

PassKind tone_map_kind() {
  return tone_map_said().kind();
}

}  // namespace periscena::passes
