#include <periscena/inspect/shadows.h>

#include "draw/shadows/shadow_view.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/scene/scene.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace periscena::inspect {
namespace {

/// A light whose shadows a pass takes.
struct Taken {
  const Pass* pass;
  const LitFacts* lit;
  std::string map_name;
  const ShadowFacts* map;
  const Light* light;
  std::string target;  ///< of what the map says
};

std::string name_of(const FrameGraph& frame, const TargetUse& use) {
  return use.handle.valid() ? frame.target_names()[use.handle.index] : use.reference.name;
}

/// The pass that draws a shadow map into a target, or null.
const Pass* writer_of(const FrameGraph& frame, const std::string& target) {
  for (const auto& pass : frame.passes()) {
    const bool draws_map = std::holds_alternative<ShadowFacts>(pass->facts) && !pass->writes.empty();
    if (draws_map && name_of(frame, pass->writes[0].target) == target) return pass.get();
  }
  return nullptr;
}

std::vector<Taken> find_taken(const FrameGraph& frame, const ShadowMeasuring& measuring) {
  std::vector<Taken> all;
  std::vector<std::string> names;
  for (const auto& pass : frame.passes()) {
    const auto* lit = std::get_if<LitFacts>(&pass->facts);
    if (!lit || !lit->lit) continue;
    const auto lights = chosen_lights(*lit->drawn.scene, lit->lit->lights);
    for (const Read& read : pass->reads) {
      const Pass* writer = writer_of(frame, name_of(frame, read.target));
      if (!writer) continue;
      const ShadowFacts& map = std::get<ShadowFacts>(writer->facts);
      for (const std::string& name : map.lights) {
        const auto light =
            std::find_if(lights.begin(), lights.end(), [&](const Light* one) { return one->name == name; });
        if (light == lights.end()) continue;
        names.push_back(name);
        const bool wanted = measuring.lights.empty() ||
                            std::find(measuring.lights.begin(), measuring.lights.end(), name) != measuring.lights.end();
        if (wanted)
          all.push_back({pass.get(), lit, writer->name, &map, *light, fmt::format("shadow facts {}", all.size() + 1)});
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
    const TargetHandle depth = graph.target(one.target + ", depth", {.format = Format::depth32f});
    graph.add(one.lit->ask_shadows({one.target, one.light->name, facts, depth}));
  }
  return graph;
}

std::vector<bool> seen_by(const DrawnSurfaces& drawn) {
  std::vector<bool> seen = chosen_objects(*drawn.scene, drawn.objects);
  const auto materials = drawn.scene->materials_of_nodes(drawn.scene->find_variant(drawn.objects.variant.name));
  for (std::size_t i = 0; i < seen.size(); ++i) {
    seen[i] = seen[i] && !(materials[i].valid() &&
                           drawn.scene->materials()[materials[i].index].alpha_mode == Material::AlphaMode::blend);
  }
  return seen;
}

MeasuredShadows measure(const Taken& taken, const Image& facts, const ShadowMeasuring& measuring) {
  const DrawnSurfaces& drawn = taken.lit->drawn;
  const Scene& scene = *drawn.scene;
  const ShadowRays rays(scene, measuring.seconds, seen_by(drawn), draw::casters_of(scene, taken.map->casters),
                        scene.find_variant(drawn.objects.variant.name),
                        scene.find_variant(taken.map->casters.variant.name));
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(measuring.seconds, worlds);
  const View& view = *scene.find_view(drawn.view.name);
  const Camera camera = view.node.valid() ? view.placed(worlds[view.node.index]) : view.camera;
  const auto points = rays.look(camera, facts.width(), facts.height(), measuring.step);
  std::vector<std::optional<MeasuredShadow>> measured(points.size());
  for (std::size_t i = 0; i < points.size(); ++i) {
    const auto at = facts.at(points[i].x, points[i].y);
    if (at[3] > 0.5 && at[1] > 0) measured[i] = {static_cast<float>(at[0]), static_cast<float>(at[1])};
  }
  PlacedLight light = PlacedLight::of(scene, *taken.light, measuring.seconds);
  const bool parallel = light.light.is_directional();
  light.size = parallel ? measuring.sun_size.value_or(taken.map->lookup.light_angle / 2)
                        : measuring.lamp_size.value_or(taken.map->lookup.light_radius);
  light.near = parallel ? 0 : taken.map->near;
  MeasuredShadows found;
  found.pass = taken.pass->name;
  found.light = taken.light->name;
  found.map = taken.map_name;
  // Comparisons reach `radius` + 1 texels along both axes, from points that are lifted by up to 1.6 texels, and compare
  // with what is in the middle of texels.
  constexpr float lifted = 1.6f;
  found.away = 1.4142136f * (taken.map->lookup.reach() + 1.5f) + lifted;
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
