#include <periscena/passes/shadow_map.h>

#include "passes/pass_checks.h"
#include "passes/shadow_map/caster_draws.h"

#include <periscena/base/error.h>
#include <periscena/base/names.h>
#include <periscena/scene/shadow_truth.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::passes {
namespace {

bool is_parallel(const std::vector<const Light*>& lights) {
  return lights.size() == 1 && lights[0]->is_directional();
}

std::string list_of(const std::vector<Reference>& names) {
  std::string list;
  for (const Reference& name : names) list += fmt::format("{}\"{}\"", list.empty() ? "" : ", ", name.name);
  return list;
}

void expect_lights(const ShadowMap& options, const Place& place, Diagnostics& problems) {
  if (!options.scene) return;
  std::vector<Reference> names = options.lights;
  if (!options.light.empty()) names.push_back(options.light);
  for (const Reference& name : names) {
    const bool by_tag = !options.lights.empty();
    const bool found = options.scene->find_light(name.name) || (by_tag && options.scene->has_light_tag(name.name));
    expect_named(
        name, found, "light", fmt::format("pass \"{}\"", options.name),
        [&] { return names_of(options.scene->lights()); }, "declare it: [light.\"{}\"]", problems);
  }
  if (problems.has_errors()) return;
  if (names.empty() || (!options.light.empty() && !options.lights.empty())) {
    return problems.error(
        names.empty() ? "unknown-light" : "bad-shadow", place,
        fmt::format("pass \"{}\" names {}", options.name, names.empty() ? "no light" : "both a light and several"),
        "name one as `light`, or several spot and point lights as `lights`");
  }
  const auto lights = shadowed_lights(options);
  const auto sun =
      std::find_if(lights.begin(), lights.end(), [](const Light* light) { return light->is_directional(); });
  if (lights.size() > 1 && sun != lights.end()) {
    problems.error("light-kind", names[0].place,
                   fmt::format("pass \"{}\" draws the maps of {}, and \"{}\" is a directional light", options.name,
                               list_of(names), (*sun)->name),
                   "give directional lights a shadow map each");
  }
  if (options.cascades > 0 && sun == lights.end()) {
    problems.error("light-kind", names[0].place,
                   fmt::format("pass \"{}\" has cascades, and {} {} no directional light", options.name, list_of(names),
                               lights.size() > 1 ? "are" : "is"),
                   "leave out cascades: they are for directional lights");
  }
}

void expect_casters(const ShadowMap& options, const Place& place, Diagnostics& problems) {
  if (!options.scene || problems.has_errors()) return;
  const std::vector<bool> casters = casters_in(options);
  if (std::find(casters.begin(), casters.end(), true) != casters.end()) return;
  problems.warning("no-casters", options.tags.names().empty() ? place : options.tags.names()[0].place,
                   fmt::format("pass \"{}\" finds nothing that casts a shadow", options.name),
                   "objects cast that have a mesh, a material that is not blended, and the pass' tags");
}

/// Does an object shut a place in on all sides, seen from there by its backs?
bool shuts_in(const Scene& scene, std::uint32_t node, const Vec3& place, float near) {
  std::vector<bool> chosen(scene.nodes().size(), false);
  chosen[node] = true;
  const RayTree tree(world_triangles(scene, 0, chosen));
  for (int i = 0; i < 27; ++i) {
    const int column = i % 3, row = i / 3 % 3, layer = i / 9;
    const Vec3 way(static_cast<float>(column - 1), static_cast<float>(row - 1), static_cast<float>(layer - 1));
    if (way.is_zero()) continue;
    const auto hit = tree.nearest({place, way.normalized(), near});
    if (!hit) return false;
    const Triangle& triangle = tree.triangles()[hit->triangle];
    if ((triangle.b - triangle.a).cross(triangle.c - triangle.a).dot(way) < 0) return false;
  }
  return true;
}

/// A lamp in a closed caster lights nothing: its own glass, most likely.
void expect_lamps_in_the_open(const ShadowMap& options, Diagnostics& problems) {
  if (!options.scene || problems.has_errors()) return;
  const Scene& scene = *options.scene;
  const std::vector<bool> casters = casters_in(options);
  const auto materials = scene.materials_of_nodes(scene.find_variant(options.variant.name));
  std::vector<Box> meshes;
  for (const Mesh& mesh : scene.meshes()) meshes.push_back(mesh.bounds());
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(0, worlds);
  for (const Light* light : shadowed_lights(options)) {
    if (light->is_directional()) continue;
    const Vec3 at = PlacedLight::of(scene, *light, 0).light.way_from(Vec3::zero());
    for (std::uint32_t i = 0; i < casters.size(); ++i) {
      const Node& node = scene.nodes()[i];
      const bool thin = materials[i].valid() && scene.materials()[materials[i].index].double_sided;
      if (!casters[i] || thin || !meshes[node.mesh.index].transformed(worlds[i]).contains(at)) continue;
      if (!shuts_in(scene, i, at, options.near)) continue;
      problems.warning(
          "light-shut-in", (options.lights.empty() ? options.light : options.lights[0]).place,
          fmt::format("pass \"{}\" draws the map of \"{}\", which stands inside {}: that casts on all around it",
                      options.name, light->name,
                      node.name.empty() ? fmt::format("an object of mesh \"{}\"", scene.mesh_names()[node.mesh.index])
                                        : fmt::format("\"{}\"", node.name)),
          "leave it out by without_tags, or let near reach past it");
      break;
    }
  }
}

/// What filters take, beyond what keys say of their radius.
void expect_numbers(const ShadowMap& options, const Place& place, Diagnostics& problems) {
  const bool whole = options.radius == std::floor(options.radius);
  if (options.filter != ShadowFilter::gaussian || (options.radius >= 1 && options.radius <= 4 && whole)) return;
  problems.error("bad-shadow", place,
                 fmt::format("pass \"{}\" has a gaussian radius of {}", options.name, options.radius),
                 "choose 1, 2, 3 or 4 texels");
}

/// Cascades share out what a view sees; lamps may ask one what matters.
void expect_watched(const ShadowMap& options, const Place& place, Diagnostics& problems) {
  if (!options.scene) return;
  if (!options.view.empty())
    return expect_view(options.scene.get(), options.view, fmt::format("pass \"{}\"", options.name), problems);
  if (options.cascades == 0) return;
  problems.error(
      "unknown-view", place,
      fmt::format("pass \"{}\" has cascades, which share out what a view sees, and names no view", options.name),
      "name a view of the scene, or leave out cascades");
}

void expect_tiles(const ShadowMap& options, const std::vector<const Light*>& lights, const WrittenTarget& target,
                  Diagnostics& problems) {
  if (target.layer != all_layers) {
    return problems.error("bad-shadow", target.place,
                          fmt::format("pass \"{}\" draws maps into one layer of \"{}\"", options.name, target.name),
                          "let it write all of them, or give it a target of its own");
  }
  std::vector<TileWish> wishes;
  int wanted = 0;
  for (const Light* light : lights) {
    wishes.push_back({1, draw::looks_all_round(*light) ? 6 : 1});
    wanted += wishes.back().count;
  }
  const int side = std::min(target.width, target.height);
  const auto shares = share_out_tiles(wishes, side, target.layers, least_tile(options));
  const auto none = std::count_if(shares.begin(), shares.end(), [](const auto& one) { return one.empty(); });
  if (none == 0) return;
  int across = 1;  // smallest tiles, side by side
  while (side / (2 * across) >= least_tile(options)) across *= 2;
  const int enough = (wanted + across * across - 1) / (across * across);
  problems.warning(
      "too-few-tiles", target.place,
      fmt::format("pass \"{}\" draws the maps of {} into \"{}\", which has no tiles of {} texels for {} of them: "
                  "those that matter least cast no shadows",
                  options.name, counted(lights.size(), "light"), target.name, least_tile(options), none),
      fmt::format("give the target layers = {}, or name fewer lights", enough));
}

/// Cascades want a layer each, lamps a square for each of their views, and all room for their filter.
void expect_targets(const ShadowMap& options, std::span<const WrittenTarget> targets, Diagnostics& problems) {
  const auto lights = shadowed_lights(options);
  for (const WrittenTarget& target : targets) {
    if (options.cascades > 0 && (target.layers != options.cascades || target.layer != all_layers)) {
      problems.error("cascade-layers", target.place,
                     fmt::format("pass \"{}\" draws {} into \"{}\" of {}", options.name,
                                 counted(static_cast<std::size_t>(options.cascades), "cascade"), target.name,
                                 counted(static_cast<std::size_t>(target.layers), "layer")),
                     fmt::format("give the target layers = {}, and write all of them", options.cascades));
    }
    const int side = std::min(target.width, target.height);
    const bool lamps = !lights.empty() && options.cascades == 0 && !is_parallel(lights);
    if ((options.cascades > 0 || lamps) && side < 4 * border_of(options)) {
      problems.error(
          "bad-shadow", target.place,
          fmt::format("pass \"{}\" draws {} of {} x {} texels, and its filter wants {} free at each side", options.name,
                      lamps ? "maps" : "cascades", target.width, target.height, border_of(options)),
          "choose a larger map or a smaller radius");
    } else if (lamps) {
      expect_tiles(options, lights, target, problems);
    }
  }
}

}  // namespace

