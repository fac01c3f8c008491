#include "thrown.h"

#include <periscena/scene/mesh.h>

#include <array>
#include <cmath>
#include <map>

using namespace periscena;

namespace {

struct Shape {
  const char* name;
  Mesh mesh;
};

std::vector<Shape> closed_shapes() {
  return {{"box", shapes::box({1, 2, 3})},         {"cylinder", shapes::cylinder(0.7f, 2, 17)},
          {"cone", shapes::cone(0.7f, 2, 12)},     {"sphere", shapes::sphere(1.3f, 31)},
          {"torus", shapes::torus(2, 0.5f, 9, 7)}, {"coarse sphere", shapes::sphere(1, 3)}};
}

/// How far a value is from its limit at n and at 2n segments: the error of an inscribed polygon falls with n², so by 4.
template <class Measure>
void converges_quadratically(double exact, Measure measure) {
  const double coarse = std::abs(measure(48) - exact), fine = std::abs(measure(96) - exact);
  REQUIRE(fine < 0.01 * exact);
  REQUIRE(coarse / fine == Approx(4).epsilon(0.05));
}

}  // namespace

TEST_CASE("closed shapes are closed, and enclose a positive volume") {
  for (const Shape& shape : closed_shapes()) {
    INFO(shape.name);
    REQUIRE(shape.mesh.closed());
    REQUIRE(shape.mesh.volume() > 0);
    REQUIRE_NOTHROW(shape.mesh.expect_sound(shape.name));
  }
  REQUIRE_FALSE(shapes::plane(1, 1).closed());
}

TEST_CASE("normals and tangents have length 1, are square to each other, and normals agree with the winding") {
  std::vector<Shape> all = closed_shapes();
  all.push_back({"plane", shapes::plane(2, 3, 4)});
  for (const Shape& shape : all) {
    INFO(shape.name);
    const Mesh& mesh = shape.mesh;
    for (std::size_t i = 0; i < mesh.positions.size(); ++i) {
      REQUIRE(mesh.normals[i].norm() == Approx(1).margin(1e-5));
      REQUIRE(mesh.tangents[i].head<3>().norm() == Approx(1).margin(1e-5));
      REQUIRE(std::abs(mesh.tangents[i].w()) == 1);
    }
    for (std::size_t i = 0; i < mesh.indices.size(); i += 3) {
      const std::uint32_t a = mesh.indices[i], b = mesh.indices[i + 1], c = mesh.indices[i + 2];
      const Vec3 face = (mesh.positions[b] - mesh.positions[a]).cross(mesh.positions[c] - mesh.positions[a]);
      REQUIRE(face.norm() > 0);
      for (const std::uint32_t corner : {a, b, c}) REQUIRE(mesh.normals[corner].dot(face) > 0);
    }
  }
}

TEST_CASE("texture coordinates run along the tangent, down in the image, and in metres") {
  for (const Mesh& mesh : {shapes::box({1, 2, 3}), shapes::plane(4, 5, 3), shapes::cylinder(1, 2, 64),
                           shapes::cone(1, 2, 64), shapes::torus(4, 1, 64, 64)}) {
    for (std::size_t i = 0; i < mesh.indices.size(); i += 3) {
      const std::uint32_t a = mesh.indices[i], b = mesh.indices[i + 1], c = mesh.indices[i + 2];
      const Vec2 s = mesh.uv[b] - mesh.uv[a], t = mesh.uv[c] - mesh.uv[a];
      const Vec3 ab = mesh.positions[b] - mesh.positions[a], ac = mesh.positions[c] - mesh.positions[a];
      const float turn = s.x() * t.y() - s.y() * t.x();
      if (std::abs(turn) < 1e-6f) continue;
      // dP/du by solving the two edges: along the tangent; dP/dv: down in the image.
      const Vec3 along_u = (ab * t.y() - ac * s.y()) / turn, along_v = (ac * s.x() - ab * t.x()) / turn;
      const Vec4& tangent = mesh.tangents[a];
      REQUIRE(along_u.normalized().dot(tangent.head<3>()) > 0.99f);
      REQUIRE(along_v.normalized().dot(tangent.w() * mesh.normals[a].cross(tangent.head<3>())) < -0.98f);
    }
  }
  // A metre a unit.
  const Mesh plane = shapes::plane(4, 5);
  Box uv;
  for (const Vec2& at : plane.uv) uv.include({at.x(), at.y(), 0});
  REQUIRE(uv.size().is_near(Vec3(4, 5, 0)));
}

