// What passes do that read shadow maps.
#include <periscena/passes/shadow_map.h>

#include "passes/shading/lighting.h"

#include <fmt/format.h>

#include <algorithm>

namespace periscena::passes {
namespace {

/// What a lit pass wants of the passes that write its shadow maps.
struct ShadowCheck {
  std::string pass;
  std::vector<TargetUse> shadows;
  std::size_t first_read;
  std::shared_ptr<const Scene> scene;
  LightNames lights;

  void operator()(const WritersOf& writers_of, Diagnostics& problems) const {
    std::vector<std::string> seen;
    for (std::size_t i = 0; i < shadows.size(); ++i) {
      const std::vector<const Pass*> writers = writers_of(first_read + i);
      // Nobody, or somebody with mistakes of their own: that was told.
      const bool sound = std::none_of(writers.begin(), writers.end(),
                                      [](const Pass* writer) { return writer->problems.has_errors(); });
      if (!writers.empty() && sound) check(shadows[i].reference.place, writers, seen, problems);
    }
  }

  /// Then that was told, and which lights are meant is not known.
  bool has_unknown_lights() const {
    Diagnostics unknown;
    expect_lighting(scene.get(), {lights, {}, {}, {}}, pass, unknown);
    return unknown.has_errors();
  }

  void check(const Place& place, const std::vector<const Pass*>& writers, std::vector<std::string>& seen,
             Diagnostics& problems) const {
    for (const Pass* writer : writers) {
      if (std::any_cast<ShadowMap>(&writer->gives)) continue;
      return problems.error(
          "not-a-shadow-map", place,
          fmt::format("pass \"{}\" looks for shadows in what pass \"{}\" writes, which is no shadow map", pass,
                      writer->name),
          "name a target that a pass of kind shadow_map writes, and nothing else");
    }
    if (writers.size() > 1) {
      return problems.error(
          "shared-shadow-map", place,
          fmt::format("passes \"{}\" and \"{}\" draw into one shadow map", writers[0]->name, writers[1]->name),
          "give each a target of its own, and name both in shadows");
    }
    const auto& map = std::any_cast<const ShadowMap&>(writers[0]->gives);
    if (map.scene != scene) {
      return problems.error("other-scene", place,
                            fmt::format("pass \"{}\" draws another scene than pass \"{}\", whose shadows it takes",
                                        pass, writers[0]->name),
                            "draw both from one scene");
    }
    const std::vector<const Light*> lit = chosen_lights(*scene, lights);
    for (const Light* light : shadowed_lights(map)) {
      if (std::find(seen.begin(), seen.end(), light->name) != seen.end()) {
        return problems.error("shadow-twice", place,
                              fmt::format("pass \"{}\" takes two shadow maps of light \"{}\"", pass, light->name),
                              "keep one of them");
      }
      seen.push_back(light->name);
      if (std::find(lit.begin(), lit.end(), light) != lit.end() || has_unknown_lights()) continue;
      problems.warning(
          "unlit-shadow", place,
          fmt::format("pass \"{}\" takes the shadows of light \"{}\", but is not lit by it", pass, light->name),
          "add it to the pass' lights, or leave its shadow map out");
    }
  }
};

}  // namespace

std::string shadow_slot(std::size_t index) {
  return fmt::format("shadow_map_{}", index + 1);
}

void add_shadows(Pass& pass, const std::vector<TargetUse>& shadows, const std::shared_ptr<const Scene>& scene,
                 const LightNames& lights) {
  if (shadows.empty() || !scene) return;
  if (shadows.size() > most_shadows) {
    pass.problems.error("too-many-shadows", shadows[most_shadows].reference.place,
                        fmt::format("pass \"{}\" takes {} shadow maps", pass.name, shadows.size()),
                        fmt::format("a pass takes {} of them", most_shadows));
  }
  pass.check_writers = ShadowCheck{pass.name, shadows, pass.reads.size(), scene, lights};
  for (std::size_t i = 0; i < shadows.size(); ++i) {
    pass.reads.push_back({.slot = shadow_slot(i), .target = shadows[i], .as_array = true});
    if (pass.shader)
      pass.shader->samplers.push_back({.name = shadow_slot(i), .shape = SamplerShape::array, .depth = true});
  }
}

}  // namespace periscena::passes