std::vector<const Light*> shadowed_lights(const ShadowMap& options) {
  if (!options.scene) return {};
  if (options.lights.empty()) {
    const Light* light = options.scene->find_light(options.light.name);
    return light ? std::vector{light} : std::vector<const Light*>();
  }
  return chosen_lights(*options.scene, ChosenNames(options.lights));
}

ShadowLookup lookup_of(const ShadowMap& options) {
  return {options.filter, options.radius,     options.light_angle, options.light_radius,
          options.bias,   options.slope_bias, options.normal_bias};
}

ShadowFacts facts_of(const ShadowMap& options) {
  ShadowFacts facts{
      options.scene,     {}, {options.tags, options.without_tags, options.variant}, options.near, options.cascades,
      lookup_of(options)};
  for (const Light* light : shadowed_lights(options)) facts.lights.push_back(light->name);
  return facts;
}

int least_tile(const ShadowMap& options) {
  return std::max(options.least_tile, 4 * border_of(options));
}

int border_of(const ShadowMap& options) {
  return static_cast<int>(std::ceil(lookup_of(options).reach())) + 2;
}

void check_shadow_map(const ShadowMap& options, Pass& pass) {
  // Of one's own mistakes some make others pointless.
  Diagnostics problems;
  if (!options.scene)
    problems.error("no-scene", {}, fmt::format("pass \"{}\" wants a light, but there is no scene", options.name),
                   "give the frame a scene");
  expect_lights(options, pass.place, problems);
  expect_numbers(options, pass.place, problems);
  expect_watched(options, pass.place, problems);
  expect_objects(options.scene.get(), {options.tags, options.without_tags, options.variant},
                 fmt::format("pass \"{}\"", options.name), problems);
  expect_casters(options, pass.place, problems);
  expect_lamps_in_the_open(options, problems);
  pass.problems.append(problems);
}

void finish_shadow_map(const ShadowMap& options, Pass& pass) {
  pass.facts = facts_of(options);
  pass.shader = {};
  pass.check_targets = [options](std::span<const WrittenTarget> targets, Diagnostics& problems) {
    expect_targets(options, targets, problems);
  };
  if (pass.problems.has_errors()) return;
  pass.work = is_parallel(shadowed_lights(options))
                  ? gl::work([options](gl::PassSetup& setup) { return draw_parallel_maps(options, setup); })
                  : gl::work([options](gl::PassSetup& setup) { return draw_lamp_maps(options, setup); });
}

}  // namespace periscena::passes
