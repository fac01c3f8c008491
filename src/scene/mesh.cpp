#include <periscena/base/error.h>
#include <periscena/scene/mesh.h>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>

namespace periscena {
namespace {

struct Corners {
  DoubleVec3 a, b, c;
};

Corners corners(const Mesh& mesh, std::size_t triangle) {
  const auto at = [&](std::size_t k) -> DoubleVec3 {
    return mesh.positions[mesh.indices[3 * triangle + k]].cast<double>();
  };
  return {at(0), at(1), at(2)};
}

}  // namespace

bool Mesh::has_shape_of(const Mesh& other) const {
  const bool shared = indices.values().data() == other.indices.values().data();
  return primitive == other.primitive && positions.size() == other.positions.size() &&
         normals.size() == other.normals.size() && tangents.size() == other.tangents.size() &&
         uv.size() == other.uv.size() && second_uv.size() == other.second_uv.size() &&
         colors.size() == other.colors.size() && indices.size() == other.indices.size() &&
         (shared || indices == other.indices);
}

bool Mesh::is_copy_of(const Mesh& other) const {
  const auto same = [](const auto& a, const auto& b) {
    return a.values().data() == b.values().data() && a.size() == b.size();
  };
  return primitive == other.primitive && same(positions, other.positions) && same(normals, other.normals) &&
         same(tangents, other.tangents) && same(uv, other.uv) && same(second_uv, other.second_uv) &&
         same(colors, other.colors) && same(indices, other.indices);
}

Box Mesh::bounds() const {
  Box box;
  for (const Vec3& position : positions) box.include(position);
  return box;
}

double Mesh::area() const {
  double sum = 0;
  for (std::size_t i = 0; i < triangle_count(); ++i) {
    const Corners t = corners(*this, i);
    sum += (t.b - t.a).cross(t.c - t.a).norm() / 2;
  }
  return sum;
}

double Mesh::volume() const {
  double sum = 0;
  for (std::size_t i = 0; i < triangle_count(); ++i) {
    const Corners t = corners(*this, i);
    sum += t.a.dot(t.b.cross(t.c)) / 6;
  }
  return sum;
}

bool Mesh::closed() const {
  std::map<std::array<float, 3>, std::uint32_t> places;
  std::vector<std::uint32_t> place_of(positions.size());
  for (std::size_t i = 0; i < positions.size(); ++i) {
    const Vec3& p = positions[i];
    const auto found =
        places.try_emplace({p.x() + 0.0f, p.y() + 0.0f, p.z() + 0.0f}, static_cast<std::uint32_t>(places.size()));
    place_of[i] = found.first->second;
  }
  std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
  for (std::size_t i = 0; i < indices.size(); i += 3) {
    for (std::size_t k = 0; k < 3; ++k) {
      const std::uint32_t from = place_of[indices[i + k]], to = place_of[indices[i + (k + 1) % 3]];
      if (from != to) ++edges[{from, to}];
    }
  }
  return std::all_of(edges.begin(), edges.end(), [&](const auto& edge) {
    const auto back = edges.find({edge.first.second, edge.first.first});
    return edge.second == 1 && back != edges.end() && back->second == 1;
  });
}

void Mesh::expect_sound(std::string_view name, Place place) const {
  const auto refuse = [&](const std::string& cause, const char* mend) {
    throw Mistake("broken-mesh", place, fmt::format("mesh \"{}\" {}", name, cause), mend);
  };
  if (indices.empty()) refuse("has nothing to draw", "add vertices and indices, or leave the mesh out");
  if (primitive == Primitive::triangles && indices.size() % 3 != 0)
    refuse(fmt::format("has {} indices", indices.size()), "triangles take three each");
  if (primitive == Primitive::lines && indices.size() % 2 != 0)
    refuse(fmt::format("has {} indices", indices.size()), "lines take two each");
  const auto largest = *std::max_element(indices.begin(), indices.end());
  if (largest >= positions.size()) {
    refuse(fmt::format("has index {} but only {} vertices", largest, positions.size()), "indices count from 0");
  }
  if (primitive == Primitive::triangles && normals.empty())
    refuse("has no normals", "give them, or ask with_flat_normals for those of its faces");
  const auto expect_stream = [&](const char* what, const auto& stream) {
    if (!stream.empty() && stream.size() != positions.size())
      refuse(fmt::format("has {} {} for {} positions", stream.size(), what, positions.size()), "give one for each");
    for (std::size_t i = 0; i < stream.size(); ++i) {
      if (!is_finite(stream[i]))
        refuse(fmt::format("holds NaN or infinity in {} {}", what, i), "look at what computed it");
    }
  };
  expect_stream("positions", positions);
  expect_stream("normals", normals);
  expect_stream("tangents", tangents);
  expect_stream("texture coordinates", uv);
  expect_stream("second texture coordinates", second_uv);
  expect_stream("colors", colors);
}

void MeshBuilder::append(const Mesh& other, const Transform& placement) {
  const auto first = static_cast<std::uint32_t>(vertices.size());
  const Mat3 normal_matrix = placement.normal_matrix();
  const bool mirrored = placement.mirrors();
  for (std::size_t i = 0; i < other.positions.size(); ++i) {
    Vertex vertex;
    vertex.position = placement.apply_to_point(other.positions[i]);
    if (!other.normals.empty()) vertex.normal = (normal_matrix * other.normals[i]).normalized();
    if (!other.tangents.empty()) {
      vertex.tangent = other.tangents[i];
      vertex.tangent.set_head(placement.apply_to_direction(vertex.tangent.head<3>()).normalized());
      if (mirrored) vertex.tangent.w() = -vertex.tangent.w();
    }
    if (!other.uv.empty()) vertex.uv = other.uv[i];
    vertices.push_back(vertex);
  }
  for (std::size_t i = 0; i + 2 < other.indices.size(); i += 3) {
    indices.push_back(first + other.indices[i]);
    indices.push_back(first + other.indices[i + (mirrored ? 2 : 1)]);
    indices.push_back(first + other.indices[i + (mirrored ? 1 : 2)]);
  }
}

Mesh MeshBuilder::build() const {
  const auto stream = [&](auto Vertex::*member) {
    std::vector<std::remove_cvref_t<decltype(vertices[0].*member)>> values;
    values.reserve(vertices.size());
    for (const Vertex& vertex : vertices) values.push_back(vertex.*member);
    return values;
  };
  Mesh mesh;
  mesh.positions = stream(&Vertex::position);
  mesh.normals = stream(&Vertex::normal);
  mesh.tangents = stream(&Vertex::tangent);
  mesh.uv = stream(&Vertex::uv);
  mesh.indices = indices;
  return mesh;
}

}  // namespace periscena
