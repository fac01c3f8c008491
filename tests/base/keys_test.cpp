#include <periscena/math/vector_keys.h>

#include <catch2/catch.hpp>

#include <cmath>

using namespace periscena;

namespace {

struct Lens {
  float fov = 50;
  int count = 3;
  bool on = true;
  std::string kind = "wide";
  Vec3 axis = Vec3::unit_y();
  std::optional<float> far;
  std::optional<Vec2> tile;
  Reference view;
};

const Keys<Lens>& lens_keys() {
  static const auto keys = [] {
    Keys<Lens> k;
    k.key("fov", &Lens::fov, {.unit = "degrees", .minimum = 0, .maximum = 180, .above_minimum = true}, "Field of view")
        .key("count", &Lens::count, {.minimum = 1}, "How many")
        .key("on", &Lens::on, {}, "Is it")
        .key("kind", &Lens::kind, {.choices = {"wide", "narrow"}}, "Which")
        .key("axis", &Lens::axis, {}, "Along")
        .key("far", &Lens::far, {}, "How far")
        .key("tile", &Lens::tile, {}, "How large")
        .key("view", &Lens::view, {.required = true}, "From where");
    return k;
  }();
  return keys;
}

Value table(std::initializer_list<std::pair<const char*, decltype(Value::data)>> members) {
  Value::Table list;
  for (const auto& [name, data] : members) list.push_back({name, {}, Value{data, {}}});
  return Value{list, {}};
}

Diagnostics read(const Value& value, Lens& lens) {
  Diagnostics found;
  lens_keys().read(value, "the lens", lens, found);
  return found;
}

Value::Array numbers(std::initializer_list<double> list) {
  Value::Array array;
  for (const double number : list) array.push_back(Value{number, {}});
  return array;
}

}  // namespace

TEST_CASE("keys fill their members, and what is missing keeps its default") {
  Lens lens;
  const Diagnostics found =
      read(table({{"fov", 60.5}, {"count", std::int64_t{7}}, {"axis", numbers({1, 2, 3})}, {"view", std::string("a")}}),
           lens);
  REQUIRE(found.empty());
  REQUIRE(lens.fov == 60.5f);
  REQUIRE(lens.count == 7);
  REQUIRE(lens.axis == Vec3(1, 2, 3));
  REQUIRE(lens.kind == "wide");
  REQUIRE_FALSE(lens.far.has_value());
}

TEST_CASE("an optional key that can't be read is as if it were not there") {
  Lens lens;
  REQUIRE(read(table({{"far", std::string("x")}, {"tile", 0.5}, {"view", std::string("a")}}), lens).size() == 2);
  REQUIRE_FALSE(lens.far.has_value());
  REQUIRE_FALSE(lens.tile.has_value());
  REQUIRE(read(table({{"far", 9.0}, {"tile", numbers({1, 2})}, {"view", std::string("a")}}), lens).empty());
  REQUIRE(lens.far == 9.0f);
  REQUIRE(lens.tile == Vec2(1, 2));
}

TEST_CASE("all mistakes in a table are told at once") {
  Lens lens;
  const Diagnostics found = read(table({{"fov", 200.0},
                                        {"count", 2.5},
                                        {"on", std::int64_t{1}},
                                        {"kind", std::string("wde")},
                                        {"axis", numbers({1, 2})}}),
                                 lens);
  std::vector<std::string> slugs;
  for (const Diagnostic& one : found) slugs.push_back(one.slug);
  REQUIRE(slugs == std::vector<std::string>{"out-of-range", "wrong-type", "wrong-type", "unknown-choice", "wrong-type",
                                            "missing-key"});
  REQUIRE(found[0].mend == "choose more than 0 and at most 180 degrees");
  REQUIRE(found[3].mend == "did you mean \"wide\"?");
  REQUIRE(found[5].message == "the lens has no \"view\"");
}

TEST_CASE("numbers that are not finite, or do not fit, are refused") {
  Lens lens;
  const Value view = Value{std::string("v"), {}};
  REQUIRE(read(table({{"fov", std::nan("")}, {"view", view.data}}), lens)[0].slug == "not-finite");
  REQUIRE(read(table({{"far", HUGE_VAL}, {"view", view.data}}), lens)[0].slug == "not-finite");
  REQUIRE(read(table({{"far", 1e300}, {"view", view.data}}), lens)[0].slug == "out-of-range");
  REQUIRE(read(table({{"count", std::int64_t{1} << 40}, {"view", view.data}}), lens)[0].slug == "out-of-range");
  REQUIRE(read(table({{"count", std::int64_t{0}}, {"view", view.data}}), lens)[0].slug == "out-of-range");
}

