#include "passes/deferred/screen_pass.h"

#include "passes/deferred/screen_lights.h"

#include <periscena/passes/fullscreen.h>
#include <periscena/passes/geometry.h>

#include <fmt/format.h>

namespace periscena::passes {
namespace {

bool are_same(const TargetUse& a, const TargetUse& b) {
  if (a.handle.valid() && b.handle.valid()) return a.handle == b.handle;
  return !a.reference.empty() && a.reference.name == b.reference.name;
}

/// What the pass wants of the one that drew the geometry buffer.
struct BufferCheck {
  std::string pass, view;
  std::vector<Read> reads;
  std::function<void(const WritersOf&, Diagnostics&)> more;

  void operator()(const WritersOf& writers_of, Diagnostics& problems) const {
    for (std::size_t i = 0; i < reads.size(); ++i) {
      if (!check(reads[i], writers_of(i), problems)) break;
    }
    if (more) more(writers_of, problems);
  }

  /// @return is it worth while to go on?
  bool check(const Read& read, const std::vector<const Pass*>& writers, Diagnostics& problems) const {
    const Place& place = read.target.reference.place;
    for (const Pass* writer : writers) {
      const auto* buffer = std::any_cast<Geometry>(&writer->gives);
      if (!buffer) continue;
      if (buffer->view.name != view) {
        problems.error(
            "other-view", place,
            fmt::format(
                "pass \"{}\" looks through \"{}\", but what it reads as {} was drawn by pass \"{}\" through \"{}\"",
                pass, view, read.slot, writer->name, buffer->view.name),
            "look through one view in both");
        return false;
      }
      for (const Write& write : writer->writes) {
        if (write.slot == read.slot || !are_same(write.target, read.target)) continue;
        problems.error("swapped-geometry", place,
                       fmt::format("pass \"{}\" reads as {} what pass \"{}\" writes as {}", pass, read.slot,
                                   writer->name, write.slot),
                       fmt::format("read it as {}", write.slot));
      }
    }
    return true;
  }
};

}  // namespace

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
  own.shader = gl::ShaderText::embedded(options.shader, pass_shaders()).with_lines(lines);
  Pass pass = fullscreen(own, std::move(place));
  pass.kind = options.kind;
  // What depends on conditions in the GLSL can't be read from its text.
  if (!pass.shader) pass.shader = ShaderInterface{.source = options.shader, .outputs = {}, .samplers = {}};
  pass.shader->outputs.clear();
  for (const Write& write : options.writes)
    pass.shader->outputs.push_back({write.slot, ValueKind::floating, static_cast<int>(pass.shader->outputs.size())});
  for (std::size_t i = 0; i < own.reads.size() && i < pass.reads.size(); ++i)
    pass.reads[i].own_samples = options.by_samples;
  expect_bounds(options.bounds, {LightBounds::clusters}, "tiles or quads", pass);
  if (!pass.problems.has_errors()) {
    ScreenLights lights{options.name,         options.scene,
                        options.view,         {options.lights, options.environment, options.fog, options.cache},
                        options.bounds,       own.shader,
                        options.every_sample, {}};
    for (const Read& read : own.reads) lights.reads.push_back(read.slot);
    pass.work = [lights](gl::PassSetup& setup) { return std::make_unique<ScreenLightsWork>(lights, setup); };
  }
  pass.check_writers = BufferCheck{options.name, options.view.name, own.reads, pass.check_writers};
  return pass;
}

void expect_same_buffer(Pass& pass, const Reference& view) {
  pass.check_writers = BufferCheck{pass.name, view.name, pass.reads, pass.check_writers};
}

}  // namespace periscena::passes
