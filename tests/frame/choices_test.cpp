#include "scratch.h"

#include <periscena/base/file.h>

#include <periscena/frame/frame_file.h>

#include <catch2/catch.hpp>

using namespace periscena;

namespace {

constexpr const char* two_ways = R"([choice]
look = "plain"

[view.front]
eye = [0, 0, 5]
target = [0, 0, 0]

[target."scene.color"]
format = "rgba16f"

[target."spare.color"]
format = "rgba16f"

[[pass]]
name = "plain"
kind = "forward"
view = "front"
when = { look = "plain" }
writes = { color = "output" }

[[pass]]
name = "first"
kind = "forward"
view = "front"
when = { look = ["bright", "dark"] }
writes = { color = "scene.color" }

[[pass]]
name = "develop"
kind = "tone_map"
when = { look = ["bright", "dark"] }
reads = { light = "scene.color" }
writes = { color = "output" }
)";

struct ChoicesFolder {
  Scratch scratch{"choices"};

  PlanResult plan(const std::string& text, std::vector<std::string> overrides = {}) {
    write_file(scratch / "frame.toml", text);
    FrameFileOptions options;
    options.overrides = std::move(overrides);
    return read_frame_file(scratch / "frame.toml", options).plan();
  }

  std::string said(const std::string& text, std::vector<std::string> overrides = {}) {
    return to_text(plan(text, std::move(overrides)).diagnostics());
  }

  static std::string with(const std::string& from, const std::string& to) {
    std::string text = two_ways;
    return text.replace(text.find(from), from.size(), to);
  }
};

}  // namespace

TEST_CASE_METHOD(ChoicesFolder, "a choice keeps the passes that ask for it, and the targets that these name") {
  const PlanResult plain = plan(two_ways), dark = plan(two_ways, {"choice.look=dark"});
  REQUIRE(plain.ok());
  REQUIRE(plain.value().passes().size() == 1);
  REQUIRE(plain.value().passes()[0].name == "plain");
  // What no way names is told as ever; what another way names is not.
  REQUIRE_THAT(to_text(plain.diagnostics()), Catch::Contains("spare.color") && !Catch::Contains("scene.color"));
  REQUIRE(dark.ok());
  REQUIRE(dark.value().passes().size() == 2);
}

TEST_CASE_METHOD(ChoicesFolder, "choices that nobody knows are told with the nearest, in the file and from --set") {
  CHECK_THAT(said(two_ways, {"choice.look=plian"}),
             Catch::Contains("unknown-way") && Catch::Contains("did you mean \"plain\"?"));
  CHECK_THAT(said(two_ways, {"choice.lok=plain"}),
             Catch::Contains("unknown-way") && Catch::Contains("did you mean \"look\"?"));
  CHECK_THAT(said(with("when = { look = \"plain\" }", "when = { lock = \"plain\" }")),
             Catch::Contains("nothing says how \"lock\" is chosen"));
  CHECK_THAT(said(with("look = \"plain\"\n", "look = 3\n")), Catch::Contains("write it in quotes"));
  CHECK_THAT(said(with("when = { look = \"plain\" }", "when = \"plain\"")), Catch::Contains("write when = {"));
  CHECK_THAT(said(with("when = { look = \"plain\" }", "when = { look = 1 }")),
             Catch::Contains("\"when\" wants names of ways"));
  CHECK_THAT(said(with("[choice]\nlook = \"plain\"\n", "choice = \"plain\"\n")), Catch::Contains("write [choice]"));
  CHECK_THAT(said(with("[choice]\nlook", "[choice]\nmood = \"dark\"\nlook")),
             Catch::Contains("no pass asks how \"mood\" was chosen"));
}
