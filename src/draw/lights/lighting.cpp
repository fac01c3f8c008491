#include "draw/lights/lighting.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace periscena::draw {
namespace {

bool is_endless(const Light& light) {
  return std::isinf(light.range());
}

std::string depths_slot(std::size_t index) {
  return fmt::format("shadow_depths_{}", index + 1);
}

}  // namespace

Lighting::Lighting(gl::PassSetup& setup, std::shared_ptr<SceneBuffers> scene, const LightingChoice& choice)
    : scene_(std::move(scene)),
      choice_(choice),
      seen_(scene_->source().versions().lights),
      sky_sampler_(Filter::linear_levels, Wrap::clamp, "sky"),
      table_sampler_(Filter::linear, Wrap::clamp, "split sum") {
  choose();
  // Merged scenes come and go; what they were merged from stays.
  const Environment* environment = scene_->source().find_environment(choice.environment.name);
  environment_ = EnvironmentTextures::shared(setup, scene_->shared_source(), environment, choice.cache);
  const LightingBlock block = this->block();
  has_environment_ = environment != nullptr;
  has_ambient_ = !block.sky.is_zero(0) || !block.ground.is_zero(0);
  fog_kind_ = block.fog_kind;
  split_sum_ = split_sum_texture(setup);
  lighting_ = shared_block(setup, block, "lighting");
  find_shadows(setup);
  blocks_.resize(std::max<std::size_t>(1, lights_.size()));
  light_buffer_ = gl::Buffer::writable(blocks_.size() * sizeof(LightBlock), "lights");
  fill();
  light_buffer_.write(0, std::as_bytes(std::span(blocks_)));
  const auto room = static_cast<std::size_t>(setup.device().capabilities().limit("MAX_UNIFORM_BLOCK_SIZE"));
  is_few_ = std::max({blocks_.size() * sizeof(LightBlock), most_shadow_blocks_ * sizeof(ShadowBlock),
                      most_shadow_parts_ * sizeof(ShadowPartBlock)}) <= room;
}

void Lighting::choose() {
  const Scene& scene = scene_->source();
  std::vector<const Light*> chosen = chosen_lights(scene, choice_.lights);
  const auto first_with_end =
      std::stable_partition(chosen.begin(), chosen.end(), [](const Light* light) { return is_endless(*light); });
  endless_ = static_cast<std::size_t>(first_with_end - chosen.begin());
  follows_ = std::any_of(chosen.begin(), chosen.end(), [](const Light* light) { return light->node.valid(); });
  own_lights_.reserve(chosen.size());
  for (const Light* light : chosen) {
    numbers_.push_back(static_cast<std::size_t>(light - scene.lights().data()));
    lights_.push_back(&own_lights_.emplace_back(*light));
  }
}

LightingBlock Lighting::block() const {
  const Scene& scene = scene_->source();
  LightingBlock block;
  for (const AmbientLight& light : scene.ambient_lights()) {
    if (!choice_.lights.contains(light.name)) continue;
    block.sky += light.sky;
    block.ground += light.ground;
  }
  if (const Environment* environment = scene.find_environment(choice_.environment.name))
    block.set_environment(*environment, environment_->light);
  if (const Fog* fog = scene.find_fog(choice_.fog.name)) block.set_fog(*fog);
  block.light_count = static_cast<std::int32_t>(lights_.size());
  return block;
}

/// Takes over what the program has changed of lights, environment and fog.
void Lighting::follow(const gl::PassContext& context) {
  const Scene& scene = scene_->source();
  seen_ = scene.versions().lights;
  for (std::size_t i = 0; i < lights_.size(); ++i) own_lights_[i] = scene.lights()[numbers_[i]];
  if (changed_lighting_.size() == 0) changed_lighting_ = gl::Buffer::writable(sizeof(LightingBlock), "lighting");
  const LightingBlock block = this->block();
  context.write(changed_lighting_, 0, std::as_bytes(std::span(&block, 1)));
}

void Lighting::fill() {
  for (std::size_t i = 0; i < lights_.size(); ++i) {
    const NodeHandle node = lights_[i]->node;
    blocks_[i] = LightBlock::of(*lights_[i], node.valid() ? scene_->worlds()[node.index] : Transform::identity(),
                                shadow_numbers_[i]);
  }
}

