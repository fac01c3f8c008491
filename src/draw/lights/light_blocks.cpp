#include "draw/lights/light_blocks.h"

#include <periscena/base/cases.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace periscena::draw {

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
    layout.members.push_back(
        {fmt::format("harmonics_{}", i), gl::ValueType::vec4, offsetof(LightingBlock, harmonics) + i * sizeof(Vec4)});
  }
  return layout;
}

std::array<Vec4, 9> LightingBlock::no_harmonics() {
  std::array<Vec4, 9> none;
  none.fill(Vec4::zero());
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
  for (std::size_t i = 0; i < 9; ++i) harmonics[i].set_head(light.irradiance[i]);
}

LightBlock LightBlock::of(const Light& light, const Transform& world, std::size_t shadow) {
  LightBlock block;
  block.color.set_head(light.strength() * light.color);
  block.color.w() = static_cast<float>(light.kind.index());
  const float range = light.range();
  block.position.w() = std::isinf(range) ? 0 : 1 / range;
  block.direction.w() = static_cast<float>(shadow);
  std::visit(Cases{[&](const DirectionalLight& one) { block.direction.set_head(one.direction); },
                   [&](const PointLight& one) { block.position.set_head(one.position); },
                   [&](const SpotLight& one) {
                     block.position.set_head(one.position);
                     block.direction.set_head(one.direction);
                     const float outer = std::cos(one.outer_cone);
                     const float scale = 1 / std::max(0.001f, std::cos(one.inner_cone) - outer);
                     block.cone = {scale, -outer * scale, 0, 0};
                   }},
             light.placed(world));
  return block;
}

gl::BlockLayout LightBlock::layout() {
  return gl::describe_block<LightBlock>("Lights", "lights")
      .member("color", &LightBlock::color)
      .member("position", &LightBlock::position)
      .member("direction", &LightBlock::direction)
      .member("cone", &LightBlock::cone);
}

}  // namespace periscena::draw
