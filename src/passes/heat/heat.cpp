#include "passes/heat/heat.h"

#include "passes/fullscreen/fullscreen.h"

#include <fmt/format.h>

namespace periscena::passes {
namespace {

struct HeatKeys {
  float most = Heat().most, strength = Heat().strength;
};

Keys<HeatKeys> heat_keys() {
  Keys<HeatKeys> keys;
  keys.key("most", &HeatKeys::most, {.minimum = 0, .above_minimum = true}, "The number that has the hottest colour")
      .key("strength", &HeatKeys::strength, {.minimum = 0, .maximum = 1},
           "How much of the picture below is covered, where the number is not 0");
  return keys;
}

}  // namespace

Pass heat(const Heat& options, Place place) {
  Fullscreen own;
  own.name = options.name;
  own.shader = gl::ShaderText::embedded("periscena/heat.frag", pass_shaders());
  if (!options.amount.empty()) own.reads.push_back({"amount", options.amount});
  if (!options.under.empty()) {
    own.reads.push_back({"under", options.under});
    own.shader = own.shader.with_lines({"#define READS_UNDER"});
  }
  if (!options.into.empty()) own.writes.push_back({"color", options.into});
  own.uniforms = {{"most", options.most}, {"strength", options.strength}};
  Pass pass = fullscreen(own, std::move(place));
  pass.kind = "heat";
  pass.shader = ShaderInterface{.source = "periscena/heat.frag", .outputs = {{"color", ValueKind::floating, 0}}, .samplers = {}};
  for (const Read& read : pass.reads) pass.shader->samplers.push_back({.name = read.slot});
  return pass;
}

PassKind heat_kind() {
  static const Keys<HeatKeys> keys = heat_keys();
  PassKind kind;
  kind.name = "heat";
  kind.sentence = "Shows numbers as colours from cold to hot: lights that pixels ask, surfaces drawn over each other.";
  kind.example =
      "[[pass]]\nname   = \"lights as heat\"\nkind   = \"heat\"\nmost   = 12\nreads  = { amount = \"counts\", under = \"picture\" }\n"
      "writes = { color = \"output\" }\n";
  kind.reads = {{"amount", true, "Numbers, in the red channel of a floating format"},
                {"under", false, "A picture that shows through in grey; left out, black"}};
  kind.writes = {{"color", true, "0..1, linear: for a format that encodes to sRGB"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    HeatKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    Heat options{source.name.name, given.most, given.strength, {}, {}, {}};
    if (const TargetUse* amount = find_read(source, "amount")) options.amount = *amount;
    if (const TargetUse* under = find_read(source, "under")) options.under = *under;
    if (const TargetUse* color = find_write(source, "color")) options.into = *color;
    Pass pass = heat(options, source.name.place);
    // What is missing was told by the slots already.
    if (options.amount.empty() || options.into.empty()) pass.problems = {};
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
