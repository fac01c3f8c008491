#include <periscena/passes/heat.h>

#include "passes/described_kind.h"

#include <periscena/passes/fullscreen.h>

#include <fmt/format.h>

namespace periscena::passes {
namespace {

Keys<Heat> heat_keys() {
  Keys<Heat> keys;
  keys.key("most", &Heat::most, {.minimum = 0, .above_minimum = true}, "The number that has the hottest colour")
      .key("strength", &Heat::strength, {.minimum = 0, .maximum = 1},
           "How much of the picture below is covered, where the number is not 0");
  return keys;
}

}  // namespace

Pass heat(const Heat& options, Place place) {
  Fullscreen own;
  own.name = options.name;
  own.shader = pass_shader("periscena/heat.frag");
  if (!options.amount.empty()) own.reads.push_back({"amount", options.amount});
  if (!options.under.empty()) {
    own.reads.push_back({"under", options.under});
    own.shader = own.shader.with_lines({"#define READS_UNDER"});
  }
  if (!options.into.empty()) own.writes.push_back({"color", options.into});
  own.uniforms = {{"most", options.most}, {"strength", options.strength}};
  Pass pass = fullscreen(own, std::move(place));
  pass.kind = "heat";
  pass.shader =
      ShaderInterface{.source = "periscena/heat.frag", .outputs = {{"color", ValueKind::floating, 0}}, .samplers = {}};
  for (const Read& read : pass.reads) pass.shader->samplers.push_back({.name = read.slot});
  return pass;
}

PassKind heat_kind() {
  return DescribedKind<Heat>{
      .name = "heat",
      .sentence = "Shows numbers as colours from cold to hot: lights that pixels ask, surfaces drawn over each other.",
      .example =
          "[[pass]]\nname   = \"lights as heat\"\nkind   = \"heat\"\nmost   = 12\nreads  = { amount = \"counts\", "
          "under = \"picture\" }\n"
          "writes = { color = \"output\" }\n",
      .reads = {{{"amount", true, "Numbers, in the red channel of a floating format"}, &Heat::amount},
                {{"under", false, "A picture that shows through in grey; left out, black"}, &Heat::under}},
      .writes = {{{"color", true, "0..1, linear: for a format that encodes to sRGB"}, &Heat::into}},
      .keys = heat_keys(),
      .make = heat}
      .kind();
}

}  // namespace periscena::passes
