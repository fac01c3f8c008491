#include "thrown.h"

#include <periscena/batch/geometry.h>

using namespace periscena;
using batch::MeshSize;

TEST_CASE("meshes lie one after the other") {
  const std::vector<MeshSize> sizes{{10, 30, 0, 10}, {4, 6, 4, 0}, {7, 9, 7, 7}};
  const auto starts = batch::lay_out(sizes);
  REQUIRE(starts.size() == 3);
  CHECK(starts[0].vertex == 0);
  CHECK(starts[1].vertex == 10);
  CHECK(starts[2].vertex == 14);
  CHECK(starts[2].index == 36);
  CHECK(starts[2].color == 4);
  CHECK(starts[2].second_uv == 10);
  CHECK(batch::lay_out({}).empty());
}

TEST_CASE("more than draw commands count in 32 bits is refused, by itself and in sum") {
  const auto slug = [](const std::vector<MeshSize>& sizes) { return thrown_slug([&] { batch::lay_out(sizes); }); };
  constexpr std::uint64_t two_31 = std::uint64_t{1} << 31, two_32 = std::uint64_t{1} << 32;
  CHECK(slug({{two_31 - 1, two_32 - 1}}) == "nothing");
  CHECK(slug({{two_31, 3}}) == "too-much-geometry");
  CHECK(slug({{4, two_32}}) == "too-much-geometry");
  CHECK(slug({{two_31 / 2, 3}, {two_31 / 2, 3}}) == "too-much-geometry");
  CHECK(slug({{4, two_32 / 2}, {4, two_32 / 2 - 1}}) == "nothing");
  CHECK(slug({{4, two_32 / 2}, {4, two_32 / 2}}) == "too-much-geometry");
  CHECK(slug({{4, ~std::uint64_t{0}}, {4, 9}}) == "too-much-geometry");
  CHECK(thrown_text([] {
          batch::lay_out(std::vector<MeshSize>{{1, 1}, {two_31, 3}});
        }).find("with mesh 2, the scene has more than 2147483647 vertices") != std::string::npos);
}
