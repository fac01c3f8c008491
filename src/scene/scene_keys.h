#pragma once

// The keys of things in a scene, for frame files and for what models say of their own.

#include <periscena/base/keys.h>
#include <periscena/math/vector_keys.h>
#include <periscena/scene/scene.h>

namespace periscena {

const std::vector<std::string>& choices_of(Fog::Kind);
const std::vector<std::string>& choices_of(Motion::Kind);
const std::vector<std::string>& choices_of(Material::Shading);
const std::vector<std::string>& choices_of(Material::AlphaMode);

struct LightKeys {
  std::string kind;
  Vec3 color = Vec3::ones();
  float illuminance_lux = 3, intensity_candela = 100;
  Vec3 position = Vec3::zero(), direction = Vec3(0, -1, 0);
  std::optional<float> range;
  float inner_cone_degrees = 0, outer_cone_degrees = 45;
  Reference object;
  std::vector<std::string> tags;
  Vec3 sky_nits = Vec3::constant(0.1f), ground_nits = Vec3::constant(0.1f);

  // Without names and nodes; `light` is none of an ambient one.
  static LightKeys of(const Light& light);
  static LightKeys of(const AmbientLight& light);
  Light light() const;
};

const Keys<LightKeys>& light_keys();

const Keys<Fog>& fog_keys();

struct MotionKeys {
  Motion::Kind kind = Motion::Kind::swing;
  Vec3 axis = Vec3::unit_y(), pivot = Vec3::zero();
  double from_degrees = 0, to_degrees = 0;  ///< so that a motion that is written is read back equal
  float from_metres = 0, to_metres = 0, period_seconds = 1, phase = 0, hold_from = 0, hold_to = 0;

  static MotionKeys of(const Motion& motion);
  Motion motion() const;
};

const Keys<MotionKeys>& motion_keys();

/// A material, with what has other words in files.
struct MaterialKeys : Material {
  Reference surface_file;

  static MaterialKeys of(const Material& material);
};

const Keys<MaterialKeys>& material_keys();

}  // namespace periscena
