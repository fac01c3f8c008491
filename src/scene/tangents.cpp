#include <periscena/base/hash.h>
#include <periscena/scene/mesh.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <unordered_map>

namespace periscena {
namespace {

/// A mesh taken apart and put together again: corner i of the new mesh is corner from[i] of the old one.
template <class T>
Stream<T> picked(const Stream<T>& values, std::span<const std::uint32_t> from) {
  if (values.empty()) return {};
  std::vector<T> picked;
  picked.reserve(from.size());
  for (const std::uint32_t index : from) picked.push_back(values[index]);
  return picked;
}

Mesh picked(const Mesh& mesh, std::span<const std::uint32_t> from) {
  Mesh result;
  result.primitive = mesh.primitive;
  result.positions = picked(mesh.positions, from);
  result.normals = picked(mesh.normals, from);
  result.tangents = picked(mesh.tangents, from);
  result.uv = picked(mesh.uv, from);
  result.second_uv = picked(mesh.second_uv, from);
  result.colors = picked(mesh.colors, from);
  return result;
}

Vec3 any_square_to(const Vec3& normal) {
  const Vec3 axis = std::abs(normal.x()) < 0.7f ? Vec3::unit_x() : Vec3::unit_z();
  return (axis - normal * normal.dot(axis)).normalized();
}

float angle_between(const Vec3& a, const Vec3& b) {
  return std::atan2(a.cross(b).norm(), a.dot(b));
}

/// What corners must share for their tangents to be one: place, normal and texture coordinates, bit by bit.
using CornerKey = std::array<float, 8>;

struct CornerKeyHash {
  std::size_t operator()(const CornerKey& key) const {
    return content_hash({reinterpret_cast<const char*>(key.data()), sizeof(key)});
  }
};

struct TriangleTangent {
  Vec3 direction = Vec3::zero();  ///< to the right in the image; 0 when the coordinates have no extent
  bool mirrored = false;
};

TriangleTangent tangent_of(const Mesh& mesh, std::size_t first) {
  const std::uint32_t a = mesh.indices[first], b = mesh.indices[first + 1], c = mesh.indices[first + 2];
  const Vec3 ab = mesh.positions[b] - mesh.positions[a], ac = mesh.positions[c] - mesh.positions[a];
  const Vec2 s = mesh.uv[b] - mesh.uv[a], t = mesh.uv[c] - mesh.uv[a];
  // v runs down in the image, so the sign of the area is that of the image upside down.
  const float area = s.y() * t.x() - s.x() * t.y();
  if (!(std::abs(area) > 0)) return {};
  const Vec3 along = (ac * s.y() - ab * t.y()) * (area > 0 ? 1.0f : -1.0f);
  return {along.stable_norm() > 0 ? along.stable_normalized() : Vec3::zero(), area < 0};
}

/// Sums of tangents at corners, with a number for each group of corners that share one.
class Groups {
 public:
  explicit Groups(const Mesh& mesh) : mesh_(mesh) {}

  std::uint32_t of(std::uint32_t corner, bool mirrored) {
    CornerKey key;
    std::memcpy(key.data(), mesh_.positions[corner].data(), 3 * sizeof(float));
    std::memcpy(key.data() + 3, mesh_.normals[corner].data(), 3 * sizeof(float));
    std::memcpy(key.data() + 6, mesh_.uv[corner].data(), 2 * sizeof(float));
    const auto found = known_[mirrored].try_emplace(key, static_cast<std::uint32_t>(sums_.size()));
    if (found.second) sums_.push_back(Vec3::zero());
    return found.first->second;
  }

  void add(std::uint32_t group, std::uint32_t corner, const Vec3& direction, float weight) {
    const Vec3& n = mesh_.normals[corner];
    const Vec3 along = direction - n * n.dot(direction);
    if (along.norm() > 1e-6f) sums_[group] += along.normalized() * weight;
  }

