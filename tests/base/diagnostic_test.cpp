#include <periscena/base/error.h>
#include <periscena/base/utf8.h>

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

TEST_CASE("of errors a hundred are kept, of other remarks, too, and all are counted") {
  Diagnostics found;
  int hints = 0;
  for (int i = 0; i < 150; ++i) {
    found.warning("w", {}, "w");
    found.error("e", {}, "e", [&] {
      ++hints;
      return "hint";
    });
  }
  REQUIRE(found.size() == 200);
  REQUIRE(found.error_count() == 150);
  REQUIRE(found.remark_count() == 150);
  REQUIRE(found.omitted() == 100);
  REQUIRE(hints == 100);  // none is looked for in vain
  Diagnostics more;
  more.append(found);
  more.append(found);
  REQUIRE(more.error_count() == 300);
  REQUIRE(more.omitted() == 400);
  REQUIRE_THAT(to_text(more), Catch::EndsWith("\n… and 400 more\n"));
}

TEST_CASE("no control character of what is quoted reaches the terminal, and the marks stay below their word") {
  const auto source = std::make_shared<SourceText>(SourceText{"a\x1b[31m.toml", "x = \x1b]0;owned\x07 \"\xC2\x9B\" y"});
  Diagnostics found;
  found.error("slug", {source, nullptr, 1, 19, 1}, "a\x1b[2J\n\xE2\x80\xAE\xFF b", "c\x7F\x08");
  const std::string text = to_text(found);
  for (const char c : text) REQUIRE((c == '\n' || static_cast<unsigned char>(c) >= 0x20));
  REQUIRE_THAT(text, Catch::Contains("a␛[31m.toml:1:19: error[slug]: a␛[2J␊�� b\n") &&
                         Catch::Contains("  1 | x = ␛]0;owned␇ \"�\" y\n    |                   ^\n") &&
                         Catch::Contains("mend: c␡␈\n"));
  REQUIRE(text.find('\x7F') == text.npos);
}

TEST_CASE("JSON keeps its meaning, and no control character in it reaches the terminal") {
  REQUIRE(printable_json("{\n  \"a\x7F\xC2\x9B\xE2\x80\xAE b\": \"ä𝄞\"\n}") ==
          "{\n  \"a\\u007f\\u009b\\u202e b\": \"ä𝄞\"\n}");
  REQUIRE(printable_lines("a\n\tb\r") == "a\n␉b␍");
}
