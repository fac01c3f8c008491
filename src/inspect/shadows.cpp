#include <periscena/inspect/shadows.h>

#include "passes/shading/object_draws.h"
#include "passes/shadow_map/caster_draws.h"
#include "passes/shadow_map/shadow_readers.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/passes/forward.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace periscena::inspect {
namespace {

/// A light whose shadows a pass takes.
struct Taken {
  const passes::Forward* by;
  const passes::ShadowMap* map;
  const Light* light;
  std::string target;  ///< of the facts
};

std::string name_of(const FrameGraph& frame, const TargetUse& use) {
  return use.handle.valid() ? frame.target_names()[use.handle.index] : use.reference.name;
}

const passes::ShadowMap* writer_of(const FrameGraph& frame, const std::string& target) {
  for (const auto& pass : frame.passes()) {
    const auto* map = std::any_cast<passes::ShadowMap>(&pass->gives);
    if (map && !pass->writes.empty() && name_of(frame, pass->writes[0].target) == target) return map;
  }
  return nullptr;
}

std::vector<Taken> find_taken(const FrameGraph& frame, const ShadowMeasuring& measuring) {
  std::vector<Taken> all;
  std::vector<std::string> names;
  for (const auto& pass : frame.passes()) {
    const auto* lit = std::any_cast<passes::Forward>(&pass->gives);
    if (!lit) continue;
    const auto lights = passes::chosen_lights(*lit->scene, lit->lights);
    for (const Read& read : pass->reads) {
      const auto* map = writer_of(frame, name_of(frame, read.target));
      if (!map) continue;
      for (const Light* light : passes::shadowed_lights(*map)) {
        if (std::find(lights.begin(), lights.end(), light) == lights.end()) continue;
        names.push_back(light->name);
        const bool wanted = measuring.lights.empty() || std::find(measuring.lights.begin(), measuring.lights.end(),
                                                                  light->name) != measuring.lights.end();
        if (wanted) all.push_back({lit, map, light, fmt::format("shadow facts {}", all.size() + 1)});
        if (measuring.lights.empty()) break;
      }
    }
  }
  for (const std::string& wanted : measuring.lights) {
    if (std::find(names.begin(), names.end(), wanted) != names.end()) continue;
    throw Mistake("unknown-light", {},
                  fmt::format("no forward pass of the frame takes shadows of a light \"{}\"", wanted),
                  names.empty() ? "leave the light out: the frame takes no shadows" : name_hint(wanted, names));
  }
  return all;
}

FrameGraph with_facts(const FrameGraph& frame, const std::vector<Taken>& taken) {
  FrameGraph graph = frame;
  for (const Taken& one : taken) {
    const TargetHandle facts = graph.target(one.target, {.format = Format::rgba32f});
    graph.keep(facts);
    passes::Forward pass = *one.by;
    pass.name = one.target;
    pass.facts_of = one.light->name;
    pass.color = facts;
    pass.depth = graph.target(one.target + ", depth", {.format = Format::depth32f});
    pass.reads = {};
    graph.add(passes::forward(pass));
  }
  return graph;
}

std::vector<bool> seen_by(const passes::Forward& pass) {
  std::vector<bool> seen = passes::chosen_objects(*pass.scene, {pass.tags, pass.without_tags, pass.variant});
  const auto materials = pass.scene->materials_of_nodes(pass.scene->find_variant(pass.variant.name));
  for (std::size_t i = 0; i < seen.size(); ++i) {
    seen[i] = seen[i] && !(materials[i].valid() &&
                           pass.scene->materials()[materials[i].index].alpha_mode == Material::AlphaMode::blend);
  }
  return seen;
}

MeasuredShadows measure(const Taken& taken, const Image& facts, const ShadowMeasuring& measuring) {
  const Scene& scene = *taken.by->scene;
  const ShadowRays rays(scene, measuring.seconds, seen_by(*taken.by), passes::casters_of(*taken.map),
                        scene.find_variant(taken.by->variant.name), scene.find_variant(taken.map->variant.name));
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(measuring.seconds, worlds);
  const View& view = *scene.find_view(taken.by->view.name);
  const Camera camera = view.node.valid() ? view.placed(worlds[view.node.index]) : view.camera;
  const auto points = rays.look(camera, facts.width(), facts.height(), measuring.step);
  std::vector<std::optional<MeasuredShadow>> measured(points.size());
  for (std::size_t i = 0; i < points.size(); ++i) {
    const auto at = facts.at(points[i].x, points[i].y);
    if (at[3] > 0.5 && at[1] > 0) measured[i] = {static_cast<float>(at[0]), static_cast<float>(at[1])};
  }
  PlacedLight light = PlacedLight::of(scene, *taken.light, measuring.seconds);
  const bool parallel = light.light.kind == Light::Kind::directional;
  light.size = parallel ? measuring.sun_size.value_or(taken.map->light_angle / 2)
                        : measuring.lamp_size.value_or(taken.map->light_radius);
  light.near = parallel ? 0 : taken.map->near;
  MeasuredShadows found;
  found.pass = taken.by->name;
  found.light = taken.light->name;
  found.map = taken.map->name;
  // Comparisons reach `radius` + 1 texels along both axes, from points that are lifted by up to 1.6 texels, and compare
  // with what is in the middle of texels.
  constexpr float lifted = 1.6f;
  found.away = 1.4142136f * (passes::ShadowBlock::of(*taken.map).radius + 1.5f) + lifted;
  found.errors = compare_shadows(rays, points, light, measured, found.away, lifted);
  found.lit = Image(facts.width(), facts.height(), Format::r32f);
  for (int y = 0; y < facts.height(); ++y) {
    for (int x = 0; x < facts.width(); ++x) {
      const auto at = facts.at(x, y);
      found.lit.set(x, y, {at[3] > 0.5 ? at[0] : std::numeric_limits<double>::quiet_NaN(), 0, 0, 0});
    }
  }
  return found;
}

}  // namespace

bool takes_shadows(const FrameGraph& frame) {
  return !find_taken(frame, {}).empty();
}

std::vector<MeasuredShadows> measure_shadows(gl::Device& device, const FrameGraph& frame, int width, int height,
                                             const ShadowMeasuring& measuring) {
  if (measuring.step < 1) {
    throw Mistake("bad-step", {}, fmt::format("every {}th pixel is to be measured", measuring.step),
                  "choose 1 or more");
  }
  const std::vector<Taken> taken = find_taken(frame, measuring);
  if (taken.empty()) {
    throw Mistake("no-shadows", {}, "nothing in the frame takes shadows that could be measured",
                  "let a forward pass name the target of a shadow map among its shadows");
  }
  const PlanResult planned = with_facts(frame, taken).plan(width, height, device.limits());
  gl::FrameRunner runner(device, planned.value());
  runner.run(measuring.seconds);
  std::vector<MeasuredShadows> all;
  for (const Taken& one : taken) all.push_back(measure(one, runner.read(one.target), measuring));
  return all;
}

}  // namespace periscena::inspect
