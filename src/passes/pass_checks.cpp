#include "passes/pass_checks.h"

#include "draw/shadows/shadow_view.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/passes/kind.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace periscena::passes {

void expect_bounds(batch::LightBounds bounds, std::initializer_list<batch::LightBounds> unfit, const char* instead,
                   Pass& pass) {
  if (std::find(unfit.begin(), unfit.end(), bounds) == unfit.end()) return;
  pass.problems.error("unfit-bounds", pass.place,
                      fmt::format("pass \"{}\" can't bound its lights in this way", pass.name),
                      fmt::format("use {}", instead));
}

void expect_few_lights(const Scene* scene, const ChosenNames& lights, Pass& pass) {
  constexpr std::size_t many = 20'000;  // of them, a light in a list of clusters takes its share of 64 MiB
  if (!scene || scene->lights().size() <= many) return;
  const std::vector<const Light*> chosen = chosen_lights(*scene, lights);
  const auto ending =
      std::count_if(chosen.begin(), chosen.end(), [](const Light* light) { return std::isfinite(light->range()); });
  if (static_cast<std::size_t>(ending) <= many) return;
  pass.problems.warning("many-lights", pass.place,
                        fmt::format("pass \"{}\" is lit by {} lights: from {} on, cost grows faster than their number",
                                    pass.name, ending, many),
                        "choose fewer by tags: lights = [\"near\"]; see docs/performance.md");
}

void add_shadows(Pass& pass, const std::vector<TargetUse>& shadows, const std::shared_ptr<const Scene>& scene,
                 const ChosenNames& lights) {
  if (shadows.empty() || !scene) return;
  if (shadows.size() > draw::most_shadows) {
    pass.problems.error("too-many-shadows", shadows[draw::most_shadows].reference.place,
                        fmt::format("pass \"{}\" takes {} shadow maps", pass.name, shadows.size()),
                        fmt::format("a pass takes {} of them", draw::most_shadows));
  }
  for (std::size_t i = 0; i < shadows.size(); ++i) {
    pass.reads.push_back({.slot = draw::shadow_slot(i),
                          .target = shadows[i],
                          .texture = TextureReading::as_array,
                          .wants = WantsShadows{scene, lights}});
    if (pass.shader)
      pass.shader->samplers.push_back({.name = draw::shadow_slot(i), .shape = SamplerShape::array, .depth = true});
  }
}

void want_motion(Pass& pass, const Reference& view, WantsMotion::Since since) {
  for (Read& read : pass.reads) {
    if (read.slot == "velocity") read.wants = WantsMotion{view, since};
  }
}

void expect_named(const Reference& name, bool found, const char* kind, const std::string& who,
                  const std::function<std::vector<std::string>()>& names, const char* declaration,
                  Diagnostics& problems) {
  if (name.empty() || found) return;
  problems.error(fmt::format("unknown-{}", kind), name.place,
                 fmt::format("{} names {} \"{}\", which is not there", who, kind, name.name), [&] {
                   const auto known = HintLimit::reached() ? std::vector<std::string>() : names();
                   return known.empty() ? fmt::format(fmt::runtime(declaration), name.name)
                                        : name_hint(name.name, known);
                 });
}

void expect_objects(const Scene* scene, const ObjectChoice& choice, const std::string& who, Diagnostics& problems) {
  if (!scene) return;
  for (const std::vector<Reference>* tags : {&choice.tags.names(), &choice.without_tags}) {
    for (const Reference& tag : *tags) {
      expect_named(
          tag, scene->has_tag(tag.name), "tag", who, [&] { return scene->tags(); }, "give an object tags = [\"{}\"]",
          problems);
    }
  }
  expect_named(
      choice.variant, scene->find_variant(choice.variant.name), "variant", who,
      [&] { return names_of(scene->variants()); }, "declare it: [variant.\"{}\"]", problems);
}

namespace {

/// Names and tags that a pass may choose lights by, for hints.
std::vector<std::string> light_names(const Scene& scene) {
  std::set<std::string> names;
  for (const Light& light : scene.lights()) {
    names.insert(light.name);
    names.insert(light.tags.begin(), light.tags.end());
  }
  for (const AmbientLight& light : scene.ambient_lights()) names.insert(light.name);
  return {names.begin(), names.end()};
}

}  // namespace

void expect_lighting(const Scene* scene, const draw::LightingChoice& choice, const std::string& who,
                     Diagnostics& problems) {
  if (!scene) return;
  for (const Reference& light : choice.lights.names()) {
    expect_named(
        light, scene->has_light(light.name), "light", who, [&] { return light_names(*scene); },
        "declare it: [light.\"{}\"]", problems);
  }
  expect_named(
      choice.environment, scene->find_environment(choice.environment.name), "environment", who,
      [&] { return names_of(scene->environments()); }, "declare it: [environment.\"{}\"]", problems);
  expect_named(
      choice.fog, scene->find_fog(choice.fog.name), "fog", who, [&] { return names_of(scene->fogs()); },
      "declare it: [fog.\"{}\"]", problems);
}

void expect_view(const Scene* scene, const Reference& view, const std::string& who, Diagnostics& problems) {
  if (!scene) {
    problems.error("no-scene", view.place, fmt::format("{} wants a view, but there is no scene", who),
                   "give the frame a scene");
    return;
  }
  if (view.empty() || scene->find_view(view.name)) return;  // that it is missing is told by its key
  problems.error(
      "unknown-view", view.place, fmt::format("{} looks through \"{}\", which is no view", who, view.name), [&] {
        const std::vector<std::string> names = names_of(scene->views());
        return names.empty() ? "declare it: [view." + view.name + "] with eye and target" : name_hint(view.name, names);
      });
}

namespace detail {

void check_names(const NamesOf& names, Pass& pass) {
  const std::string who = fmt::format("pass \"{}\"", pass.name);
  const auto chosen = [](const ChosenNames* given) { return given ? *given : ChosenNames(); };
  const auto list = [](const std::vector<Reference>* given) { return given ? *given : std::vector<Reference>(); };
  const auto name = [](const Reference* given) { return given ? *given : Reference(); };
  if (names.view && (names.view_need == Need::required || !names.view->empty())) {
    expect_view(names.scene, *names.view, who, pass.problems);
    const View* view = names.scene ? names.scene->find_view(names.view->name) : nullptr;
    if (view) pass.camera = view->camera;
  }
  expect_lighting(names.scene, {chosen(names.lights), name(names.environment), name(names.fog)}, who, pass.problems);
  expect_objects(names.scene, {chosen(names.tags), list(names.without_tags), name(names.variant)}, who, pass.problems);
  expect_objects(names.scene, {chosen(names.receivers), list(names.without_receivers), {}}, who, pass.problems);
}

}  // namespace detail

}  // namespace periscena::passes
