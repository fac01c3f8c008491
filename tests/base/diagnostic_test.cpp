#include <periscena/base/error.h>

#include <catch2/catch.hpp>

using namespace periscena;

namespace {

Place place_in(const char* text, int line, int column, int length) {
  return {std::make_shared<SourceText>(SourceText{"demo/lock.toml", text}), nullptr, line, column, length};
}

}  // namespace

TEST_CASE("a diagnostic looks like a compiler's, with the line and the span marked") {
  const Diagnostic found{Severity::error, "feedback-loop", place_in("first\nreads  = [\"scene.color\"]\n", 2, 11, 13),
                         "pass \"mirror\" reads \"scene.color\", which it also writes", "write another target"};
  REQUIRE(to_text(found) ==
          "demo/lock.toml:2:11: error[feedback-loop]: pass \"mirror\" reads \"scene.color\", which it also writes\n"
          "  2 | reads  = [\"scene.color\"]\n"
          "    |           ^^^^^^^^^^^^^\n"
          "mend: write another target\n");
}

TEST_CASE("marks stay under the text with tabs, umlauts and spans that run over the line's end") {
  const Diagnostic tab{Severity::warning, "w", place_in("\tkey = 1", 1, 2, 3), "m", ""};
  REQUIRE(to_text(tab) == "demo/lock.toml:1:2: warning[w]: m\n  1 |  key = 1\n    |  ^^^\n");
  const Diagnostic umlaut{Severity::error, "e", place_in("ä = \"ö\"", 1, 5, 99), "m", ""};
  REQUIRE(to_text(umlaut) == "demo/lock.toml:1:5: error[e]: m\n  1 | ä = \"ö\"\n    |     ^^^\n");
}

TEST_CASE("a diagnostic without a line shows no line, and one from C++ names file and line") {
  REQUIRE(to_text(Diagnostic{Severity::error, "e", {}, "m", "n"}) == "error[e]: m\nmend: n\n");
  REQUIRE(to_text(Diagnostic{Severity::note, "e", Place::file("a.toml"), "m", ""}) == "a.toml: note[e]: m\n");
  const Place here = Place::here();
  REQUIRE(std::string(here.file_name()).ends_with("diagnostic_test.cpp"));
  REQUIRE(here.line == __LINE__ - 2);
}

TEST_CASE("a place past the end of its text is shown without an excerpt") {
  REQUIRE(to_text(Diagnostic{Severity::error, "e", place_in("one", 9, 4, 1), "m", ""}) ==
          "demo/lock.toml:9:4: error[e]: m\n");
}

TEST_CASE("diagnostics count errors, and sort by place file by file, keeping equals in order") {
  Diagnostics found;
  const auto source = std::make_shared<SourceText>(SourceText{"a", "x\ny\nz"});
  found.warning("second", {source, nullptr, 3, 1, 1}, "m");
  found.error("first", {source, nullptr, 1, 5, 1}, "m");
  found.error("other-file", Place::file("b"), "m");
  found.error("third", {source, nullptr, 3, 1, 1}, "m");
  found.sort_by_place();
  REQUIRE(found.error_count() == 3);
  REQUIRE(found[0].slug == "first");
  REQUIRE(found[1].slug == "second");
  REQUIRE(found[2].slug == "third");
  REQUIRE(found[3].slug == "other-file");
}

TEST_CASE("an error's text holds all its diagnostics, and a mistake is an error") {
  Diagnostics both;
  both.error("a", {}, "one");
  both.error("b", {}, "two");
  REQUIRE(std::string(Mistake(both).what()) == "error[a]: one\n\nerror[b]: two");
  REQUIRE_THROWS_AS(fail("slug", {}, "m"), Error);
  try {
    throw Mistake("slug", {}, "message", "mend it");
  } catch (const Error& error) {
    REQUIRE(error.diagnostics()[0].mend == "mend it");
  }
}
