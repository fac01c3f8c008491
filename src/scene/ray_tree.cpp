#include <periscena/scene/ray_tree.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace periscena {
namespace {

constexpr std::size_t leaf_size = 4, bin_count = 16;
constexpr int deepest = 60;  // so that a walk's stack has an end

float half_area(const Box& box) {
  if (box.empty()) return 0;
  const Vec3 size = box.size();
  return size.x() * size.y() + size.y() * size.z() + size.z() * size.x();
}

/// @return false when they do not meet
bool meet(const Ray& ray, const Triangle& triangle, RayHit& hit) {
  using Vec = DoubleVec3;
  const Vec a = triangle.a.cast<double>(), along = ray.direction.cast<double>(), from = ray.origin.cast<double>() - a;
  const Vec ab = triangle.b.cast<double>() - a, ac = triangle.c.cast<double>() - a;
  const Vec p = along.cross(ac);
  const double determinant = ab.dot(p);
  if (!(determinant != 0)) return false;
  const double second = from.dot(p) / determinant;
  if (!(second >= 0 && second <= 1)) return false;
  const Vec q = from.cross(ab);
  const double third = along.dot(q) / determinant;
  if (!(third >= 0 && second + third <= 1)) return false;
  const auto distance = static_cast<float>(ac.dot(q) / determinant);
  if (!(distance >= ray.nearest && distance <= ray.farthest)) return false;
  hit.distance = distance;
  hit.second = static_cast<float>(second);
  hit.third = static_cast<float>(third);
  return true;
}

/// Distance to where a ray enters a box; infinite when it does not. Rounding never loses a box: its way out is pushed
/// by four roundings (Ize, "Robust BVH Ray Traversal", JCGT 2(2), 2013).
float entry(const Ray& ray, const Vec3& inverse, const Box& box) {
  float enter = ray.nearest, leave = ray.farthest;
  for (int axis = 0; axis < 3; ++axis) {
    float low = (box.min[axis] - ray.origin[axis]) * inverse[axis];
    float high = (box.max[axis] - ray.origin[axis]) * inverse[axis];
    if (low > high) std::swap(low, high);
    // 0 times infinity: the ray runs in the box' side, and neither bound says anything.
    if (low > enter) enter = low;
    if (high * (1 + 4 * std::numeric_limits<float>::epsilon()) < leave)
      leave = high * (1 + 4 * std::numeric_limits<float>::epsilon());
  }
  return enter <= leave ? enter : std::numeric_limits<float>::infinity();
}

}  // namespace

struct RayTree::Piece {
  Box box;
  Vec3 middle;
  std::uint32_t triangle;
};

RayTree::RayTree(std::vector<Triangle> triangles) : triangles_(std::move(triangles)) {
  std::vector<Piece> pieces;
  for (std::uint32_t i = 0; i < triangles_.size(); ++i) {
    const Triangle& t = triangles_[i];
    if (!t.a.is_finite() || !t.b.is_finite() || !t.c.is_finite()) continue;
    Piece piece{Box::around(std::array{t.a, t.b, t.c}), Vec3::zero(), i};
    piece.middle = piece.box.center();
    pieces.push_back(piece);
  }
  if (pieces.empty()) return;
  nodes_.reserve(pieces.size());
  order_.reserve(pieces.size());
  build(pieces, 0, 0);
}

