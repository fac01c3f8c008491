#include "draw/shadows/shadow_view.h"

#include <periscena/base/cases.h>
#include <periscena/base/error.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace periscena::draw {

std::string shadow_slot(std::size_t index) {
  return fmt::format("shadow_map_{}", index + 1);
}

std::vector<bool> casters_of(const Scene& scene, const ObjectChoice& objects) {
  std::vector<bool> casters = chosen_objects(scene, objects);
  const auto materials = scene.materials_of_nodes(scene.find_variant(objects.variant.name));
  for (std::size_t i = 0; i < casters.size(); ++i) {
    const bool blended =
        materials[i].valid() && scene.materials()[materials[i].index].alpha_mode == Material::AlphaMode::blend;
    casters[i] = casters[i] && scene.nodes()[i].mesh.valid() && !blended;
  }
  return casters;
}

ShadowBlock ShadowBlock::of(const ShadowFacts& facts) {
  const ShadowLookup& lookup = facts.lookup;
  ShadowBlock block;
  block.filtering = static_cast<std::int32_t>(lookup.filter);
  block.radius = lookup.reach();
  if (lookup.normal_bias) block.lift = *lookup.normal_bias;
  block.bias = lookup.bias;
  block.slope_bias = lookup.slope_bias;
  block.fades = facts.cascades > 0 ? 1 : 0;
  return block;
}

gl::BlockLayout ShadowBlock::layout() {
  return gl::describe_block<ShadowBlock>("Shadows", "shadows")
      .member("first_part", &ShadowBlock::first_part)
      .member("part_count", &ShadowBlock::part_count)
      .member("map", &ShadowBlock::map)
      .member("filtering", &ShadowBlock::filtering)
      .member("radius", &ShadowBlock::radius)
      .member("lift", &ShadowBlock::lift)
      .member("bias", &ShadowBlock::bias)
      .member("slope_bias", &ShadowBlock::slope_bias)
      .member("fades", &ShadowBlock::fades)
      .member("all_round", &ShadowBlock::all_round)
      .member("light_size", &ShadowBlock::light_size)
      .member("unused", &ShadowBlock::unused);
}

gl::BlockLayout ShadowPartBlock::layout() {
  return gl::describe_block<ShadowPartBlock>("ShadowParts", "shadow_parts")
      .member("to_map", &ShadowPartBlock::to_map)
      .member("tile", &ShadowPartBlock::tile)
      .member("texel", &ShadowPartBlock::texel)
      .member("layer", &ShadowPartBlock::layer)
      .member("near", &ShadowPartBlock::near)
      .member("far", &ShadowPartBlock::far)
      .member("over_squares", &ShadowPartBlock::over_squares);
}

bool looks_all_round(const Light& light) {
  return std::visit(Cases{[](const DirectionalLight&) { return false; }, [](const PointLight&) { return true; },
                          [](const SpotLight& one) { return one.looks_all_round(); }},
                    light.kind);
}

ShadowView::ShadowView(const ShadowFacts& facts) {
  std::size_t parts = 0;
  for (const std::string& name : facts.lights) {
    const Light& light = *facts.scene->find_light(name);
    ShadowBlock block = ShadowBlock::of(facts);
    block.first_part = static_cast<std::int32_t>(parts);
    block.all_round = looks_all_round(light);
    block.light_size = light.is_directional() ? std::tan(facts.lookup.light_angle / 2) : facts.lookup.light_radius;
    const std::size_t count = block.all_round ? 6 : static_cast<std::size_t>(std::max(1, facts.cascades));
    block.part_count = static_cast<std::int32_t>(count);
    lights_.push_back({light.name, block, parts, count});
    parts += count;
  }
  cameras_.resize(parts);
  parts_.resize(parts);
}

std::shared_ptr<ShadowView> ShadowView::of_pass(const gl::PassSetup& setup,
                                                const std::shared_ptr<const Pass>& declared) {
  return setup.shared().get<ShadowView>(
      declared, [&] { return std::make_shared<ShadowView>(std::get<ShadowFacts>(declared->facts)); });
}

std::shared_ptr<ShadowView> ShadowView::of_target(const gl::PassSetup& setup, std::uint32_t target) {
  const FramePlan& plan = setup.plan();
  const std::uint32_t drawn = plan.targets()[target].resolved_from.value_or(target);
  for (const PlannedPass& pass : plan.passes()) {
    const bool writes = std::any_of(pass.writes.begin(), pass.writes.end(),
                                    [&](const PlannedWrite& write) { return write.target == drawn; });
    if (writes && pass.declared) return of_pass(setup, pass.declared);
  }
  throw Mistake("not-a-shadow-map", {},
                fmt::format("nothing draws the shadow map that pass \"{}\" reads", setup.pass().name),
                "add a pass of kind shadow_map");
}

void ShadowView::look_through(std::size_t part, const Camera& camera, float aspect, const Vec4& tile, int layer,
                              int rows) {
  Camera& seen = cameras_[part];
  seen = camera;
  if (seen.parallel_height > 0) seen.parallel_height /= std::min(1.0f, aspect);
  // Clip space spans -1 to 1 across and up, texture coordinates 0 to 1; depth is the same in both.
  const Transform to_texture =
      Transform::scale(Vec3(0.5f * tile[2], 0.5f * tile[3], 1))
          .then(Transform::translate(Vec3(tile[0] + 0.5f * tile[2], tile[1] + 0.5f * tile[3], 0)));
  ShadowPartBlock& block = parts_[part];
  block.to_map = to_texture.matrix() * seen.projection(aspect).matrix() * seen.view().matrix();
  const float height = seen.parallel_height > 0 ? seen.parallel_height : 2 * std::tan(seen.fov_y / 2);
  block.tile = tile;
  block.texel = height / static_cast<float>(rows);
  block.layer = static_cast<float>(layer);
  block.near = seen.near;
  block.far = seen.far;
  for (int row = 0; row < 3; ++row) {
    const Vec3 along = block.to_map.row(row).head<3>();
    block.over_squares[static_cast<std::size_t>(row)] = 1 / along.squared_norm();
  }
  ++version_;
}

void ShadowView::look_through(std::size_t layer, const Camera& camera, int width, int height) {
  look_through(layer, camera, static_cast<float>(width) / static_cast<float>(height), {0, 0, 1, 1},
               static_cast<int>(layer), height);
}

void ShadowView::look_through(std::size_t part, const Camera& camera, int width, int height, const Tile& tile) {
  const auto w = static_cast<float>(width), h = static_cast<float>(height), size = static_cast<float>(tile.size);
  look_through(part, camera, 1, {static_cast<float>(tile.x) / w, static_cast<float>(tile.y) / h, size / w, size / h},
               tile.layer, tile.size);
}

void ShadowView::cast(std::size_t light, bool casts) {
  Shadowed& shadowed = lights_[light];
  const std::int32_t count = casts ? static_cast<std::int32_t>(shadowed.part_count) : 0;
  if (shadowed.block.part_count == count) return;
  shadowed.block.part_count = count;
  ++version_;
}

}  // namespace periscena::draw
