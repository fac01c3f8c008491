#include "passes/deferred/screen_pass.h"

#include "passes/deferred/screen_lights.h"

#include <periscena/passes/fullscreen.h>
#include <periscena/passes/geometry.h>

#include <fmt/format.h>

namespace periscena::passes {
Pass screen_pass(const ScreenPass& options, Place place) {
  const std::string who = fmt::format("pass \"{}\"", options.name);
  Fullscreen own;
  own.name = options.name;
  own.scene = options.scene;
  own.view = options.view;
  own.lights = options.lights;
  own.environment = options.environment;
  own.fog = options.fog;
  own.shadows = options.shadows;
  own.cache = options.cache;
  own.writes = options.writes;
  own.uniforms = {{"background", 0}};
  Diagnostics missing;
  std::vector<std::string> lines;
  for (const std::string& define : options.defines) lines.push_back("#define " + define);
  for (const auto& [part, target] : options.parts) {
    if (!target.empty()) {
      own.reads.push_back({part.slot, target});
      if (part.define) lines.push_back(fmt::format("#define {}", part.define));
    } else if (!part.define) {
      missing.error("missing-key", place, fmt::format("{} reads no {}", who, part.slot),
                    "name the target that a geometry pass writes it to");
    }
  }
  if (missing.has_errors()) {
    Pass pass = pass_of_kind(options.kind, options.name, std::move(place));
    pass.problems = std::move(missing);
    return pass;
  }
  own.shader = pass_shader(options.shader).with_lines(lines);
  Pass pass = fullscreen(own, std::move(place));
  pass.kind = options.kind;
  pass.facts = PlainFacts{};
  // What depends on conditions in the GLSL can't be read from its text.
  if (!pass.shader) pass.shader = ShaderInterface{.source = options.shader, .outputs = {}, .samplers = {}};
  pass.shader->outputs.clear();
  for (const Write& write : options.writes)
    pass.shader->outputs.push_back({write.slot, ValueKind::floating, static_cast<int>(pass.shader->outputs.size())});
  for (std::size_t i = 0; i < own.reads.size() && i < pass.reads.size(); ++i)
    want_geometry(pass.reads[i], options.view, options.by_samples ? SampleReading::own : SampleReading::resolved);
  expect_bounds(options.bounds, {batch::LightBounds::clusters}, "tiles or quads", pass);
  if (!pass.problems.has_errors()) {
    ScreenLights lights{options.name,         options.scene,
                        options.view,         {options.lights, options.environment, options.fog, options.cache},
                        options.bounds,       own.shader,
                        options.every_sample, {}};
    for (const Read& read : own.reads) lights.reads.push_back(read.slot);
    pass.work = gl::work<ScreenLightsWork>(lights);
  }
  return pass;
}

void want_geometry(Read& read, const Reference& view, SampleReading samples) {
  read.wants = WantsGeometry{view};
  read.samples = samples;
}

}  // namespace periscena::passes
