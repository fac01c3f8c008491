#include "passes/shading/lighting.h"

#include <periscena/base/names.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace periscena::passes {
namespace {

constexpr int split_sum_size = 64;

Image to_image(const std::vector<Vec3>& pixels, int size) {
  Image image(size, size, Format::rgba32f);
  auto* into = reinterpret_cast<float*>(image.bytes().data());
  constexpr float largest_half = 65504;
  for (const Vec3& pixel : pixels) {
    for (int k = 0; k < 3; ++k) *into++ = std::min(pixel[k], largest_half);
    *into++ = 1;
  }
  return image;
}

gl::Texture upload_cube(const CubeImage& cube, const std::string& label) {
  gl::Texture texture({.width = cube.size,
                       .height = cube.size,
                       .format = Format::rgba16f,
                       .shape = TargetShape::cube,
                       .levels = static_cast<int>(cube.levels.size())},
                      label);
  for (int level = 0; level < static_cast<int>(cube.levels.size()); ++level) {
    for (int face = 0; face < 6; ++face) {
      const auto& pixels = cube.levels[static_cast<std::size_t>(level)][static_cast<std::size_t>(face)];
      texture.upload(to_image(pixels, cube.level_size(level)), {.level = level, .layer = face, .top_first = true});
    }
  }
  return texture;
}

gl::Texture upload_split_sum() {
  Image image(split_sum_size, split_sum_size, Format::rg32f);
  auto* into = reinterpret_cast<float*>(image.bytes().data());
  for (const Vec2& entry : split_sum_table(split_sum_size, 256)) {
    *into++ = entry.x();
    *into++ = entry.y();
  }
  gl::Texture texture(split_sum_size, split_sum_size, Format::rg32f, "split sum");
  texture.upload(image, {.top_first = true});
  return texture;
}

CubeImage black_cube() {
  CubeImage cube;
  cube.size = 1;
  cube.levels.emplace_back();
  for (auto& face : cube.levels[0]) face.push_back(Vec3::Zero());
  return cube;
}

bool has_tag(const Light& light, const std::string& tag) {
  return std::find(light.tags.begin(), light.tags.end(), tag) != light.tags.end();
}

bool is_endless(const Light& light) {
  return light.kind == Light::Kind::directional || std::isinf(light.range);
}

std::string depths_slot(std::size_t index) {
  return fmt::format("shadow_depths_{}", index + 1);
}

template <class Matches>
bool is_chosen(const LightNames& names, Matches matches) {
  return names.all() || std::any_of(names.names().begin(), names.names().end(),
                                    [&](const Reference& name) { return matches(name.name); });
}

}  // namespace

gl::BlockLayout LightingBlock::layout() {
  gl::BlockLayout layout = gl::describe_block<LightingBlock>("Lighting")
                               .member("sky", &LightingBlock::sky)
                               .member("light_count", &LightingBlock::light_count)
                               .member("ground", &LightingBlock::ground)
                               .member("fog_kind", &LightingBlock::fog_kind)
                               .member("fog_color", &LightingBlock::fog_color)
                               .member("fog_start", &LightingBlock::fog_start)
                               .member("fog_end", &LightingBlock::fog_end)
                               .member("fog_density", &LightingBlock::fog_density)
                               .member("fog_fall", &LightingBlock::fog_fall)
                               .member("fog_base", &LightingBlock::fog_base)
                               .member("sky_intensity", &LightingBlock::sky_intensity)
                               .member("sky_turn", &LightingBlock::sky_turn)
                               .member("sky_roughest", &LightingBlock::sky_roughest);
  for (std::size_t i = 0; i < 9; ++i) {
    layout.members.push_back({fmt::format("harmonics_{}", i), gl::ValueType::vec4,
                              offsetof(LightingBlock, harmonics) + i * sizeof(PackedVec4)});
  }
  return layout;
}

std::array<PackedVec4, 9> LightingBlock::no_harmonics() {
  std::array<PackedVec4, 9> none;
  none.fill(PackedVec4::Zero());
  return none;
}

