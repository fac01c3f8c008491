#pragma once

// The blocks that programs which draw a scene read, as they lie in memory.

#include "draw/scene/material_textures.h"

#include <periscena/gl/block_layout.h>
#include <periscena/math/projection.h>

namespace periscena::draw {

/// Of rgba32ui, as which vertex programs read some of what follows.
inline constexpr std::size_t texel_bytes = 16;

/// The Camera block of camera.glsl, std140.
struct CameraBlock {
  Mat4 view = Mat4::identity();
  Mat4 projection = Mat4::identity();
  Mat4 view_projection = Mat4::identity();
  Mat4 inverse_view_projection = Mat4::identity();
  Vec3 eye = Vec3::zero();
  float near = 0;
  float far = 0;
  float padding[3] = {};
  Vec4 towards_eye = Vec4(0, 0, 0, 1);  ///< the eye and 1; of a parallel view the way to it, length 1, and 0

  /// Multiplied once, here. @param aspect  width by height of the pass' targets
  static CameraBlock of(const Camera& camera, float aspect);

  /// Shifts all that is seen. @param by  in clip space, which is 2 wide
  void shift(const Vec2& by);
  static gl::BlockLayout layout();
};

/// One node as vertex programs see it: an element of the storage block Objects, std430.
struct ObjectBlock {
  static constexpr std::uint32_t none = 0x7FFFFFFF;  ///< no difference of two counts

  Vec3 x = Vec3::unit_x();      ///< columns of the linear part of its world transform
  std::uint32_t colors = none;  ///< index of the mesh's first colour, less that of its first vertex
  Vec3 y = Vec3::unit_y();
  std::uint32_t second_uv = none;  ///< the same for its second texture coordinates
  Vec3 z = Vec3::unit_z();
  std::uint32_t padding = 0;
  Vec3 origin = Vec3::zero();
  std::uint32_t more_padding = 0;

  void place(const Transform& world);

  static gl::BlockLayout layout();
};

/// A node's bounds as programs see them that cull: an element of the storage block BoundsOfNodes, std430.
struct BoundsBlock {
  Vec4 middle = Vec4::zero();     ///< w: 1 when they are not finite
  Vec4 half_size = Vec4::zero();  ///< negative when there is nothing

  static gl::BlockLayout layout();
};

/// A map as shaders see it: rows of the matrix from texture coordinates to the image; w: layer, and set.
struct MapBlock {
  Vec4 u = Vec4(1, 0, 0, 0), v = Vec4(0, 1, 0, 0);
  std::uint32_t handle[2] = {};  ///< low word first; 0 when the map is bound
  std::uint32_t padding[2] = {};
};

/// One material: an element of the storage block Materials, std430.
struct MaterialBlock {
  Vec4 base_color = Vec4::ones();
  Vec4 emission = Vec4::zero();
  Vec4 specular = Vec4::zero();
  Vec4 factors = Vec4::zero();
  std::int32_t numbers[4] = {};
  MapBlock maps[map_count];

  static gl::BlockLayout layout();
};
// As surface.vert counts them.
static_assert(sizeof(ObjectBlock) == 4 * texel_bytes && sizeof(MaterialBlock) % texel_bytes == 0);
static_assert(offsetof(MaterialBlock, emission) == texel_bytes &&
              offsetof(MaterialBlock, specular) == 2 * texel_bytes &&
              offsetof(MaterialBlock, factors) == 3 * texel_bytes &&
              offsetof(MaterialBlock, numbers) == 4 * texel_bytes && offsetof(MaterialBlock, maps) == 5 * texel_bytes &&
              sizeof(MapBlock) == 3 * texel_bytes);

}  // namespace periscena::draw