TEST_CASE("computed tangents are those that generators know from the shape") {
  for (const Shape& shape : {Shape{"box", shapes::box({1, 2, 3})}, Shape{"plane", shapes::plane(2, 3, 4)},
                             Shape{"torus", shapes::torus(2, 0.5f, 96, 48)}}) {
    INFO(shape.name);
    Mesh bare = shape.mesh;
    bare.tangents = {};
    const Mesh made = with_tangents(bare);
    REQUIRE(made.positions.size() == bare.positions.size());  // nothing is mirrored, so nothing is split
    std::map<std::array<float, 8>, Vec4> known;
    const auto key = [](const Mesh& mesh, std::size_t i) {
      return std::array{mesh.positions[i].x(), mesh.positions[i].y(), mesh.positions[i].z(), mesh.normals[i].x(),
                        mesh.normals[i].y(),   mesh.normals[i].z(),   mesh.uv[i].x(),        mesh.uv[i].y()};
    };
    for (std::size_t i = 0; i < bare.positions.size(); ++i) known.emplace(key(bare, i), shape.mesh.tangents[i]);
    // On a torus the seam has triangles on one side only: half a segment, 360°/96/2, off.
    for (std::size_t i = 0; i < made.positions.size(); ++i) {
      const Vec4 expected = known.at(key(made, i));
      REQUIRE(made.tangents[i].head<3>().dot(expected.head<3>()) > std::cos(radians(360.0f / 96)));
      REQUIRE(made.tangents[i].w() == expected.w());
    }
  }
}

TEST_CASE("a mirrored texture splits its seam, and each side gets the bitangent that points up in the image") {
  // Two squares side by side, the right one with the left one's image the other way round.
  MeshBuilder builder;
  for (int row = 0; row < 2; ++row) {
    for (int column = 0; column < 3; ++column) {
      Vertex corner;
      corner.position = {static_cast<float>(column), static_cast<float>(row), 0};
      corner.normal = Vec3::unit_z();
      corner.uv = {column == 1 ? 1.0f : 0.0f, row == 0 ? 1.0f : 0.0f};
      builder.vertices.push_back(corner);
    }
  }
  builder.indices = {0, 1, 4, 0, 4, 3, 1, 2, 5, 1, 5, 4};
  const Mesh made = with_tangents(builder.build());
  REQUIRE(made.positions.size() == 8);
  for (std::size_t i = 0; i < made.indices.size(); ++i) {
    const std::uint32_t corner = made.indices[i];
    const bool right = i >= 6;
    REQUIRE(made.tangents[corner].is_near(Vec4(right ? -1.0f : 1.0f, 0, 0, right ? -1.0f : 1.0f)));
    const Vec3 up = made.tangents[corner].w() * made.normals[corner].cross(Vec3(made.tangents[corner].head<3>()));
    REQUIRE(up.is_near(Vec3::unit_y()));
  }
}

TEST_CASE("flat normals are those of the faces") {
  const Mesh flat = with_flat_normals(shapes::sphere(1, 8));
  REQUIRE(flat.positions.size() == flat.indices.size());
  REQUIRE(flat.closed());
  for (std::size_t i = 0; i < flat.indices.size(); i += 3) {
    const Vec3 face = (flat.positions[i + 1] - flat.positions[i]).cross(flat.positions[i + 2] - flat.positions[i]);
    for (std::size_t k = 0; k < 3; ++k) REQUIRE(flat.normals[i + k].is_near(face.normalized()));
  }
}

