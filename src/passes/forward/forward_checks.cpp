#include "passes/forward/forward_checks.h"

#include "draw/lights/light_lists.h"
#include "draw/surfaces/surface_program.h"
#include "passes/pass_checks.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/gl/shader_interface.h>

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace periscena::passes {
namespace {

/// A read that no material shows is most likely misspelt.
void expect_shown(const Forward& options, Diagnostics& problems) {
  if (!options.scene || options.reads.empty()) return;
  std::vector<std::string> shown;
  for (const Material& material : options.scene->materials()) {
    if (!material.shows.empty() && std::find(shown.begin(), shown.end(), material.shows) == shown.end())
      shown.push_back(material.shows);
  }
  if (shown.size() > most_pictures) {
    problems.error("too-many-pictures", {}, fmt::format("the scene's materials show {} targets", shown.size()),
                   fmt::format("a forward pass takes {} of them", most_pictures));
  }
  for (const Read& read : options.reads) {
    if (std::find(shown.begin(), shown.end(), read.slot) != shown.end()) continue;
    problems.error(
        "unknown-picture", read.place.known() ? read.place : read.target.reference.place,
        fmt::format("pass \"{}\" reads \"{}\", which no material shows", options.name, read.slot),
        shown.empty() ? fmt::format("give a material shows = \"{}\"", read.slot) : name_hint(read.slot, shown));
  }
}

void expect_receivers_of_something(const Forward& options, Diagnostics& problems) {
  if (!options.shadows.empty() || (options.receivers.all() && options.without_receivers.empty())) return;
  const std::vector<Reference>& named =
      options.receivers.names().empty() ? options.without_receivers : options.receivers.names();
  const Place place = named.empty() ? Place() : named[0].place;
  problems.warning("no-shadows", place,
                   fmt::format("pass \"{}\" says what shadows fall on, but has none", options.name),
                   "name the targets of shadow maps: shadows = [\"sun.depth\"]");
}

/// What was lit before must be all of what is drawn, and is not lit twice.
void expect_prelit(const Forward& options, Pass& pass) {
  if (options.light_diffuse.empty() != options.light_specular.empty()) {
    const char* missing = light_slots[options.light_diffuse.empty() ? 0 : 1];
    const TargetUse& there = options.light_diffuse.empty() ? options.light_specular : options.light_diffuse;
    pass.problems.error("half-light", there.reference.place,
                        fmt::format("pass \"{}\" reads one part of a light buffer, but no {}", pass.name, missing),
                        fmt::format("read both: {} = \"…\"", missing));
  }
  if (!is_prelit(options)) return;
  const Place& place = options.light_diffuse.reference.place;
  if (options.surfaces != Surfaces::opaque) {
    pass.problems.error(
        "unlit-blending", place,
        fmt::format("pass \"{}\" takes light from a buffer, which knows nothing of blended surfaces", pass.name),
        "set surfaces = \"opaque\", and draw the blended ones in a forward pass of their own, with its own lights");
  }
  if (options.depth.empty() && !options.color.empty()) {
    pass.problems.error("missing-key", place,
                        fmt::format("pass \"{}\" takes light from a buffer, and has no depth", pass.name),
                        "give it the depth that the geometry pass wrote");
  }
  if (!options.shadows.empty()) {
    pass.problems.error(
        "shadows-twice", options.shadows[0].reference.place,
        fmt::format("pass \"{}\" takes light from a buffer, where shadows are in it already", pass.name),
        "name shadow maps in the light_buffer pass, and not here");
  }
}

void expect_depth_to_draw_first(const Forward& options, Pass& pass) {
  if (!options.depth_first) return;
  if (options.depth.empty() && options.color.empty()) return;  // it writes nothing, which is told
  if (options.depth.empty()) {
    pass.problems.error("missing-key", pass.place,
                        fmt::format("pass \"{}\" draws depth first, and has no depth", pass.name),
                        "give it a depth target, or leave out depth_first");
  } else if (is_prelit(options)) {
    pass.problems.warning("needless-depth", pass.place,
                          fmt::format("pass \"{}\" draws depth first over depth that is there already", pass.name),
                          "leave out depth_first");
  }
}

/// The light whose map is looked at must light the pass, and have one.
void expect_looked_at(const Forward& options, Diagnostics& problems) {
  const Reference& light = looked_at(options);
  if (light.empty() || !options.scene) return;
  std::vector<std::string> names;
  for (const Light* one : chosen_lights(*options.scene, options.lights)) names.push_back(one->name);
  if (std::find(names.begin(), names.end(), light.name) == names.end()) {
    problems.error(
        "unknown-light", light.place,
        fmt::format("pass \"{}\" looks at the shadows of \"{}\", which does not light it", options.name, light.name),
        name_hint(light.name, names));
  } else if (options.shadows.empty()) {
    problems.error(
        "no-shadows", light.place,
        fmt::format("pass \"{}\" looks at the shadows of \"{}\", and reads no shadow map", options.name, light.name),
        "name the targets of shadow maps: shadows = [\"sun.depth\"]");
  }
}

/// What a material's own GLSL sets is light: what encodes there was most likely written for a finished picture.
void check_surface_colors(const Forward& options, Diagnostics& problems) {
  std::set<std::string> looked_at;
  for (const Material& material : options.scene->materials()) {
    const std::string& surface = material.surface;
    if (surface.empty() || !looked_at.insert(surface).second) continue;
    try {
      const auto place = gl::find_encoding(draw::surface_source(options.folder, surface, pass_shaders()), "surface");
      if (!place) continue;
      problems.warning(
          "encoded-light", *place,
          fmt::format("the surface of material \"{}\" encodes to sRGB here, but its colours are linear", material.name),
          "leave them as they are: the picture is encoded once, at its end");
    } catch (const Error& error) {
      problems.append(error.diagnostics());
    }
  }
}

}  // namespace

void check_forward(const Forward& options, Pass& pass) {
  expect_shown(options, pass.problems);
  if (options.scene) check_surface_colors(options, pass.problems);
  expect_prelit(options, pass);
  expect_depth_to_draw_first(options, pass);
  expect_receivers_of_something(options, pass.problems);
  expect_looked_at(options, pass.problems);
}

}  // namespace periscena::passes
