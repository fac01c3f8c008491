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

void finish_deferred(const Deferred& options, Pass& pass) {
  std::vector<std::string> lines = part_defines(all_parts, options);
  if (!options.light_count.empty()) lines.emplace_back("#define COUNTS_LIGHTS");
  light_pixels({pass_shader("periscena/deferred.frag").with_lines(lines), options.light_bounds, options.every_sample,
                SampleReading::own, true},
               lit_fullscreen(options, pass), pass);
  pass.makes = LightRange::scene;
}

const Kind<Deferred>& deferred_said() {
  static const Kind<Deferred> kind{
      .name = "deferred",
      .sentence =
          "Lights each pixel of a geometry buffer once, in linear light, through fog, by the same GLSL as `forward`.",
      .example =
          "[[pass]]\nname   = \"light\"\nkind   = \"deferred\"\nview   = \"towpath\"\nlights = [\"sun\", \"sky\"]\n"
          "reads  = { depth = \"g.depth\", normal = \"g.normal\", base_color = \"g.base_color\", material = "
          "\"g.material\" }\n"
          "writes = { color = \"scene.color\" }\n",
      .reads = part_slots(all_parts),
      .writes = {{{"color", Need::required, "Linear light, nits; what nothing was drawn over stays"},
                  &Deferred::color,
                  {.coding = ColorCoding::light}},
                 {{"light_count", Need::optional, "How many lights the pixel asked, for `heat` to show: r16f"},
                  &Deferred::light_count}},
      .keys = deferred_keys(),
      .finish = finish_deferred,
      .name_checks = NameChecks::by_finish};
  return kind;
}

}  // namespace

Pass deferred(const Deferred& options, Place place) {
  return deferred_said().make(options, std::move(place));
}

Pass deferred(const Defaults& defaults, Deferred options, Place place) {
  return deferred_said().make(defaults, std::move(options), std::move(place));
}

PassKind deferred_kind() {
  return deferred_said().kind();
}

}  // namespace periscena::passes
