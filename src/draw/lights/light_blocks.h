#pragma once

#include <periscena/gl/block_layout.h>
#include <periscena/scene/environment.h>
#include <periscena/scene/light.h>

#include <array>

namespace periscena::draw {

/// The Lighting block of lighting.glsl, std140.
struct LightingBlock {
  Vec3 sky = Vec3::zero();
  std::int32_t light_count = 0;
  Vec3 ground = Vec3::zero();
  std::int32_t fog_kind = 0;
  Vec3 fog_color = Vec3::zero();
  float fog_start = 0;
  float fog_end = 0;
  float fog_density = 0;
  float fog_fall = 0;
  float fog_base = 0;
  float sky_intensity = 0;
  float padding0 = 0;
  Vec2 sky_turn = Vec2(1, 0);
  float sky_roughest = 0;
  float padding1[3] = {};
  std::array<Vec4, 9> harmonics = no_harmonics();

  void set_fog(const Fog& fog);
  void set_environment(const Environment& environment, const EnvironmentLight& light);
  static gl::BlockLayout layout();

 private:
  static std::array<Vec4, 9> no_harmonics();
};

/// One light as shaders see it: an element of the storage block Lights, std430.
struct LightBlock {
  Vec4 color = Vec4::zero();
  Vec4 position = Vec4::zero();
  Vec4 direction = Vec4::zero();
  Vec4 cone = Vec4::zero();

  /// @param world  of the node that it follows
  /// @param shadow  number of its shadow, from 1; 0 for none
  static LightBlock of(const Light& light, const Transform& world, std::size_t shadow = 0);
  static gl::BlockLayout layout();
};

}  // namespace periscena::draw