void LightingBlock::set_fog(const Fog& fog) {
  fog_kind = 1 + static_cast<std::int32_t>(fog.kind);
  fog_color = fog.color;
  fog_start = fog.start;
  fog_end = fog.end;
  fog_density = fog.density;
  fog_fall = std::isinf(fog.half_height) ? 0 : std::numbers::ln2_v<float> / fog.half_height;
  fog_base = fog.base;
}

void LightingBlock::set_environment(const Environment& environment, const EnvironmentLight& light) {
  sky_intensity = environment.intensity;
  sky_turn = {std::cos(environment.rotation), std::sin(environment.rotation)};
  sky_roughest = prefiltered_levels - 1;
  for (std::size_t i = 0; i < 9; ++i) harmonics[i].head<3>() = light.irradiance[i];
}

LightBlock LightBlock::of(const Light& light, const Transform& world, std::size_t shadow) {
  LightBlock block;
  const Vec3 color = light.intensity * light.color, position = world.apply_to_point(light.position),
             direction = world.apply_to_direction(light.direction).normalized();
  block.color = {color.x(), color.y(), color.z(), static_cast<float>(light.kind)};
  block.position = {position.x(), position.y(), position.z(), std::isinf(light.range) ? 0 : 1 / light.range};
  block.direction = {direction.x(), direction.y(), direction.z(), static_cast<float>(shadow)};
  const float scale = 1 / std::max(0.001f, std::cos(light.inner_cone) - std::cos(light.outer_cone));
  block.cone = {scale, -std::cos(light.outer_cone) * scale, 0, 0};
  return block;
}

gl::BlockLayout LightBlock::layout() {
  return gl::describe_block<LightBlock>("Lights", "lights")
      .member("color", &LightBlock::color)
      .member("position", &LightBlock::position)
      .member("direction", &LightBlock::direction)
      .member("cone", &LightBlock::cone);
}

std::shared_ptr<EnvironmentTextures> EnvironmentTextures::shared(gl::PassSetup& setup, const Environment* environment,
                                                                 const std::filesystem::path& cache) {
  static const int black = 0;
  const void* key = environment ? static_cast<const void*>(environment) : &black;
  return setup.shared().get<EnvironmentTextures>(key, [&] {
    auto made = std::make_shared<EnvironmentTextures>();
    if (environment)
      made->light = light_of(*environment, cache);
    else
      made->light.specular = black_cube();
    made->sky = upload_cube(made->light.specular, environment ? environment->name : "no environment");
    made->light.specular = {};
    return made;
  });
}

std::vector<const Light*> chosen_lights(const Scene& scene, const LightNames& names) {
  std::vector<const Light*> chosen;
  for (const Light& light : scene.lights()) {
    if (is_chosen(names, [&](const std::string& name) { return name == light.name || has_tag(light, name); }))
      chosen.push_back(&light);
  }
  return chosen;
}

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