TEST_CASE("areas and volumes of flat shapes are exact, those of round ones converge to their formulas") {
  REQUIRE(shapes::box({1, 2, 3}).volume() == Approx(6));
  REQUIRE(shapes::box({1, 2, 3}).area() == Approx(22));
  REQUIRE(shapes::plane(3, 4, 5).area() == Approx(12));
  const double r = 0.8, h = 1.7, ring = 1.9, tube = 0.6, p = std::numbers::pi;
  const auto f = [](double value) { return static_cast<float>(value); };
  converges_quadratically(p * r * r * h, [&](int n) { return shapes::cylinder(f(r), f(h), n).volume(); });
  converges_quadratically(2 * p * r * (r + h), [&](int n) { return shapes::cylinder(f(r), f(h), n).area(); });
  converges_quadratically(p * r * r * h / 3, [&](int n) { return shapes::cone(f(r), f(h), n).volume(); });
  converges_quadratically(p * r * (r + std::hypot(r, h)), [&](int n) { return shapes::cone(f(r), f(h), n).area(); });
  converges_quadratically(4 * p * r * r * r / 3, [&](int n) { return shapes::sphere(f(r), n).volume(); });
  converges_quadratically(4 * p * r * r, [&](int n) { return shapes::sphere(f(r), n).area(); });
  converges_quadratically(2 * p * p * ring * tube * tube,
                          [&](int n) { return shapes::torus(f(ring), f(tube), n, n).volume(); });
  converges_quadratically(4 * p * p * ring * tube, [&](int n) { return shapes::torus(f(ring), f(tube), n, n).area(); });
}

TEST_CASE("an appended mirror image is still outside out") {
  MeshBuilder both;
  both.append(shapes::box({1, 1, 1}), Transform::identity());
  both.append(shapes::cone(0.5f, 1, 8), Transform::scale(Vec3(-2, 1, 1)).then(translate({5, 0, 0})));
  REQUIRE(both.build().closed());
  REQUIRE(both.build().volume() == Approx(1 + 2 * shapes::cone(0.5f, 1, 8).volume()));
}

TEST_CASE("indices take 16 bits just as long as they fit") {
  Mesh mesh;
  mesh.positions = std::vector<Vec3>(65536);
  REQUIRE(mesh.index_bytes() == 2);
  mesh.positions = std::vector<Vec3>(65537);
  REQUIRE(mesh.index_bytes() == 4);
  REQUIRE(shapes::sphere(1, 512).index_bytes() == 4);
}

TEST_CASE("shapes that can't be are refused") {
  REQUIRE(thrown_slug([] { shapes::box({1, 0, 1}); }) == "bad-shape");
  REQUIRE(thrown_slug([] { shapes::sphere(std::nanf("")); }) == "bad-shape");
  REQUIRE(thrown_slug([] { shapes::sphere(1, 2); }) == "bad-shape");
  REQUIRE(thrown_slug([] { shapes::sphere(1, 1000000); }) == "bad-shape");
  REQUIRE(thrown_slug([] { shapes::cone(1, -1); }) == "bad-shape");
  REQUIRE(thrown_slug([] { shapes::torus(1, 2); }) == "bad-shape");
  REQUIRE(thrown_slug([] { shapes::plane(1, HUGE_VALF); }) == "bad-shape");
}

TEST_CASE("a mesh that would crash a driver is refused, with what is wrong") {
  const Mesh box = shapes::box({1, 1, 1});
  Mesh mesh = box;
  std::vector<std::uint32_t> indices = box.indices.copy();
  indices[4] = 24;
  mesh.indices = indices;
  REQUIRE_THAT(thrown_text([&] { mesh.expect_sound("crate"); }),
               Catch::Contains("\"crate\" has index 24 but only 24 vertices"));
  indices[4] = 0;
  indices.pop_back();
  mesh.indices = indices;
  REQUIRE_THAT(thrown_text([&] { mesh.expect_sound("crate"); }), Catch::Contains("has 35 indices"));
  REQUIRE(thrown_slug([] { Mesh{}.expect_sound("none"); }) == "broken-mesh");
  mesh = box;
  std::vector<Vec2> uv = box.uv.copy();
  uv[3].x() = std::nanf("");
  mesh.uv = uv;
  REQUIRE_THAT(thrown_text([&] { mesh.expect_sound("crate"); }), Catch::Contains("texture coordinates 3"));
  uv.pop_back();
  mesh.uv = uv;
  REQUIRE_THAT(thrown_text([&] { mesh.expect_sound("crate"); }), Catch::Contains("23 texture coordinates for 24"));
  mesh = box;
  mesh.normals = {};
  REQUIRE_THAT(thrown_text([&] { mesh.expect_sound("crate"); }), Catch::Contains("has no normals"));
}
