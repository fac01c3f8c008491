#include "passes/deferred/light_buffer.h"

#include "passes/deferred/screen_pass.h"

#include <fmt/format.h>

namespace periscena::passes {
namespace {

constexpr PartOf<LightBuffer> buffer_parts[] = {
    {{"depth", nullptr, "Depth of the geometry pass"}, &LightBuffer::depth},
    {{"normal", nullptr, "What it wrote as `normal`"}, &LightBuffer::normal},
    {{"material", nullptr, "`material`"}, &LightBuffer::material},
};

Keys<ScreenKeys> light_buffer_keys() {
  Keys<ScreenKeys> keys;
  add_screen_keys(keys);
  return keys;
}

}  // namespace

Pass light_buffer(const LightBuffer& options, Place place) {
  ScreenPass all{"light_buffer", "periscena/light_buffer.frag", options.name, options.scene, options.view, options.lights, {}, {},
                 options.shadows, {}, options.light_bounds, {}, {}};
  for (const auto& [part, target] : buffer_parts) all.parts.emplace_back(part, options.*target);
  if (!options.diffuse.empty()) all.writes.push_back({.slot = "diffuse", .target = options.diffuse, .coding = ColorCoding::light});
  if (!options.specular.empty()) all.writes.push_back({.slot = "specular", .target = options.specular, .coding = ColorCoding::light});
  return screen_pass(all, std::move(place));
}

PassKind light_buffer_kind() {
  static const Keys<ScreenKeys> keys = light_buffer_keys();
  PassKind kind;
  kind.name = "light_buffer";
  kind.sentence = "What lights give each pixel of a geometry buffer, for `forward` passes that draw the objects again over the same depth, with "
                  "their own materials: a light pre-pass.";
  kind.example =
      "[[pass]]\nname   = \"light\"\nkind   = \"light_buffer\"\nview   = \"towpath\"\nlights = [\"sun\", \"lamps\"]\n"
      "reads  = { depth = \"g.depth\", normal = \"g.normal\", material = \"g.material\" }\n"
      "writes = { diffuse = \"light.diffuse\", specular = \"light.specular\" }\n";
  for (const auto& [part, target] : buffer_parts) kind.reads.push_back({part.slot, true, part.sentence});
  kind.writes = {{"diffuse", true, "Light for matt surfaces, nits by share sent back: rgba16f"},
                 {"specular", true, "Light for highlights; alpha: what is mirrored at grazing angles: rgba16f"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    ScreenKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    LightBuffer options;
    take_screen_keys(source, given, options);
    const bool whole = take_parts(source, buffer_parts, options) && !options.view.empty();
    if (const TargetUse* diffuse = find_write(source, "diffuse")) options.diffuse = *diffuse;
    if (const TargetUse* specular = find_write(source, "specular")) options.specular = *specular;
    Pass pass = light_buffer(options, source.name.place);
    // What is missing was told by the keys and slots already.
    if (!whole) pass.problems = {};
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