TEST_CASE("an unknown key is told with the nearest right one") {
  Diagnostics found;
  report_unknown_keys(table({{"fvo", 1.0}, {"count", 1.0}}), "the lens", lens_keys().names(), found);
  REQUIRE(found.size() == 1);
  REQUIRE(found[0].message == "the lens has no key \"fvo\"");
  REQUIRE(found[0].mend == "did you mean \"fov\"?");
}

TEST_CASE("the same table describes its keys, with types, ranges and defaults") {
  const auto& infos = lens_keys().infos();
  REQUIRE(infos[0].type == "number");
  REQUIRE(infos[0].default_text == "50");
  REQUIRE(infos[0].range_text() == "more than 0 and at most 180 degrees");
  REQUIRE(infos[1].type == "whole number");
  REQUIRE(infos[4].type == "3 numbers");
  REQUIRE(infos[4].default_text == "[0, 1, 0]");
  REQUIRE(infos[5].default_text.empty());
}

TEST_CASE("keys in degrees fill members in radians, within their range") {
  struct Cone {
    float angle = 0.53f * 3.14159265f / 180;
  };
  const auto keys = Keys<Cone>().degrees("angle_degrees", &Cone::angle, {.minimum = 0, .maximum = 45}, "Half of it");
  CHECK(keys.infos()[0].default_text == "0.53");
  CHECK(keys.infos()[0].range_text() == "0 to 45 degrees");
  const auto read = [&](double degrees, Cone& into) {
    Diagnostics problems;
    keys.read(table({{"angle_degrees", degrees}}), "cone", into, problems);
    return to_text(problems);
  };
  Cone cone;
  CHECK(read(45, cone).empty());
  CHECK(cone.angle == Approx(std::atan(1.0)));
  Diagnostics checked;
  keys.check(cone, "a cone", {}, checked);
  CHECK(checked.empty());
  CHECK_THAT(read(90, cone), Catch::Contains("\"angle_degrees\" is 90, out of its range"));
  CHECK(cone.angle == Approx(std::atan(1.0)));
  keys.check({.angle = 1}, "a cone", {}, checked);
  CHECK(checked.has_errors());
}

TEST_CASE("a table whose required keys are missing or unsound is not whole") {
  const auto is_whole = [](std::initializer_list<std::pair<const char*, decltype(Value::data)>> members) {
    Lens lens;
    Diagnostics problems;
    return lens_keys().read(table(members), "lens", lens, problems);
  };
  CHECK(is_whole({{"view", std::string("front")}}));
  CHECK(is_whole({{"view", std::string("front")}, {"fov", 1000.0}}));
  CHECK_FALSE(is_whole({{"fov", 50.0}}));
  CHECK_FALSE(is_whole({{"view", 3.0}}));
}

TEST_CASE("a table that is written is read back to an equal struct, and says only what differs and what must be said") {
  Lens lens;
  lens.view = "front";
  lens.fov = 0.1f;  // which no short decimal is
  lens.on = false;
  lens.axis = {1, 1.0f / 3, -0.0f};
  lens.tile = Vec2(2, 3);
  const Value written = lens_keys().write(lens);
  std::string names;
  for (const ValueMember& member : *written.table()) names += member.name + " ";
  CHECK(names == "fov on axis tile view ");
  Lens again;
  REQUIRE(read(written, again).empty());
  CHECK(again.fov == lens.fov);
  CHECK(again.on == lens.on);
  CHECK(again.axis == lens.axis);
  CHECK(again.tile == lens.tile);
  CHECK(again.view.name == "front");
  CHECK(again.count == 3);
  CHECK_FALSE(again.far.has_value());

  CHECK(lens_keys().write(Lens{}).table()->size() == 1);  // the view, which is required
  constexpr std::string_view only[] = {"on", "count"};
  const Value part = lens_keys().write(lens, only);
  REQUIRE(part.table()->size() == 1);
  CHECK(part.find("on"));
}
