#include <periscena/base/error.h>
#include <periscena/scene/mesh.h>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>

namespace periscena::shapes {
namespace {

void expect_size(const char* shape, const char* what, float size, const Place& place) {
  if (size > 0 && std::isfinite(size)) return;
  throw Mistake("bad-shape", place, fmt::format("a {} with {} {}", shape, what, size), "sizes are metres, more than 0");
}

void expect_count(const char* shape, const char* what, int count, int least, const Place& place) {
  constexpr int most = 4096;
  if (count >= least && count <= most) return;
  throw Mistake("bad-shape", place, fmt::format("a {} with {} {}", shape, count, what),
                fmt::format("choose {} to {}", least, most));
}

/// Unit circle that closes exactly and hits the axes exactly, so that seams are watertight.
Vec2 on_circle(int step, int steps) {
  step %= steps;
  if (step * 4 % steps == 0) {
    constexpr float cosine[] = {1, 0, -1, 0}, sine[] = {0, 1, 0, -1};
    const int quarter = step * 4 / steps;
    return {cosine[quarter], sine[quarter]};
  }
  const double angle = 2.0 * std::numbers::pi * step / steps;
  return {static_cast<float>(std::cos(angle)), static_cast<float>(std::sin(angle))};
}

/// A grid of (columns + 1) by (rows + 1) corners. Counter-clockwise when columns run to the right and rows run up, seen
/// from outside.
MeshBuilder grid(int columns, int rows, const std::function<Vertex(int column, int row)>& corner) {
  MeshBuilder mesh;
  for (int row = 0; row <= rows; ++row) {
    for (int column = 0; column <= columns; ++column) mesh.vertices.push_back(corner(column, row));
  }
  for (int row = 0; row < rows; ++row) {
    for (int column = 0; column < columns; ++column) {
      const auto a = static_cast<std::uint32_t>(row * (columns + 1) + column);
      const auto b = a + 1, c = a + static_cast<std::uint32_t>(columns) + 1, d = c + 1;
      mesh.indices.insert(mesh.indices.end(), {a, b, d, a, d, c});
    }
  }
  return mesh;
}

void drop_flat_triangles(MeshBuilder& mesh) {
  std::vector<std::uint32_t> kept;
  for (std::size_t i = 0; i < mesh.indices.size(); i += 3) {
    const Vec3 &a = mesh.vertices[mesh.indices[i]].position, &b = mesh.vertices[mesh.indices[i + 1]].position,
               &c = mesh.vertices[mesh.indices[i + 2]].position;
    if (a == b || b == c || c == a) continue;
    kept.insert(kept.end(), mesh.indices.begin() + static_cast<std::ptrdiff_t>(i),
                mesh.indices.begin() + static_cast<std::ptrdiff_t>(i) + 3);
  }
  mesh.indices = std::move(kept);
}

/// A flat disc facing up or down.
void add_disc(MeshBuilder& mesh, float radius, float y, bool up, int segments) {
  const auto middle = static_cast<std::uint32_t>(mesh.vertices.size());
  const Vec3 normal(0, up ? 1 : -1, 0);
  const Vec4 tangent(1, 0, 0, 1);
  mesh.vertices.push_back({Vec3(0, y, 0), normal, tangent, Vec2(0, 0)});
  for (int i = 0; i <= segments; ++i) {
    const Vec2 p = radius * on_circle(i, segments);
    mesh.vertices.push_back({Vec3(p.x(), y, -p.y()), normal, tangent, Vec2(p.x(), up ? -p.y() : p.y())});
  }
  for (int i = 0; i < segments; ++i) {
    const auto a = middle + 1 + static_cast<std::uint32_t>(i);
    mesh.indices.insert(mesh.indices.end(), {middle, up ? a : a + 1, up ? a + 1 : a});
  }
}

}  // namespace

Mesh box(const Vec3& size, Place place) {
  for (int i = 0; i < 3; ++i) expect_size("box", i == 0 ? "width" : i == 1 ? "height" : "depth", size[i], place);
  MeshBuilder mesh;
  const Vec3 half = size / 2;
  for (int side = 0; side < 6; ++side) {
    const int axis = side / 2;
    const float sign = side % 2 ? -1.0f : 1.0f;
    Vec3 normal = Vec3::zero(), u = Vec3::zero();
    normal[axis] = sign;
    u[axis == 0 ? 2 : 0] = axis == 0 ? -sign : axis == 2 ? sign : 1;
    const Vec3 v = normal.cross(u);
    const auto first = static_cast<std::uint32_t>(mesh.vertices.size());
    for (int k = 0; k < 4; ++k) {
      const float s = k == 1 || k == 2 ? 1.0f : -1.0f, t = k >= 2 ? 1.0f : -1.0f;
      const Vec3 corner = (normal + s * u + t * v).times(half);
      const Vec2 uv(s * std::abs(u.dot(half)), -t * std::abs(v.dot(half)));
      mesh.vertices.push_back({corner, normal, Vec4(u.x(), u.y(), u.z(), 1), uv});
    }
    mesh.indices.insert(mesh.indices.end(), {first, first + 1, first + 2, first, first + 2, first + 3});
  }
  return mesh.build();
}

Mesh plane(float width, float depth, int segments, Place place) {
  expect_size("plane", "width", width, place);
  expect_size("plane", "depth", depth, place);
  expect_count("plane", "segments", segments, 1, place);
  return grid(segments, segments,
              [=](int column, int row) {
                const float s = static_cast<float>(column) / static_cast<float>(segments) - 0.5f;
                const float t = static_cast<float>(row) / static_cast<float>(segments) - 0.5f;
                return Vertex{Vec3(s * width, 0, -t * depth), Vec3::unit_y(), Vec4(1, 0, 0, 1),
                              Vec2(s * width, -t * depth)};
              })
      .build();
}

Mesh cylinder(float radius, float height, int segments, Place place) {
  expect_size("cylinder", "radius", radius, place);
  expect_size("cylinder", "height", height, place);
  expect_count("cylinder", "segments", segments, 3, place);
  MeshBuilder mesh = grid(segments, 1, [=](int column, int row) {
    const Vec2 p = on_circle(column, segments);
    const float around = 2 * pi * radius * static_cast<float>(column) / static_cast<float>(segments);
    const float y = row ? height / 2 : -height / 2;
    return Vertex{Vec3(radius * p.x(), y, -radius * p.y()), Vec3(p.x(), 0, -p.y()), Vec4(-p.y(), 0, -p.x(), 1),
                  Vec2(around, -y)};
  });
  add_disc(mesh, radius, height / 2, true, segments);
  add_disc(mesh, radius, -height / 2, false, segments);
  return mesh.build();
}

Mesh cone(float radius, float height, int segments, Place place) {
  expect_size("cone", "radius", radius, place);
  expect_size("cone", "height", height, place);
  expect_count("cone", "segments", segments, 3, place);
  const float slant = std::hypot(radius, height);
  MeshBuilder mesh = grid(segments, 1, [=](int column, int row) {
    const Vec2 p = on_circle(column, segments);
    const float around = 2 * pi * radius * static_cast<float>(column) / static_cast<float>(segments);
    const float r = row ? 0 : radius;
    return Vertex{Vec3(r * p.x(), row ? height / 2 : -height / 2, -r * p.y()),
                  Vec3(p.x() * height, radius, -p.y() * height) / slant, Vec4(-p.y(), 0, -p.x(), 1),
                  Vec2(around, row ? -slant : 0)};
  });
  drop_flat_triangles(mesh);
  add_disc(mesh, radius, -height / 2, false, segments);
  return mesh.build();
}

Mesh sphere(float radius, int segments, Place place) {
  expect_size("sphere", "radius", radius, place);
  expect_count("sphere", "segments", segments, 3, place);
  const int rings = std::max(2, segments / 2);
  MeshBuilder mesh = grid(segments, rings, [=](int column, int row) {
    const Vec2 p = on_circle(column, segments);
    const Vec2 q = on_circle(row, 2 * rings);  // from the south pole: (cosine, sine) of the polar angle
    const Vec3 normal(q.y() * p.x(), -q.x(), -q.y() * p.y());
    const Vec2 uv(2 * pi * radius * static_cast<float>(column) / static_cast<float>(segments),
                  -pi * radius * static_cast<float>(row) / static_cast<float>(rings));
    return Vertex{radius * normal, normal, Vec4(-p.y(), 0, -p.x(), 1), uv};
  });
  drop_flat_triangles(mesh);
  return mesh.build();
}

Mesh torus(float radius, float tube, int segments, int tube_segments, Place place) {
  expect_size("torus", "radius", radius, place);
  expect_size("torus", "tube", tube, place);
  expect_count("torus", "segments", segments, 3, place);
  expect_count("torus", "tube segments", tube_segments, 3, place);
  if (tube > radius) {
    throw Mistake("bad-shape", place, fmt::format("a torus of radius {} with a tube of {}", radius, tube),
                  "the tube's radius must be at most the ring's");
  }
  return grid(segments, tube_segments,
              [=](int column, int row) {
                const Vec2 p = on_circle(column, segments);
                const Vec2 q = on_circle(row, tube_segments);
                const float r = radius + tube * q.x();
                const Vec2 uv(2 * pi * radius * static_cast<float>(column) / static_cast<float>(segments),
                              -2 * pi * tube * static_cast<float>(row) / static_cast<float>(tube_segments));
                return Vertex{Vec3(r * p.x(), tube * q.y(), -r * p.y()), Vec3(q.x() * p.x(), q.y(), -q.x() * p.y()),
                              Vec4(-p.y(), 0, -p.x(), 1), uv};
              })
      .build();
}

}  // namespace periscena::shapes
