#pragma once

#include <periscena/math/projection.h>
#include <periscena/scene/ray_tree.h>

#include <functional>
#include <optional>
#include <span>
#include <vector>

namespace periscena {

/// A light as it stands at some time, world space.
struct PlacedLight {
  Light light;  ///< position and direction are in the world
  /// Half the angle that a directional light is wide, radians; the radius of a spot or point light, metres. 0: edges of
  /// its shadows are sharp.
  float size = 0;
  float near = 0;  ///< metres: what is nearer to a spot or point light lets its light through

  static PlacedLight of(const Scene& scene, const Light& light, double seconds);
};

/// Something that a pixel's middle shows.
struct SeenPoint {
  int x = 0, y = 0;              ///< pixel, from the upper left
  Vec3 position = Vec3::zero();  ///< world space
  Vec3 normal = Vec3::unit_z();  ///< of its triangle, length 1, on the viewer's side
  float distance = 0;            ///< along the view, metres
};

/// How light comes to a point.
struct LightAt {
  /// Is the point in the light's range and cone, and does it face the light by more than a degree?
  bool reaches = false;
  bool lit = false;    ///< does the middle of the light get there?
  bool clear = false;  ///< is that so for all around, as far as was asked?
  float blocker = 0;   ///< where it is dark: metres along the light to the nearest thing in its way
  float share = 0;     ///< of the light's area that gets there, 0..1
};

/// Rays through a scene: what pictures of shadows are measured against. Masked materials have their holes, by their
/// textures without filtering; GLSL of their own is not asked.
class ShadowRays {
 public:
  /// @param seen, casters  by node: can it be seen? does it cast shadows?
  /// @param seen_in, cast_in  what materials have holes there
  ShadowRays(const Scene& scene, double seconds, const std::vector<bool>& seen, const std::vector<bool>& casters,
             const Variant* seen_in = nullptr, const Variant* cast_in = nullptr);

  /// What the middle of every `step`th pixel of every `step`th row shows; pixels that show nothing are left out.
  /// @param width, height  of the picture, pixels
  std::vector<SeenPoint> look(const Camera& camera, int width, int height, int step = 1) const;

  /// @param away  metres, across the light, that is looked for a change between light and dark
  /// @param lifted  metres that the picture lifts points off their surfaces: steps no higher than that are looked over
  LightAt light_at(const SeenPoint& point, const PlacedLight& light, float away, float lifted = 0) const;

 private:
  struct Side {
    RayTree tree;
    std::vector<TriangleSource> sources;
    std::vector<MaterialHandle> materials;  ///< by node
  };

  Side side(double seconds, const std::vector<bool>& chosen, const Variant* variant) const;
  bool stops(const Side& side, const RayHit& hit) const;
  std::optional<float> way_blocked(const Vec3& position, const Vec3& to_light, float distance, float from = 0) const;

  const Scene& scene_;
  bool any_masked_ = false;
  Side seen_, casters_;
};

/// What a picture of shadows says of a point.
struct MeasuredShadow {
  float lit = 1;    ///< share of light that gets past, 0..1
  float texel = 1;  ///< metres that a texel of the map is wide there
};

/// How a picture of shadows differs from the truth. Shares are of all points that the light reaches and that lie away
/// from edges.
struct ShadowErrors {
  std::size_t lit = 0, dark = 0;  ///< such points, by what is true
  double leaks = 0;               ///< dark, and shown lit by more than a twentieth
  double stripes = 0;             ///< lit, and shown dark by more than a twentieth
  /// How far a shadow is from what casts it: the greatest way along the light from a point that is dark, and shown more
  /// lit than not, to what darkens it; the greatest thousandth of dark points left out.
  float detachment = 0;         ///< metres
  float detachment_texels = 0;  ///< the greatest in texels
  std::size_t edges = 0;        ///< points near edges
  /// Root of the mean square, over all points, of how far shares of light near edges are from the truth of a light of
  /// that size: of steps, of blur and of noise alike.
  double jaggedness = 0;

  std::size_t points() const { return lit + dark; }
};

/// Compares a picture of one light's shadows with the truth, on all cores.
/// @param measured  by point; where it has nothing to say, the point does not count
/// @param away  texels, across the light: points that are nearer to an edge of the true shadow are edges. As far as the
/// filter reaches, with the four texels that a comparison takes in, and the lift that keeps planes from shadowing
/// themselves
/// @param lifted  texels of that lift, at most
ShadowErrors compare_shadows(const ShadowRays& rays, std::span<const SeenPoint> points, const PlacedLight& light,
                             std::span<const std::optional<MeasuredShadow>> measured, float away, float lifted = 0);

}  // namespace periscena
