#include <periscena/passes/heat.h>

#include "passes/shared_keys.h"

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

/// By a program of ours, as a fullscreen pass.
void finish_heat(const Heat& options, Pass& pass) {
  Fullscreen own{
      .name = options.name, .shader = pass_shader("periscena/heat.frag"), .reads = pass.reads, .writes = pass.writes};
  if (!options.under.empty()) own.shader = own.shader.with_lines({"#define READS_UNDER"});
  own.uniforms = {{"most", options.most}, {"strength", options.strength}};
  const Pass drawn = fullscreen(own, pass.place);
  pass.problems.append(drawn.problems);
  pass.work = drawn.work;
}

const Kind<Heat>& heat_said() {
  static const Kind<Heat> kind{
      .name = "heat",
      .sentence = "Shows numbers as colours from cold to hot: lights that pixels ask, surfaces drawn over each other.",
      .example =
          "[[pass]]\nname   = \"lights as heat\"\nkind   = \"heat\"\nmost   = 12\nreads  = { amount = \"counts\", "
          "under = \"picture\" }\n"
          "writes = { color = \"output\" }\n",
      .reads = {{{"amount", Need::required, "Numbers, in the red channel of a floating format"}, &Heat::amount},
                {{"under", Need::optional, "A picture that shows through in grey; left out, black"}, &Heat::under}},
      .writes = {{{"color", Need::required, "0..1, linear: for a format that encodes to sRGB"},
                  &Heat::color,
                  {.covering = Covering::replaces}}},
      .keys = heat_keys(),
      .finish = finish_heat};
  return kind;
}

}  // namespace

Pass heat(const Heat& options, Place place) {
  return heat_said().make(options, std::move(place));
}

PassKind heat_kind() {
  return heat_said().kind();
}

}  // namespace periscena::passes
