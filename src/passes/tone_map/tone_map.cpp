#include "passes/tone_map/tone_map.h"

#include "passes/fullscreen/fullscreen.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::passes {
namespace {

const std::vector<std::string>& curve_names() {
  static const std::vector<std::string> names{"clip", "reinhard", "film"};
  return names;
}

struct ToneMapKeys {
  float exposure_ev100 = ToneMap().exposure_ev100;
  std::string curve = "film";
  float white = ToneMap().white;
  bool each_sample = false;
};

Keys<ToneMapKeys> tone_map_keys() {
  Keys<ToneMapKeys> keys;
  keys.key("exposure_ev100", &ToneMapKeys::exposure_ev100, {.unit = "EV100", .minimum = -20, .maximum = 30},
           "Exposure value at ISO 100: 15 in the sun, 10 at sunset, 0 by moonlight; one more is half as bright")
      .key("curve", &ToneMapKeys::curve, {.choices = curve_names()},
           "How bright light ends: clip cuts it off; reinhard lets `white` become 1; film has a toe and a shoulder")
      .key("white", &ToneMapKeys::white, {.minimum = 0, .above_minimum = true},
           "Of reinhard: the least exposed light that becomes 1")
      .key("each_sample", &ToneMapKeys::each_sample, {},
           "Of light with several samples: bends each by itself and takes the mean after that, so that edges of bright things are smooth on the "
           "screen");
  return keys;
}

}  // namespace

float tone_curve(ToneCurve curve, float x, float white) {
  if (curve == ToneCurve::reinhard) return std::clamp(x * (1 + x / (white * white)) / (1 + x), 0.0f, 1.0f);
  if (curve == ToneCurve::film)
    return std::clamp(x * (2.6f * x + 0.05f) / (x * (2.45f * x + 0.62f) + 0.16f), 0.0f, 1.0f);
  return std::clamp(x, 0.0f, 1.0f);
}

float exposure_factor(float ev100) {
  return 1 / (1.2f * std::exp2(ev100));
}

Pass tone_map(const ToneMap& options, Place place) {
  Fullscreen own;
  own.name = options.name;
  own.shader = gl::ShaderText::embedded("periscena/tone_map.frag", pass_shaders());
  if (options.each_sample) own.shader = own.shader.with_lines({"#define EACH_SAMPLE"});
  if (!options.from.empty()) own.reads.push_back({"light", options.from});
  if (!options.into.empty()) own.writes.push_back({"color", options.into});
  own.uniforms = {{"exposure", exposure_factor(options.exposure_ev100)},
                  {"curve", static_cast<double>(options.curve)},
                  {"white", options.white}};
  Pass pass = fullscreen(own, std::move(place));
  pass.kind = "tone_map";
  for (Read& read : pass.reads) read.each_sample = options.each_sample;
  pass.shader = ShaderInterface{.source = "periscena/tone_map.frag",
                                .outputs = {{"color", ValueKind::floating, 0}},
                                .samplers = {{.name = "light", .shape = options.each_sample ? SamplerShape::flat_samples : SamplerShape::flat}}};
  for (Write& write : pass.writes) write.coding = ColorCoding::light;
  return pass;
}

PassKind tone_map_kind() {
  static const Keys<ToneMapKeys> keys = tone_map_keys();
  PassKind kind;
  kind.name = "tone_map";
  kind.sentence = "Exposes linear light and bends it into the range of a screen.";
  kind.example =
      "[[pass]]\nname           = \"develop\"\nkind           = \"tone_map\"\nexposure_ev100 = 10\nreads          = "
      "{ light = \"scene.color\" }\nwrites         = { color = \"output\" }\n";
  kind.reads = {{"light", true, "Linear light, nits"}};
  kind.writes = {{"color", true, "0..1, linear: for a format that encodes to sRGB"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    ToneMapKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    const auto curve = std::find(curve_names().begin(), curve_names().end(), given.curve) - curve_names().begin();
    ToneMap options{source.name.name, given.exposure_ev100, static_cast<ToneCurve>(curve), given.white, given.each_sample, {}, {}};
    for (const Read& read : source.reads) {
      if (read.slot == "light") options.from = read.target;
    }
    if (const TargetUse* color = find_write(source, "color")) options.into = *color;
    Pass pass = tone_map(options, source.name.place);
    pass.reads = source.reads;  // with their parts and history
    for (Read& read : pass.reads) read.each_sample = given.each_sample;
    pass.writes = source.writes;
    for (Write& write : pass.writes) {
      write.overwrites = true;
      write.coding = ColorCoding::light;
    }
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
