#include "passes/deferred/deferred.h"

#include "passes/deferred/screen_lights.h"
#include "passes/fullscreen/fullscreen.h"
#include "passes/geometry/geometry.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

/// A part of the geometry buffer.
struct Part {
  const char* slot;
  TargetUse Deferred::* target;
  const char* define;  ///< of those that may be left out
  const char* sentence;
};
constexpr Part all_parts[] = {
    {"depth", &Deferred::depth, nullptr, "Depth of the geometry pass"},
    {"normal", &Deferred::normal, nullptr, "What it wrote as `normal`"},
    {"base_color", &Deferred::base_color, nullptr, "`base_color`"},
    {"material", &Deferred::material, nullptr, "`material`"},
    {"emission", &Deferred::emission, "READS_EMISSION", "`emission`; left out, nothing shines by itself"},
    {"position", &Deferred::position, "READS_POSITION", "`position`; left out, it is taken from depth"},
};

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
        problems.error("other-view", place,
                       fmt::format("pass \"{}\" looks through \"{}\", but what it reads as {} was drawn by pass \"{}\" through \"{}\"",
                                   pass, view, read.slot, writer->name, buffer->view.name),
                       "look through one view in both");
        return false;
      }
      for (const Write& write : writer->writes) {
        if (write.slot == read.slot || !are_same(write.target, read.target)) continue;
        problems.error("swapped-geometry", place,
                       fmt::format("pass \"{}\" reads as {} what pass \"{}\" writes as {}", pass, read.slot, writer->name, write.slot),
                       fmt::format("read it as {}", write.slot));
      }
    }
    return true;
  }
};

/// The keys of a frame file.
struct DeferredKeys {
  Reference view, environment, fog;
  std::optional<std::vector<Reference>> lights;
  std::vector<Reference> shadows;
  std::string light_bounds = "automatic";
};

Keys<DeferredKeys> deferred_keys() {
  Keys<DeferredKeys> keys;
  keys.key("view", &DeferredKeys::view, {.required = true}, "The view that the geometry buffer was drawn through")
      .key("lights", &DeferredKeys::lights, {}, "Lights, by their names or tags; left out, all of the scene")
      .key("environment", &DeferredKeys::environment, {}, "Light from all around; left out, none")
      .key("fog", &DeferredKeys::fog, {}, "Left out, none")
      .key("shadows", &DeferredKeys::shadows, {}, "Targets that `shadow_map` passes have written, at most 4")
      .key("light_bounds", &DeferredKeys::light_bounds, {.choices = screen_bounds_names}, screen_bounds_sentence);
  return keys;
}

}  // namespace

Pass deferred(const Deferred& options, Place place) {
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
  Diagnostics missing;
  std::vector<std::string> lines;
  for (const Part& part : all_parts) {
    const TargetUse& target = options.*part.target;
    if (!target.empty()) {
      own.reads.push_back({part.slot, target});
      if (part.define) lines.push_back(fmt::format("#define {}", part.define));
    } else if (!part.define) {
      missing.error("missing-key", place, fmt::format("{} reads no {}", who, part.slot),
                    "name the target that a geometry pass writes it to");
    }
  }
  own.shader = gl::ShaderText::embedded("periscena/deferred.frag", pass_shaders()).with_lines(lines);
  if (!options.color.empty()) own.writes.push_back({.slot = "color", .target = options.color, .coding = ColorCoding::light});
  own.uniforms = {{"background", 0}};
  Pass pass;
  if (missing.has_errors()) {
    pass = pass_of_kind("deferred", options.name, std::move(place));
    pass.problems = std::move(missing);
    return pass;
  }
  pass = fullscreen(own, std::move(place));
  pass.kind = "deferred";
  expect_bounds(options.light_bounds, {LightBounds::clusters}, "tiles or quads", pass);
  if (!pass.problems.has_errors()) {
    ScreenLights lights{options.name, options.scene, options.view, {options.lights, options.environment, options.fog, options.cache},
                        options.light_bounds, own.shader, {}};
    for (const Read& read : own.reads) lights.reads.push_back(read.slot);
    pass.work = [lights](gl::PassSetup& setup) { return std::make_unique<ScreenLightsWork>(lights, setup); };
  }
  pass.check_writers = BufferCheck{options.name, options.view.name, own.reads, pass.check_writers};
  return pass;
}

PassKind deferred_kind() {
  static const Keys<DeferredKeys> keys = deferred_keys();
  PassKind kind;
  kind.name = "deferred";
  kind.sentence = "Lights each pixel of a geometry buffer once, in linear light, through fog, by the same GLSL as `forward`.";
  kind.example =
      "[[pass]]\nname   = \"light\"\nkind   = \"deferred\"\nview   = \"towpath\"\nlights = [\"sun\", \"sky\"]\n"
      "reads  = { depth = \"g.depth\", normal = \"g.normal\", base_color = \"g.base_color\", material = \"g.material\" }\n"
      "writes = { color = \"scene.color\" }\n";
  for (const Part& part : all_parts) kind.reads.push_back({part.slot, part.define == nullptr, part.sentence});
  kind.writes = {{"color", true, "Linear light, nits; what nothing was drawn over stays"}};
  kind.keys = keys.infos();
  kind.make = [](const PassSource& source) {
    DeferredKeys given;
    Diagnostics problems;
    keys.read(*source.table, fmt::format("pass \"{}\"", source.name.name), given, problems);
    Deferred options;
    options.name = source.name.name;
    options.scene = source.scene;
    options.view = given.view;
    if (given.lights) options.lights = *given.lights;
    options.environment = given.environment;
    options.fog = given.fog;
    options.cache = default_cache();
    options.light_bounds = parse_bounds(given.light_bounds);
    for (const Reference& shadow : given.shadows) options.shadows.emplace_back(shadow);
    bool whole = !options.view.empty();
    for (const Part& part : all_parts) {
      const auto read = std::find_if(source.reads.begin(), source.reads.end(), [&](const Read& one) { return one.slot == part.slot; });
      if (read != source.reads.end()) options.*part.target = read->target;
      whole = whole && (part.define || read != source.reads.end());
    }
    if (const TargetUse* color = find_write(source, "color")) options.color = *color;
    Pass pass = deferred(options, source.name.place);
    // What is missing was told by the keys and slots already.
    if (!whole) pass.problems = {};
    pass.problems.append(problems);
    return pass;
  };
  return kind;
}

}  // namespace periscena::passes
