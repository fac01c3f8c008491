#include "thrown.h"

#include <periscena/scene/mesh.h>

#include <cmath>

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
    for (const Vertex& v : shape.mesh.vertices) {
      REQUIRE(v.normal.norm() == Approx(1).margin(1e-5));
      REQUIRE(v.tangent.head<3>().norm() == Approx(1).margin(1e-5));
      REQUIRE(std::abs(v.tangent.w()) == 1);
    }
    for (std::size_t i = 0; i < shape.mesh.indices.size(); i += 3) {
      const Vertex &a = shape.mesh.vertices[shape.mesh.indices[i]], &b = shape.mesh.vertices[shape.mesh.indices[i + 1]],
                   &c = shape.mesh.vertices[shape.mesh.indices[i + 2]];
      const Vec3 face = (b.position - a.position).cross(c.position - a.position);
      REQUIRE(face.norm() > 0);
      for (const Vertex* v : {&a, &b, &c}) REQUIRE(v->normal.dot(face) > 0);
    }
  }
}

TEST_CASE("texture coordinates run along the tangent, and in metres") {
  for (const Mesh& mesh : {shapes::box({1, 2, 3}), shapes::plane(4, 5, 3), shapes::cylinder(1, 2, 64)}) {
    for (std::size_t i = 0; i < mesh.indices.size(); i += 3) {
      const Vertex &a = mesh.vertices[mesh.indices[i]], &b = mesh.vertices[mesh.indices[i + 1]],
                   &c = mesh.vertices[mesh.indices[i + 2]];
      const Vec2 ab = b.uv - a.uv, ac = c.uv - a.uv;
      const float turn = ab.x() * ac.y() - ab.y() * ac.x();
      REQUIRE(std::abs(turn) > 0);
      // dP/du by solving the two edges: along the tangent, a metre a unit (within what a 64-gon is short of a circle).
      const Vec3 along_u = ((b.position - a.position) * ac.y() - (c.position - a.position) * ab.y()) / turn;
      REQUIRE(along_u.norm() == Approx(1).epsilon(0.002));
      REQUIRE(along_u.dot(a.tangent.head<3>()) > 0.99f);
      const Vec3 along_v = ((c.position - a.position) * ab.x() - (b.position - a.position) * ac.x()) / turn;
      REQUIRE(along_v.dot(a.tangent.w() * a.normal.cross(Vec3(a.tangent.head<3>()))) > 0.99f);
    }
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
  Mesh both = shapes::box({1, 1, 1});
  both.append(shapes::cone(0.5f, 1, 8), Transform::scale(Vec3(-2, 1, 1)).then(translate({5, 0, 0})));
  REQUIRE(both.closed());
  REQUIRE(both.volume() == Approx(1 + 2 * shapes::cone(0.5f, 1, 8).volume()));
}

TEST_CASE("indices take 16 bits just as long as they fit") {
  Mesh mesh;
  mesh.vertices.resize(65536);
  REQUIRE(mesh.index_bytes() == 2);
  mesh.vertices.emplace_back();
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
  Mesh mesh = shapes::box({1, 1, 1});
  mesh.indices[4] = 24;
  REQUIRE_THAT(thrown_text([&] { mesh.expect_sound("crate"); }),
               Catch::Contains("\"crate\" has index 24 but only 24 vertices"));
  mesh.indices[4] = 0;
  mesh.indices.pop_back();
  REQUIRE_THAT(thrown_text([&] { mesh.expect_sound("crate"); }), Catch::Contains("has 35 indices"));
  REQUIRE(thrown_slug([] { Mesh{}.expect_sound("none"); }) == "broken-mesh");
  mesh = shapes::box({1, 1, 1});
  mesh.vertices[3].uv.x() = std::nanf("");
  REQUIRE_THAT(thrown_text([&] { mesh.expect_sound("crate"); }), Catch::Contains("vertex 3"));
}