  Vec3 tangent(std::uint32_t group, std::uint32_t corner) const {
    const Vec3& sum = sums_[group];
    return sum.norm() > 1e-6f ? sum.normalized() : any_square_to(mesh_.normals[corner]);
  }

 private:
  const Mesh& mesh_;
  std::array<std::unordered_map<CornerKey, std::uint32_t, CornerKeyHash>, 2> known_;
  std::vector<Vec3> sums_;
};

Mesh with_any_tangents(const Mesh& mesh) {
  Mesh result = mesh;
  std::vector<Vec4> tangents;
  for (const Vec3& normal : mesh.normals) {
    const Vec3 along = any_square_to(normal);
    tangents.emplace_back(along.x(), along.y(), along.z(), 1);
  }
  result.tangents = std::move(tangents);
  return result;
}

}  // namespace

Mesh with_flat_normals(const Mesh& mesh) {
  if (mesh.primitive != Primitive::triangles) return mesh;
  const std::vector<std::uint32_t> corners = mesh.indices.copy();
  Mesh result = picked(mesh, corners);
  std::vector<Vec3> normals;
  std::vector<std::uint32_t> indices;
  for (std::uint32_t i = 0; i + 2 < corners.size(); i += 3) {
    const Vec3 &a = result.positions[i], &b = result.positions[i + 1], &c = result.positions[i + 2];
    const Vec3 face = (b - a).cross(c - a);
    const Vec3 normal = face.stable_norm() > 0 ? face.stable_normalized() : Vec3::unit_y();
    for (std::uint32_t k = 0; k < 3; ++k) {
      normals.push_back(normal);
      indices.push_back(i + k);
    }
  }
  result.normals = std::move(normals);
  result.indices = std::move(indices);
  return result;
}

Mesh with_tangents(const Mesh& mesh) {
  if (mesh.primitive != Primitive::triangles) return mesh;
  if (mesh.uv.empty()) return with_any_tangents(mesh);
  Groups groups(mesh);
  std::vector<std::uint32_t> group_of_index(mesh.indices.size());
  std::vector<bool> mirrored(mesh.triangle_count());
  for (std::size_t i = 0; i + 2 < mesh.indices.size(); i += 3) {
    const TriangleTangent own = tangent_of(mesh, i);
    mirrored[i / 3] = own.mirrored;
    for (std::size_t k = 0; k < 3; ++k) {
      const std::uint32_t corner = mesh.indices[i + k], next = mesh.indices[i + (k + 1) % 3],
                          last = mesh.indices[i + (k + 2) % 3];
      const std::uint32_t group = group_of_index[i + k] = groups.of(corner, own.mirrored);
      const Vec3& at = mesh.positions[corner];
      groups.add(group, corner, own.direction, angle_between(mesh.positions[next] - at, mesh.positions[last] - at));
    }
  }
  // A corner used from both sides of a mirror seam becomes two.
  std::vector<std::uint32_t> from, indices(mesh.indices.size());
  std::vector<Vec4> tangents;
  std::array<std::vector<std::uint32_t>, 2> made;
  constexpr std::uint32_t none = ~0u;
  made.fill(std::vector<std::uint32_t>(mesh.positions.size(), none));
  for (std::size_t i = 0; i < mesh.indices.size(); ++i) {
    const std::uint32_t corner = mesh.indices[i];
    std::uint32_t& now = made[mirrored[i / 3]][corner];
    if (now == none) {
      now = static_cast<std::uint32_t>(from.size());
      from.push_back(corner);
      const Vec3 along = groups.tangent(group_of_index[i], corner);
      tangents.emplace_back(along.x(), along.y(), along.z(), mirrored[i / 3] ? -1.0f : 1.0f);
    }
    indices[i] = now;
  }
  Mesh result = picked(mesh, from);
  result.tangents = std::move(tangents);
  result.indices = std::move(indices);
  return result;
}

}  // namespace periscena
