#include <periscena/passes/light_buffer.h>

#include "passes/deferred/screen_pass.h"

#include <fmt/format.h>

namespace periscena::passes {
namespace {

constexpr PartOf<LightBuffer> buffer_parts[] = {
    {{"depth", nullptr, "Depth of the geometry pass"}, &LightBuffer::depth},
    {{"normal", nullptr, "What it wrote as `normal`"}, &LightBuffer::normal},
    {{"material", nullptr, "`material`"}, &LightBuffer::material},
};

}  // namespace

Pass light_buffer(const LightBuffer& options, Place place) {
  ScreenPass all{"light_buffer",
                 "periscena/light_buffer.frag",
                 options.name,
                 options.scene,
                 options.view,
                 options.lights,
                 {},
                 {},
                 options.shadows,
                 {},
                 options.light_bounds,
                 {},
                 {}};
  for (const auto& [part, target] : buffer_parts) all.parts.emplace_back(part, options.*target);
  if (!options.diffuse.empty())
    all.writes.push_back({.slot = "diffuse", .target = options.diffuse, .coding = ColorCoding::light});
  if (!options.specular.empty())
    all.writes.push_back({.slot = "specular", .target = options.specular, .coding = ColorCoding::light});
  return screen_pass(all, std::move(place));
}

PassKind light_buffer_kind() {
  return DescribedKind<LightBuffer>{
      .name = "light_buffer",
      .sentence =
          "What lights give each pixel of a geometry buffer, for `forward` passes that draw the objects again over the "
          "same depth, with their own materials: a light pre-pass.",
      .example =
          "[[pass]]\nname   = \"light\"\nkind   = \"light_buffer\"\nview   = \"towpath\"\nlights = [\"sun\", "
          "\"lamps\"]\n"
          "reads  = { depth = \"g.depth\", normal = \"g.normal\", material = \"g.material\" }\n"
          "writes = { diffuse = \"light.diffuse\", specular = \"light.specular\" }\n",
      .reads = part_slots(buffer_parts),
      .writes = {{{"diffuse", true, "Light for matt surfaces, nits by share sent back: rgba16f"},
                  &LightBuffer::diffuse},
                 {{"specular", true, "Light for highlights; alpha: what is mirrored at grazing angles: rgba16f"},
                  &LightBuffer::specular}},
      .keys = screen_keys<LightBuffer>(),
      .make = light_buffer}
      .kind();
}

}  // namespace periscena::passes