void RayTree::build(std::span<Piece> pieces, std::uint32_t first, int depth) {
  const std::size_t number = nodes_.size();
  nodes_.emplace_back();
  Box box, middles;
  for (const Piece& piece : pieces) {
    box.include(piece.box);
    middles.include(piece.middle);
  }
  nodes_[number].box = box;
  const int axis = middles.size().largest_axis();
  const float extent = middles.size()[axis];
  if (pieces.size() <= leaf_size || !(extent > 0) || depth == deepest) {
    nodes_[number].first = first;
    nodes_[number].count = static_cast<std::uint32_t>(pieces.size());
    for (const Piece& piece : pieces) order_.push_back(piece.triangle);
    return;
  }
  const auto bin_of = [&](const Piece& piece) {
    const float share = (piece.middle[axis] - middles.min[axis]) / extent;
    return std::min(bin_count - 1, static_cast<std::size_t>(share * static_cast<float>(bin_count)));
  };
  struct Bin {
    Box box;
    std::size_t count = 0;
  };
  std::array<Bin, bin_count> bins;
  for (const Piece& piece : pieces) {
    Bin& bin = bins[bin_of(piece)];
    bin.box.include(piece.box);
    ++bin.count;
  }
  std::array<float, bin_count> before{};  // cost of all bins before a cut
  Box sum;
  std::size_t count = 0;
  for (std::size_t cut = 1; cut < bin_count; ++cut) {
    sum.include(bins[cut - 1].box);
    count += bins[cut - 1].count;
    before[cut] = half_area(sum) * static_cast<float>(count);
  }
  sum = {};
  count = 0;
  std::size_t best = bin_count / 2;
  float least = std::numeric_limits<float>::infinity();
  for (std::size_t cut = bin_count - 1; cut > 0; --cut) {
    sum.include(bins[cut].box);
    count += bins[cut].count;
    const float cost = before[cut] + half_area(sum) * static_cast<float>(count);
    if (count > 0 && count < pieces.size() && cost < least) least = cost, best = cut;
  }
  const auto middle =
      std::partition(pieces.begin(), pieces.end(), [&](const Piece& piece) { return bin_of(piece) < best; });
  auto left = static_cast<std::size_t>(middle - pieces.begin());
  if (left == 0 || left == pieces.size()) left = pieces.size() / 2;
  build(pieces.first(left), first, depth + 1);
  nodes_[number].second = static_cast<std::uint32_t>(nodes_.size());
  build(pieces.subspan(left), first + static_cast<std::uint32_t>(left), depth + 1);
}

/// @param visit  of a triangle's number: how far the ray reaches from now on; negative ends the walk
template <class Visit>
void RayTree::walk(const Ray& ray, const Visit& visit) const {
  if (nodes_.empty()) return;
  const Vec3 inverse = Vec3::ones().over(ray.direction);
  Ray left = ray;
  std::array<std::uint32_t, deepest + 2> stack;
  std::size_t size = 0;
  stack[size++] = 0;
  while (size > 0) {
    const std::uint32_t number = stack[--size];
    const Node& node = nodes_[number];
    if (std::isinf(entry(left, inverse, node.box))) continue;
    if (node.second == 0) {
      for (std::uint32_t i = node.first; i < node.first + node.count; ++i) {
        left.farthest = visit(left, order_[i]);
        if (left.farthest < 0) return;
      }
      continue;
    }
    // The nearer one on top.
    const bool swapped = entry(left, inverse, nodes_[node.second].box) < entry(left, inverse, nodes_[number + 1].box);
    stack[size++] = swapped ? number + 1 : node.second;
    stack[size++] = swapped ? node.second : number + 1;
  }
}

std::optional<RayHit> RayTree::nearest(const Ray& ray) const {
  std::optional<RayHit> found;
  walk(ray, [&](const Ray& left, std::uint32_t triangle) {
    RayHit hit;
    if (!meet(left, triangles_[triangle], hit)) return left.farthest;
    hit.triangle = triangle;
    if (found && hit.distance == found->distance && found->triangle < triangle) return left.farthest;
    found = hit;
    return hit.distance;
  });
  return found;
}

bool RayTree::blocked(const Ray& ray, const Blocks& blocks) const {
  bool found = false;
  walk(ray, [&](const Ray& left, std::uint32_t triangle) {
    RayHit hit;
    if (!meet(left, triangles_[triangle], hit)) return left.farthest;
    hit.triangle = triangle;
    found = !blocks || blocks(hit);
    return found ? -1.0f : left.farthest;
  });
  return found;
}

std::vector<Triangle> world_triangles(const Scene& scene, double seconds, const std::vector<bool>& chosen,
                                      std::vector<TriangleSource>* sources) {
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  scene.world_transforms(seconds, worlds);
  std::vector<Triangle> triangles;
  for (std::uint32_t i = 0; i < worlds.size(); ++i) {
    const MeshHandle handle = scene.nodes()[i].mesh;
    if (!handle.valid() || (!chosen.empty() && !chosen[i])) continue;
    const Mesh& mesh = scene.meshes()[handle.index];
    if (mesh.primitive != Primitive::triangles) continue;
    const auto corner = [&](std::size_t k) { return worlds[i].apply_to_point(mesh.positions[mesh.indices[k]]); };
    for (std::uint32_t t = 0; t < mesh.triangle_count(); ++t) {
      triangles.push_back({corner(3 * t), corner(3 * t + 1), corner(3 * t + 2)});
      if (sources) sources->push_back({i, t});
    }
  }
  return triangles;
}

}  // namespace periscena
