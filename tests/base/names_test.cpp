#include <periscena/base/names.h>

#include <catch2/catch.hpp>

#include <set>

using namespace periscena;

TEST_CASE("edit distance counts letters put in, left out, replaced and swapped") {
  REQUIRE(edit_distance("lock", "lock") == 0);
  REQUIRE(edit_distance("lock", "lck") == 1);
  REQUIRE(edit_distance("lock", "clock") == 1);
  REQUIRE(edit_distance("lock", "lick") == 1);
  REQUIRE(edit_distance("lock", "olck") == 1);
  REQUIRE(edit_distance("", "abc") == 3);
  REQUIRE(edit_distance("Lock", "lock") == 1);  // half a step, rounded up
}

TEST_CASE("edit distance is symmetric and obeys the triangle inequality on short words") {
  const std::vector<std::string> words{"gate", "gates", "gaet", "rate", "beam", "", "Gate"};
  for (const auto& a : words) {
    for (const auto& b : words) {
      CHECK(edit_distance(a, b) == edit_distance(b, a));
      for (const auto& c : words) CHECK(edit_distance(a, c) <= edit_distance(a, b) + edit_distance(b, c) + 1);
    }
  }
}

TEST_CASE("the nearest name is found, and nothing is suggested when nothing is near") {
  const std::vector<std::string> names{"scene.color", "scene.depth", "output"};
  REQUIRE(nearest_name("scene.colour", names) == "scene.color");
  REQUIRE(nearest_name("Output", names) == "output");
  REQUIRE(nearest_name("shadow", names).empty());
  REQUIRE(nearest_name("rotate", std::vector<std::string>{"translate", "rotate_degrees"}) == "rotate_degrees");
  REQUIRE(nearest_name("", names).empty());
  REQUIRE(nearest_name(std::string(100000, 'x'), names).empty());
}

TEST_CASE("a hint names the nearest, else the choices, else nothing") {
  const std::vector<std::string> names{"forward", "fullscreen"};
  REQUIRE(name_hint("forwrd", names) == "did you mean \"forward\"?");
  REQUIRE(name_hint("zzz", names) == "one of \"forward\", \"fullscreen\"");
  REQUIRE(name_hint("zzz", std::vector<std::string>{"sun"}) == "there is only \"sun\"");
  REQUIRE(name_hint("zzz", {}).empty());
  const std::vector<std::string> many(10, "n");
  REQUIRE(quoted_list(many, 2) == "\"n\", \"n\" and 8 more");
}

TEST_CASE("many things of one name get names that are free, in as many steps as there are things") {
  std::set<std::string> names{"gate 3"};
  FreeNames free;
  std::size_t asked = 0;
  const auto taken = [&](const std::string& name) {
    ++asked;
    return names.contains(name);
  };
  for (int i = 0; i < 1000; ++i) REQUIRE(names.insert(free.next("gate", taken)).second);
  REQUIRE(names.contains("gate"));
  REQUIRE(names.contains("gate 2"));
  REQUIRE(names.contains("gate 1001"));
  REQUIRE(asked <= 2002);
  REQUIRE(free.next("boat", taken) == "boat");
}

TEST_CASE("with a limit on hints, only so much is compared, and without one all of it again") {
  const std::vector<std::string> names(1000, "towpath");
  {
    const HintLimit limit(150'000);  // 49 pairs for each, and what it takes to begin
    REQUIRE(nearest_name("towpaht", names) == "towpath");
    REQUIRE_FALSE(HintLimit::reached());
    REQUIRE(nearest_name("towpaht", names).empty());
    REQUIRE(HintLimit::reached());
    REQUIRE(name_hint("towpaht", names).starts_with("one of"));
  }
  REQUIRE_FALSE(HintLimit::reached());
  REQUIRE(nearest_name("towpaht", names) == "towpath");
}
