#pragma once

#include <periscena/image/image.h>
#include <periscena/math/transform.h>
#include <periscena/scene/default_cache.h>

#include <array>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace periscena {

/// Light from all around, far away: a sky.
struct Environment {
  std::string name;
  /// One image: a panorama, twice as wide as high, its middle towards −Z, its upper edge towards +Y. Six: the faces +x,
  /// −x, +y, −y, +z, −z of a cube as OpenGL lays them out (OpenGL 4.5, table 8.19), rows from the top. Floats, linear.
  std::vector<std::shared_ptr<const Image>> images;
  float rotation = 0;   ///< radians about +Y, counter-clockwise seen from above
  float intensity = 1;  ///< nits for a pixel of 1, >= 0

  /// @throws Mistake "bad-environment": another number of images, other formats, faces that are no equal squares
  void expect_sound(Place place = Place::here()) const;

  bool operator==(const Environment&) const;
};

/// A panorama of a cloudless sky: from the zenith's colour to the horizon's, and below it the ground's.
/// @param zenith, horizon, ground  linear, of any unit, finite and >= 0 @throws Mistake "bad-environment"
std::shared_ptr<const Image> gradient_sky(const Vec3& zenith, const Vec3& horizon, const Vec3& ground,
                                          Place place = Place::here());

/// A cube of floats with mip levels.
struct CubeImage {
  int size = 0;                                          ///< pixels along an edge of level 0, a power of two
  std::vector<std::array<std::vector<Vec3>, 6>> levels;  ///< by level, by face: rows as OpenGL lays them out

  int level_size(int level) const { return std::max(1, size >> level); }

  /// Linear in the level's face, clamped to it. @param direction  any length but 0
  Vec3 at(const Vec3& direction, int level) const;
};

/// Where the middle of a texel looks, length 1 (OpenGL 4.5, table 8.19). @param face  0..5: +x, −x, +y, −y, +z, −z
Vec3 cube_direction(int face, float s, float t);

/// The environment's images as a cube whose levels are plain averages, by solid angle. @param size  of level 0; 0: as
/// sharp as the images, 32 to 1024. @throws as expect_sound
CubeImage to_cube(const Environment& environment, int size = 0);

/// Irradiance over π for a surface that faces n: nine coefficients a for the real spherical harmonics of order 2, for
/// evaluate_harmonics. The cosine lobe's own coefficients, π, 2π/3, π/4 over π, are in them.
/// @see Ramamoorthi and Hanrahan, "An Efficient Representation for Irradiance Environment Maps", SIGGRAPH 2001
std::array<Vec3, 9> irradiance_harmonics(const CubeImage& cube);

/// The real spherical harmonics up to order 2. @param direction  length 1
std::array<float, 9> harmonics(const Vec3& direction);

/// @param direction  length 1
Vec3 evaluate_harmonics(const std::array<Vec3, 9>& coefficients, const Vec3& direction);

/// How many levels a prefiltered cube has; its level k is for roughness k / (prefiltered_levels − 1).
inline constexpr int prefiltered_levels = 6;

/// Level 0 as it is; level k is what a surface of that roughness sends back towards a viewer straight above it: the
/// mean of the light, weighted by GGX's lobe and the cosine. A constant sky stays as it is.
/// @see Karis, in "Physically Based Shading in Theory and Practice", SIGGRAPH 2013 course notes (split sum)
CubeImage prefilter(const CubeImage& cube);

/// The other half of the split sum: a table of size × size, x: cosine between normal and view, y: roughness (both at
/// the texels' middles); it gives (a, b) so that a surface sends back f0 · a + b of a white sky.
/// @see Karis, as above
std::vector<Vec2> split_sum_table(int size, int samples = 1024);

/// What passes need of an environment.
struct EnvironmentLight {
  CubeImage specular;  ///< prefiltered; its level 0 is the sky itself
  std::array<Vec3, 9> irradiance;
};

/// Computes it, or takes it from the cache, where it lies under the hash of the images. A cache that can't be read or
/// written is passed over.
/// @param cache  a folder; empty: no cache
EnvironmentLight light_of(const Environment& environment, const std::filesystem::path& cache = {});

}  // namespace periscena
