#pragma once

#include <periscena/gl/block_layout.h>
#include <periscena/gl/pass_work.h>
#include <periscena/math/tiles.h>
#include <periscena/scene/scene.h>

namespace periscena::draw {

inline constexpr std::size_t most_shadows = 4;  ///< that a lit pass takes

/// What a lit pass' program calls one of its shadow maps: "shadow_map_1" for 0.
std::string shadow_slot(std::size_t index);

/// By node of a scene: does it cast a shadow, where a map is of these objects?
std::vector<bool> casters_of(const Scene& scene, const ObjectChoice& objects);

/// How a light's map is looked up: an element of the storage block Shadows, std430; see shadow_lookup.glsl.
struct ShadowBlock {
  std::int32_t first_part = 0;
  std::int32_t part_count = 0;
  std::int32_t map = 0;
  std::int32_t filtering = 0;
  float radius = 0;
  float lift = -1;
  float bias = 0;
  float slope_bias = 0;
  float fades = 0;
  std::int32_t all_round = 0;
  float light_size = 0;
  float unused = 0;  ///< so that it takes as much room in a block of uniforms

  static ShadowBlock of(const ShadowFacts& facts);
  static gl::BlockLayout layout();
};

/// Where one part of a map is looked from: an element of the storage block ShadowParts, std430.
struct ShadowPartBlock {
  Mat4 to_map = Mat4::identity();  ///< world to texture coordinates and depth
  Vec4 tile = Vec4(0, 0, 1, 1);    ///< texture coordinates of its corner, and its width and height
  float texel = 0;                 ///< metres, where w is 1
  float layer = 0;
  float near = 0, far = 1;           ///< metres from the light
  Vec4 over_squares = Vec4::zero();  ///< of a far light: 1 over the squared length of each row of to_map, but the last

  static gl::BlockLayout layout();
};

/// Is a light's map six views to all sides?
bool looks_all_round(const Light& light);

/// Where lights look from in the frame that is drawn: the pass that draws their maps says it, those that read them ask.
class ShadowView {
 public:
  /// One light of the map.
  struct Shadowed {
    std::string light;
    ShadowBlock block;  ///< its parts counted among those of the view; none: it casts no shadows in this frame
    std::size_t first_part, part_count;  ///< that it may have
  };

  /// Of the shadow map that was planned to be drawn into a target, made by the first pass of a runner that asks.
  static std::shared_ptr<ShadowView> of_target(const gl::PassSetup& setup, std::uint32_t target);
  static std::shared_ptr<ShadowView> of_pass(const gl::PassSetup& setup, const std::shared_ptr<const Pass>& declared);

  explicit ShadowView(const ShadowFacts& facts);

  /// What a part is drawn through. @param width, height  of the map, pixels; @param tile  the square of it that it is
  /// drawn into
  void look_through(std::size_t part, const Camera& camera, int width, int height, const Tile& tile);

  /// The same of a part that is all of a layer.
  void look_through(std::size_t layer, const Camera& camera, int width, int height);

  /// From now on, a light has a map or none.
  void cast(std::size_t light, bool casts);

  const std::vector<Shadowed>& lights() const { return lights_; }
  const Camera& camera(std::size_t part) const { return cameras_[part]; }
  std::span<const Camera> cameras() const { return cameras_; }  ///< by part
  std::span<const ShadowPartBlock> parts() const { return parts_; }
  std::uint64_t version() const { return version_; }  ///< counts its changes

 private:
  void look_through(std::size_t part, const Camera& camera, float aspect, const Vec4& tile, int layer, int rows);

  std::vector<Shadowed> lights_;
  std::vector<Camera> cameras_;  ///< by part
  std::vector<ShadowPartBlock> parts_;
  std::uint64_t version_ = 0;
};

}  // namespace periscena::draw