void Lighting::update(const gl::PassContext& context) {
  const bool changed = seen_ != scene_->source().versions().lights;
  if (changed) follow(context);
  if (changed || (follows_ && scene_->moved())) {
    fill();
    ++version_;
    context.write(light_buffer_, 0, std::as_bytes(std::span(blocks_)));
  }
  const bool stale = std::any_of(shadows_.begin(), shadows_.end(),
                                 [](const Shadow& shadow) { return shadow.version != shadow.view->version(); });
  if (stale) fill_shadows(context);
}

void Lighting::find_shadows(const gl::PassSetup& setup) {
  const std::vector<PlannedRead>& reads = setup.pass().reads;
  shadow_numbers_.assign(lights_.size(), 0);
  std::size_t parts = 0, shadow_blocks = 0;
  for (std::size_t i = 0; i < most_shadows; ++i) {
    const auto read =
        std::find_if(reads.begin(), reads.end(), [&](const PlannedRead& one) { return one.slot == shadow_slot(i); });
    if (read == reads.end()) break;
    auto view = ShadowView::of_target(setup, read->target);
    for (const ShadowView::Shadowed& shadowed : view->lights()) {
      const auto light =
          std::find_if(lights_.begin(), lights_.end(), [&](const Light* one) { return one->name == shadowed.light; });
      ++shadow_blocks;
      filters_ |= 1u << shadowed.block.filtering;
      if (shadowed.block.filtering == static_cast<int>(ShadowFilter::gaussian))
        bell_radii_.insert(static_cast<int>(shadowed.block.radius));
      if (light != lights_.end()) shadow_numbers_[static_cast<std::size_t>(light - lights_.begin())] = shadow_blocks;
    }
    parts += view->parts().size();
    shadows_.push_back({static_cast<std::size_t>(read - reads.begin()), std::move(view), 0});
  }
  if (shadows_.empty()) return;
  shadow_sampler_ = gl::Sampler::comparing(gl::Compare::greater_or_equal, Filter::linear, "shadow");
  if (wants_depths()) depth_sampler_ = gl::Sampler(Filter::nearest, Wrap::clamp, "depths of shadows");
  most_shadow_parts_ = parts;
  most_shadow_blocks_ = shadow_blocks;
  shadow_parts_.reserve(parts);
  shadow_part_buffer_ = gl::Buffer::writable(parts * sizeof(ShadowPartBlock), "views of shadows");
  shadow_blocks_.reserve(shadow_blocks);
  shadow_buffer_ = gl::Buffer::writable(shadow_blocks * sizeof(ShadowBlock), "shadows");
}

void Lighting::fill_shadows(const gl::PassContext& context) {
  shadow_parts_.clear();
  shadow_blocks_.clear();
  for (std::size_t i = 0; i < shadows_.size(); ++i) {
    const ShadowView& view = *shadows_[i].view;
    for (const ShadowView::Shadowed& shadowed : view.lights()) {
      shadow_blocks_.push_back(shadowed.block);
      shadow_blocks_.back().first_part += static_cast<std::int32_t>(shadow_parts_.size());
      shadow_blocks_.back().map = static_cast<std::int32_t>(i + 1);
    }
    shadow_parts_.insert(shadow_parts_.end(), view.parts().begin(), view.parts().end());
    shadows_[i].version = view.version();
  }
  context.write(shadow_part_buffer_, 0, std::as_bytes(std::span(shadow_parts_)));
  context.write(shadow_buffer_, 0, std::as_bytes(std::span(shadow_blocks_)));
}

Lighting::ShadowUnits::ShadowUnits(const gl::Program& program, const BoundTextures& textures) {
  for (std::size_t i = 0; i < most_shadows; ++i) {
    maps[i] = textures.unit(program, shadow_slot(i));
    depths[i] = textures.unit(program, depths_slot(i));
  }
}

void Lighting::put_shadows(const gl::PassContext& context, const ShadowUnits& units, BoundTextures& into) const {
  for (std::size_t i = 0; i < shadows_.size(); ++i) {
    const std::uint32_t map = context.read(shadows_[i].read).name();
    if (units.maps[i]) into.put(*units.maps[i], map, shadow_sampler_.name());
    if (units.depths[i]) into.put(*units.depths[i], map, depth_sampler_.name());
  }
}

