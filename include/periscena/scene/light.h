#pragma once

#include <periscena/math/hierarchy.h>

#include <limits>
#include <string>
#include <vector>

namespace periscena {

/// A light that shines from one place or direction (glTF's KHR_lights_punctual).
struct Light {
  enum class Kind {
    directional,  ///< as from the sun
    point,        ///< to all sides alike
    spot,         ///< into a cone
  };
  std::string name;
  Kind kind = Kind::directional;
  Vec3 color = Vec3::ones();  ///< linear, multiplied with the intensity
  float intensity = 1;        ///< >= 0; directional: lux on a surface that faces it; else candela

  Vec3 position = Vec3::zero();     ///< of a point or spot light, metres
  Vec3 direction = Vec3(0, -1, 0);  ///< of a directional or spot light: where it shines; any length but 0

  /// Metres, > 0: from here on nothing is lit; infinite as in nature.
  float range = std::numeric_limits<float>::infinity();

  /// Of a spot light, radians from its axis: full light inside the inner cone, none outside the outer.
  /// 0 <= inner < outer <= π/2
  float inner_cone = 0, outer_cone = std::numbers::pi_v<float> / 4;

  NodeHandle node = {};  ///< position and direction are in its coordinates, and follow it; none: the world's
  std::vector<std::string> tags = {};

  bool operator==(const Light&) const = default;
};

/// Light from everywhere: one colour from above, one from below, mixed by where the surface faces.
struct AmbientLight {
  std::string name;
  Vec3 sky = Vec3::constant(0.1f);     ///< nits, linear
  Vec3 ground = Vec3::constant(0.1f);  ///< nits, linear

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

  /// Share of light that gets through, 0..1. @param eye, point  world space
  float transmittance(const Vec3& eye, const Vec3& point) const;

  bool operator==(const Fog&) const = default;
};

}  // namespace periscena
