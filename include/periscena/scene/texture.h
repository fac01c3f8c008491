#pragma once

#include <periscena/base/handle.h>
#include <periscena/image/image.h>
#include <periscena/image/sampling.h>
#include <periscena/math/vector.h>

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace periscena {

using TextureHandle = Handle<struct TextureKind>;

/// What the numbers of a texture are.
enum class TextureHolds {
  color,  ///< for looking at; 8-bit images are decoded from sRGB by the hardware
  data,   ///< normals, roughness, …: taken as they are
};

/// An image to put on surfaces, and how it is looked up.
struct Texture {
  std::string name = {};
  std::shared_ptr<const Image> image = {};  ///< 8-bit RGBA or floats, row 0 at the top
  TextureHolds holds = TextureHolds::color;
  Sampling sampling = {.anisotropy = 8};

  /// Width and height of the image on surfaces whose texture coordinates are metres; without it, coordinates count
  /// whole images.
  std::optional<Vec2> metres_per_tile = {};

  bool operator==(const Texture&) const;

  /// Do both have the same size, kind of numbers and sampling, so that the pixels of one can replace those of the
  /// other?
  bool has_shape_of(const Texture& other) const;
};

/// A texture on a material: which, and which part of it lies where.
struct TextureUse {
  TextureHandle texture = {};
  int uv_set = 0;              ///< 0: Mesh::uv, 1: Mesh::second_uv
  Vec2 offset = Vec2::zero();  ///< applied last (glTF's KHR_texture_transform)
  float rotation = 0;          ///< radians, counter-clockwise as the image is looked at, about its upper left; second
  Vec2 scale = Vec2::ones();   ///< first

  bool valid() const { return texture.valid(); }
  bool operator==(const TextureUse&) const = default;
};

/// Takes texture coordinates, with a third of 1, to the image: 0..1 over it, v from its upper edge down.
Matrix<float, 2, 3> texture_matrix(const TextureUse& use, const std::vector<Texture>& textures);

}  // namespace periscena
