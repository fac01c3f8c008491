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

const Kind<LightBuffer>& light_buffer_said() {
  static const Kind<LightBuffer> kind{
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
      .writes = {{{"diffuse", Need::required, "Light for matt surfaces, nits by share sent back: rgba16f"},
                  &LightBuffer::diffuse,
                  {.coding = ColorCoding::light}},
                 {{"specular", Need::required,
                   "Light for highlights; alpha: what is mirrored at grazing angles: rgba16f"},
                  &LightBuffer::specular,
                  {.coding = ColorCoding::light}}},
      .keys = screen_keys<LightBuffer>(),
      .finish =
          [](const LightBuffer& options, Pass& pass) {
            light_pixels({pass_shader("periscena/light_buffer.frag"), options.light_bounds},
                         lit_fullscreen(options, pass), pass);
          },
      .name_checks = NameChecks::by_finish};
  return kind;
}

}  // namespace

Pass light_buffer(const LightBuffer& options, Place place) {
  return light_buffer_said().make(options, std::move(place));
}

Pass light_buffer(const Defaults& defaults, LightBuffer options, Place place) {
  return light_buffer_said().make(defaults, std::move(options), std::move(place));
}

PassKind light_buffer_kind() {
  return light_buffer_said().kind();
}

}  // namespace periscena::passes
