#pragma once

#include <periscena/math/hierarchy.h>

#include <limits>
#include <string>
#include <variant>
#include <vector>

namespace periscena {

/// From so far away that its rays are parallel, as from the sun.
struct DirectionalLight {
  float illuminance = 1;            ///< lux on a surface that faces it, >= 0
  Vec3 direction = Vec3(0, -1, 0);  ///< where it shines; any length but 0

  bool operator==(const DirectionalLight&) const = default;
};

/// To all sides alike.
struct PointLight {
  float intensity = 1;           ///< candela, >= 0
  Vec3 position = Vec3::zero();  ///< metres

  /// Metres, > 0: from here on nothing is lit; infinite as in nature.
  float range = std::numeric_limits<float>::infinity();

  bool operator==(const PointLight&) const = default;
};

/// Into a cone.
struct SpotLight {
  float intensity = 1;                                   ///< candela along its axis, >= 0
  Vec3 position = Vec3::zero();                          ///< metres
  Vec3 direction = Vec3(0, -1, 0);                       ///< where it shines; any length but 0
  float range = std::numeric_limits<float>::infinity();  ///< as of a PointLight

  /// Radians from its axis: full light inside the inner cone, none outside the outer. 0 <= inner < outer <= π/2
  float inner_cone = 0, outer_cone = std::numbers::pi_v<float> / 4;

  /// Is it too wide for one picture? Its shadow map then has six, as that of a PointLight.
  bool looks_all_round() const { return outer_cone > radians(75); }

  bool operator==(const SpotLight&) const = default;
};

/// The kinds of lights. The number of one is what GLSL knows it by (light_kind in lights.glsl).
using LightKind = std::variant<DirectionalLight, PointLight, SpotLight>;

/// A light that shines from one place or direction (glTF's KHR_lights_punctual).
struct Light {
  std::string name;
  LightKind kind = {};
  Vec3 color = Vec3::ones();  ///< linear, multiplied with the illuminance or intensity
  NodeHandle node = {};       ///< position and direction are in its coordinates, and follow it; none: the world's
  std::vector<std::string> tags = {};

  bool is_directional() const { return std::holds_alternative<DirectionalLight>(kind); }
  const SpotLight* spot() const { return std::get_if<SpotLight>(&kind); }

  float strength() const;  ///< lux of a directional light, candela of others
  float range() const;     ///< metres; infinite for a directional light

  /// From a point to the light, metres; of a directional light against its direction, as long as that is.
  /// @param point  in the light's coordinates
  Vec3 way_from(const Vec3& point) const;

  /// Is a point within the outer cone of a spot light? Of other lights, always.
  /// @param point  in the light's coordinates
  bool has_in_cone(const Vec3& point) const;

  /// What it is in the world, where its node is placed so; directions are 1 long.
  LightKind placed(const Transform& world) const;

  /// @throws Mistake "not-finite", "bad-light"
  void expect_sound(const Place& place) const;

  bool operator==(const Light&) const = default;
};

/// Light from everywhere: one colour from above, one from below, mixed by where the surface faces.
struct AmbientLight {
  std::string name;
  Vec3 sky = Vec3::constant(0.1f);     ///< nits, linear
  Vec3 ground = Vec3::constant(0.1f);  ///< nits, linear

  /// @throws Mistake "not-finite"
  void expect_sound(const Place& place) const;

  bool operator==(const AmbientLight&) const = default;
};

/// How a light fades with distance: the inverse square, brought to 0 at the range (KHR_lights_punctual).
/// @param metres  > 0; @return candela to lux, 1/m²
float light_falloff(float metres, float range);

/// How a spot light fades from its inner to its outer cone (KHR_lights_punctual). @param cosine  of the angle to its
/// axis
float spot_falloff(float cosine, float inner_cone, float outer_cone);

/// Air between the eye and what it sees, in linear light.
struct Fog {
  enum class Kind {
    linear,               ///< none nearer than `start`, nothing else from `end` on
    exponential,          ///< e^(−density · distance) gets through (Beer and Lambert)
    exponential_squared,  ///< e^(−(density · distance)²) gets through
  };
  std::string name;
  Kind kind = Kind::exponential;
  Vec3 color = Vec3::constant(0.5f);  ///< nits, linear
  float start = 0, end = 100;         ///< metres, of linear
  float density = 0.01f;              ///< 1/m, >= 0, of the others

  /// Half the density with each so many metres upward from `base`, of exponential; infinite: the same everywhere.
  float half_height = std::numeric_limits<float>::infinity();
  float base = 0;  ///< metres above the origin, where the density is `density`

  /// @throws Mistake "not-finite", "bad-fog"
  void expect_sound(const Place& place) const;

  /// Share of light that gets through, 0..1. @param eye, point  world space
  float transmittance(const Vec3& eye, const Vec3& point) const;

  bool operator==(const Fog&) const = default;
};

}  // namespace periscena
