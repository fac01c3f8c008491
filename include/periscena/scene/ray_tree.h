#pragma once

#include <periscena/math/bounds.h>
#include <periscena/scene/scene.h>

#include <functional>
#include <optional>
#include <span>
#include <vector>

namespace periscena {

/// Half a line, or a part of it. The direction's length is the unit of distances.
struct Ray {
  Vec3 origin = Vec3::zero();
  Vec3 direction = Vec3(0, 0, -1);  ///< any length but 0
  float nearest = 0;                ///< hits before that do not count
  float farthest = std::numeric_limits<float>::infinity();
};

/// Where a ray meets a triangle.
struct RayHit {
  float distance = 0;
  std::uint32_t triangle = 0;   ///< its number
  float second = 0, third = 0;  ///< weights of the triangle's second and third corner; the first has the rest

  bool operator==(const RayHit&) const = default;
};

struct Triangle {
  Vec3 a, b, c;
};

/// Where one of a scene's triangles comes from.
struct TriangleSource {
  std::uint32_t node, triangle;  ///< of the scene; of the node's mesh
};

/// Triangles sorted into a tree of boxes, so that a ray meets few of them: the truth that pictures of shadows are
/// measured against. Both sides count.
///
/// Built by the surface area heuristic over 16 bins along the longest axis of the middles (Wald, "On fast Construction
/// of SAH-based Bounding Volume Hierarchies", 2007); triangles are met by Möller and Trumbore's test ("Fast, Minimum
/// Storage Ray/Triangle Intersection", 1997), in double precision. Triangles without area, or with corners that are not
/// finite, are never met. Safe to ask from many threads.
class RayTree {
 public:
  RayTree() = default;
  explicit RayTree(std::vector<Triangle> triangles);

  /// The nearest triangle that a ray meets; of equally near ones, that of the lowest number.
  std::optional<RayHit> nearest(const Ray& ray) const;

  /// Which triangles count: those with holes may let a ray through.
  using Blocks = std::function<bool(const RayHit&)>;

  /// Is anything in a ray's way? @param blocks  empty: all triangles do
  bool blocked(const Ray& ray, const Blocks& blocks = {}) const;

  std::span<const Triangle> triangles() const { return triangles_; }

 private:
  /// A box with two boxes in it, the first right behind it, or with triangles.
  struct Node {
    Box box;
    std::uint32_t second = 0;            ///< the other box in it; 0 when it holds triangles
    std::uint32_t first = 0, count = 0;  ///< of order_
  };
  struct Piece;

  void build(std::span<Piece> pieces, std::uint32_t first, int depth);
  template <class Visit>
  void walk(const Ray& ray, const Visit& visit) const;

  std::vector<Triangle> triangles_;
  std::vector<Node> nodes_;
  std::vector<std::uint32_t> order_;  ///< numbers of triangles, by leaf
};

/// A scene's triangles where they are at a time.
/// @param chosen  by node: is it in? empty: all are
/// @param sources  filled with where each comes from; null: nobody wants to know
std::vector<Triangle> world_triangles(const Scene& scene, double seconds, const std::vector<bool>& chosen = {},
                                      std::vector<TriangleSource>* sources = nullptr);

}  // namespace periscena
