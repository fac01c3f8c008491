#include <periscena/passes/deferred.h>

#include "passes/deferred/screen_pass.h"

#include <fmt/format.h>

namespace periscena::passes {
namespace {

constexpr PartOf<Deferred> all_parts[] = {
    {{"depth", nullptr, "Depth of the geometry pass"}, &Deferred::depth},
    {{"normal", nullptr, "What it wrote as `normal`"}, &Deferred::normal},
    {{"base_color", nullptr, "`base_color`"}, &Deferred::base_color},
    {{"material", nullptr, "`material`"}, &Deferred::material},
    {{"emission", "READS_EMISSION", "`emission`; left out, nothing shines by itself"}, &Deferred::emission},
    {{"occlusion", "READS_OCCLUSION",
      "What an `ambient_occlusion` pass wrote; left out, corners get all light from around"},
     &Deferred::occlusion},
    {{"position", "READS_POSITION", "`position`; left out, it is taken from depth"}, &Deferred::position},
};

Keys<Deferred> deferred_keys() {
  auto keys = screen_keys<Deferred>();
  keys.key("environment", &Deferred::environment, {}, environment_sentence)
      .key("fog", &Deferred::fog, {}, fog_sentence)
      .key("every_sample", &Deferred::every_sample, {},
           "Of a buffer with several samples: lights all of each pixel, to compare with; else those at edges alone, "
           "other pixels once");
  return keys;
}

}  // namespace

Pass deferred(const Deferred& options, Place place) {
  ScreenPass all{"deferred",
                 "periscena/deferred.frag",
                 options.name,
                 options.scene,
                 options.view,
                 options.lights,
                 options.environment,
                 options.fog,
                 options.shadows,
                 options.cache,
                 options.light_bounds,
                 {},
                 {}};
  all.by_samples = true;
  all.every_sample = options.every_sample;
  for (const auto& [part, target] : all_parts) all.parts.emplace_back(part, options.*target);
  if (!options.color.empty())
    all.writes.push_back({.slot = "color", .target = options.color, .coding = ColorCoding::light});
  if (!options.light_count.empty()) {
    all.writes.push_back({"light_count", options.light_count});
    all.defines.emplace_back("COUNTS_LIGHTS");
  }
  Pass pass = screen_pass(all, std::move(place));
  pass.makes = LightRange::scene;
  return pass;
}

PassKind deferred_kind() {
  return DescribedKind<Deferred>{
      .name = "deferred",
      .sentence =
          "Lights each pixel of a geometry buffer once, in linear light, through fog, by the same GLSL as `forward`.",
      .example =
          "[[pass]]\nname   = \"light\"\nkind   = \"deferred\"\nview   = \"towpath\"\nlights = [\"sun\", \"sky\"]\n"
          "reads  = { depth = \"g.depth\", normal = \"g.normal\", base_color = \"g.base_color\", material = "
          "\"g.material\" }\n"
          "writes = { color = \"scene.color\" }\n",
      .reads = part_slots(all_parts),
      .writes = {{{"color", true, "Linear light, nits; what nothing was drawn over stays"}, &Deferred::color},
                 {{"light_count", false, "How many lights the pixel asked, for `heat` to show: r16f"},
                  &Deferred::light_count}},
      .keys = deferred_keys(),
      .make = deferred}
      .kind();
}

}  // namespace periscena::passes