void Lighting::put_textures(const gl::Program& program, BoundTextures& into) const {
  if (program.interface().find_block("Lighting")) program.expect_block(LightingBlock::layout());
  if (program.interface().find_block("Lights")) program.expect_block(LightBlock::layout());
  if (program.interface().find_block("Shadows")) program.expect_block(ShadowBlock::layout());
  if (program.interface().find_block("ShadowParts")) program.expect_block(ShadowPartBlock::layout());
  into.put(program, "sky_map", environment_->sky.name(), sky_sampler_.name());
  into.put(program, "split_sum_map", split_sum_->table.name(), table_sampler_.name());
}

bool Lighting::has_one_map() const {
  if (shadows_.size() != 1 || shadows_[0].view->lights().size() != 1) return false;
  const ShadowView::Shadowed& only = shadows_[0].view->lights()[0];
  const Light* light = scene_->source().find_light(only.light);
  return light && light->is_directional() && only.block.fades == 0;
}

std::vector<std::string> Lighting::shadow_defines() const {
  if (shadows_.empty()) return {};
  std::vector<std::string> defines{fmt::format("SHADOWS {}", shadows_.size()),
                                   fmt::format("SHADOW_FILTERS {}", filters_)};
  if (bell_radii_.size() == 1) defines.push_back(fmt::format("BELL_RADIUS {}", *bell_radii_.begin()));
  if (is_few_) {
    defines.push_back(fmt::format("FEW_SHADOWS {}", most_shadow_blocks_));
    defines.push_back(fmt::format("FEW_SHADOW_PARTS {}", most_shadow_parts_));
  }
  if (has_one_map()) defines.emplace_back("ONE_MAP");
  return defines;
}

std::vector<std::string> Lighting::light_defines() const {
  std::vector<std::string> defines;
  if (is_few_) defines.push_back(fmt::format("FEW_LIGHTS {}", blocks_.size()));
  std::size_t kinds = 0;
  for (const Light* light : lights_) kinds |= std::size_t(1) << light->kind.index();
  if (kinds != 0) defines.push_back(fmt::format("LIGHT_KINDS {}", kinds));
  // So few that compilers write the loop out.
  if (lights_.size() <= 4) defines.push_back(fmt::format("LIGHT_COUNT {}", lights_.size()));
  return defines;
}

std::vector<std::string> Lighting::defines() const {
  std::vector<std::string> defines = light_defines();
  for (std::string& define : shadow_defines()) defines.push_back(std::move(define));
  if (!has_ambient_) defines.emplace_back("NO_AMBIENT");
  if (!has_environment_) defines.emplace_back("NO_ENVIRONMENT");
  defines.push_back(fmt::format("FOG_KIND {}", fog_kind_));
  return defines;
}

std::vector<std::string> Lighting::define_lines() const {
  std::vector<std::string> lines = defines();
  for (std::string& line : lines) line.insert(0, "#define ");
  return lines;
}

bool Lighting::feeds(std::string_view sampler) const {
  bool feeds = sampler == "sky_map" || sampler == "split_sum_map";
  for (std::size_t i = 0; i < shadows_.size(); ++i)
    feeds = feeds || sampler == shadow_slot(i) || (wants_depths() && sampler == depths_slot(i));
  return feeds;
}

void Lighting::bind(gl::State& state) const {
  const gl::Buffer& lighting = changed_lighting_.size() == 0 ? *lighting_ : changed_lighting_;
  state.bind_uniform_block(gl::binding::light_block, lighting.name(), 0, sizeof(LightingBlock));
  const auto bind = [&](std::uint32_t few, std::uint32_t many, const gl::Buffer& buffer) {
    if (is_few_)
      state.bind_uniform_block(few, buffer.name(), 0, static_cast<std::uint32_t>(buffer.size()));
    else
      state.bind_storage_block(many, buffer.name());
  };
  bind(gl::binding::few_lights_block, gl::binding::light_storage, light_buffer_);
  if (shadows_.empty()) return;
  bind(gl::binding::few_shadows_block, gl::binding::shadow_storage, shadow_buffer_);
  bind(gl::binding::few_shadow_parts_block, gl::binding::shadow_part_storage, shadow_part_buffer_);
}

}  // namespace periscena::draw