void expect_lighting(const Scene* scene, const LightingChoice& choice, const std::string& who, Diagnostics& problems) {
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

Lighting::Lighting(gl::PassSetup& setup, std::shared_ptr<SceneBuffers> scene, const LightingChoice& choice)
    : scene_(std::move(scene)),
      sky_sampler_(Filter::linear_levels, Wrap::clamp, "sky"),
      table_sampler_(Filter::linear, Wrap::clamp, "split sum") {
  LightingBlock block;
  choose(choice, block);
  const Environment* environment = scene_->scene().find_environment(choice.environment.name);
  environment_ = EnvironmentTextures::shared(setup, environment, choice.cache);
  if (environment) block.set_environment(*environment, environment_->light);
  if (const Fog* fog = scene_->scene().find_fog(choice.fog.name)) block.set_fog(*fog);
  static const int key = 0;
  split_sum_ = setup.shared().get<gl::Texture>(&key, [] { return std::make_shared<gl::Texture>(upload_split_sum()); });
  block.light_count = static_cast<std::int32_t>(lights_.size());
  lighting_ = shared_block(setup, block, "lighting");
  find_shadows(setup);
  blocks_.resize(std::max<std::size_t>(1, lights_.size()));
  light_buffer_ = gl::Buffer::writable(blocks_.size() * sizeof(LightBlock), "lights");
  fill();
  light_buffer_.write(0, std::as_bytes(std::span(blocks_)));
}

void Lighting::choose(const LightingChoice& choice, LightingBlock& block) {
  lights_ = chosen_lights(scene_->scene(), choice.lights);
  const auto first_with_end =
      std::stable_partition(lights_.begin(), lights_.end(), [](const Light* light) { return is_endless(*light); });
  endless_ = static_cast<std::size_t>(first_with_end - lights_.begin());
  follows_ = std::any_of(lights_.begin(), lights_.end(), [](const Light* light) { return light->node.valid(); });
  for (const AmbientLight& light : scene_->scene().ambient_lights()) {
    if (!is_chosen(choice.lights, [&](const std::string& name) { return name == light.name; })) continue;
    block.sky += light.sky;
    block.ground += light.ground;
  }
}

void Lighting::fill() {
  for (std::size_t i = 0; i < lights_.size(); ++i) {
    const NodeHandle node = lights_[i]->node;
    blocks_[i] = LightBlock::of(*lights_[i], node.valid() ? scene_->worlds()[node.index] : Transform::identity(),
                                shadow_numbers_[i]);
  }
}

void Lighting::update(const gl::PassContext& context) {
  if (follows_ && scene_->moved()) {
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

BoundTextures::BoundTextures(const gl::Program& program)
    : textures(program.interface().sampler_names().size()), samplers(textures.size()) {}

std::optional<std::size_t> BoundTextures::unit(const gl::Program& program, std::string_view name) const {
  if (!program.interface().find_uniform(name)) return std::nullopt;
  return static_cast<std::size_t>(program.sampler_unit(name));
}

std::optional<std::size_t> BoundTextures::put(const gl::Program& program, std::string_view name, std::uint32_t texture,
                                              std::uint32_t sampler) {
  const auto at = unit(program, name);
  if (!at) return std::nullopt;
  textures[*at] = texture;
  samplers[*at] = sampler;
  return at;
}

void Lighting::put_textures(const gl::Program& program, BoundTextures& into) const {
  if (program.interface().find_block("Lighting")) program.expect_block(LightingBlock::layout());
  if (program.interface().find_block("Lights")) program.expect_block(LightBlock::layout());
  if (program.interface().find_block("Shadows")) program.expect_block(ShadowBlock::layout());
  if (program.interface().find_block("ShadowParts")) program.expect_block(ShadowPartBlock::layout());
  into.put(program, "sky_map", environment_->sky.name(), sky_sampler_.name());
  into.put(program, "split_sum_map", split_sum_->name(), table_sampler_.name());
}

std::vector<std::string> Lighting::shadow_defines() const {
  if (shadows_.empty()) return {};
  std::vector<std::string> defines{fmt::format("SHADOWS {}", shadows_.size()),
                                   fmt::format("SHADOW_FILTERS {}", filters_)};
  if (bell_radii_.size() == 1) defines.push_back(fmt::format("BELL_RADIUS {}", *bell_radii_.begin()));
  return defines;
}

bool Lighting::feeds(std::string_view sampler) const {
  bool feeds = sampler == "sky_map" || sampler == "split_sum_map";
  for (std::size_t i = 0; i < shadows_.size(); ++i)
    feeds = feeds || sampler == shadow_slot(i) || (wants_depths() && sampler == depths_slot(i));
  return feeds;
}

void Lighting::bind(gl::State& state) const {
  state.bind_uniform_block(gl::binding::light_block, lighting_->name(), 0, sizeof(LightingBlock));
  state.bind_storage_block(gl::binding::light_storage, light_buffer_.name());
  if (shadows_.empty()) return;
  state.bind_storage_block(gl::binding::shadow_storage, shadow_buffer_.name());
  state.bind_storage_block(gl::binding::shadow_part_storage, shadow_part_buffer_.name());
}

}  // namespace periscena::passes
