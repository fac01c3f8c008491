// Kinds of passes that a program brings along.
#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/frame/frame_file.h>
#include <periscena/gl/pass_work.h>
#include <periscena/passes/kind.h>

#include <catch2/catch.hpp>

using namespace periscena;

namespace {

struct Threshold {
  std::string name = "threshold";
  float level = 0.5f;
  TargetUse light = {}, color = {};
};

using Slots = std::vector<passes::WriteSlot<Threshold>>;

passes::Kind<Threshold> threshold() {
  return {.name = "threshold",
          .sentence = "White where light is over a level.",
          .example = "[[pass]]\nname = \"white\"\nkind = \"threshold\"\n",
          .reads = {{{"light", passes::Need::required, "Linear light"}, &Threshold::light}},
          .writes = {{{"color", passes::Need::required, "0 or 1"}, &Threshold::color, passes::whole_picture()}},
          .keys = Keys<Threshold>().key("level", &Threshold::level, {.unit = "nits", .minimum = 0},
                                        "Over which it is white"),
          .finish = [](const Threshold& options, Pass& pass) {
            if (options.level == 13) pass.problems.error("unlucky", pass.place, "thirteen", "take another");
            pass.work = gl::work([](gl::PassSetup&) { return nullptr; });
          }};
}

passes::PassKinds with_threshold() {
  passes::PassKinds kinds = passes::pass_kinds();
  kinds.add(threshold().kind());
  return kinds;
}

/// What a frame with such a pass is told.
std::string told(const std::string& pass, std::vector<std::string> overrides = {}) {
  const Scratch scratch("own-kinds");
  write_file(scratch / "f.toml",
             "[frame]\nsize = [8, 8]\n[target.light]\n[[pass]]\nname = \"g\"\nkind = \"grain\"\n"
             "reads = { from = \"light\" }\nwrites = { color = \"output\" }\n[[pass]]\nname = \"t\"\n"
             "kind = \"threshold\"\n" +
                 pass);
  const passes::PassKinds kinds = with_threshold();
  const FrameFile file =
      read_frame_file((scratch / "f.toml").string(), {.overrides = std::move(overrides), .kinds = &kinds});
  std::string all;
  for (const Diagnostic& one : file.plan().diagnostics())
    all += std::to_string(one.place.line) + " " + one.slug + ": " + one.message + "\n";
  return all;
}

const std::string sound = "reads = { light = \"output\" }\nwrites = { color = \"light\" }\n";

}  // namespace

TEST_CASE("a frame file has a kind of the program's own, with its checks, places and --set") {
  CHECK_THAT(told("reads = { light = \"light\" }\nwrites = { color = \"output\" }\nlevle = 2\n"),
             Catch::Contains("14 unknown-key"));
  CHECK_THAT(told("reads = { light = \"light\" }\nlevel = -1\n"),
             Catch::Contains("13 out-of-range") && Catch::Contains("missing-key: pass \"t\" writes no \"color\""));
  CHECK_THAT(told("reads = { lihgt = \"light\" }\nwrites = { color = \"output\" }\n"), Catch::Contains("unknown-key"));
  CHECK_THAT(told("reads = { light = \"light\" }\nwrites = { color = \"output\" }\n", {"pass.t.level=13"}),
             Catch::Contains("unlucky: thirteen"));
  CHECK_THAT(told("reads = { light = \"light\" }\nwrites = { color = \"output\" }\n", {"pass.t.level=\"much\""}),
             Catch::Contains("wrong-type"));
}

TEST_CASE("a kind of the program's own is judged the same when C++ makes its pass") {
  const Pass pass = threshold().make({.level = -1, .color = "output"}, Place::here());
  REQUIRE(pass.problems.size() == 2);
  CHECK(pass.problems[0].message == "pass \"threshold\" reads no light");
  CHECK(pass.problems[1].slug == "out-of-range");
  CHECK(pass.place.known());
  CHECK_FALSE(pass.work);
}

TEST_CASE("a kind that lacks its finish or a member for a target makes no pass, and says so") {
  auto kind = threshold();
  kind.finish = nullptr;
  CHECK_THAT(thrown_text([&] { kind.make({.light = "light", .color = "output"}, Place::here()); }),
             Catch::Contains("bad-kind") && Catch::Contains("threshold") && Catch::Contains("own_kinds_test.cpp"));
  kind = threshold();
  kind.writes.push_back({{"glow", passes::Need::optional, "Bound to nothing"}});
  CHECK_THAT(thrown_text([&] { kind.make({.light = "light", .color = "output"}, Place::here()); }),
             Catch::Contains("bad-kind"));
}

TEST_CASE("a pass of a kind that says nothing to do is refused by the plan") {
  FrameGraph frame;
  const TargetHandle light = frame.target("light", {});
  frame.add({.name = "light", .writes = {{"color", light}}, .work = gl::work([](gl::PassSetup&) { return nullptr; })});
  frame.add({.name = "idle", .writes = {{"color", frame.output()}}, .work = gl::work(gl::WorkFactory())});
  const PlanResult planned = frame.plan(8, 8);
  REQUIRE_FALSE(planned.ok());
  CHECK(planned.diagnostics()[0].slug == "no-work");
}

TEST_CASE("the reference has a page for a kind of the program's own") {
  const passes::PassKinds kinds = with_threshold();
  CHECK_THAT(frame_file_reference(&kinds),
             Catch::Contains("### `kind = \"threshold\"`") &&
                 Catch::Contains("| `level` | yes | number | at least 0 nits | `0.5` | Over which it is white |"));
  CHECK_THAT(frame_file_reference(), !Catch::Contains("threshold\"`"));
}

TEST_CASE("a kind that can't be is refused, with its place and all that is wrong") {
  passes::PassKinds kinds = with_threshold();
  const auto refused = [&](passes::Kind<Threshold> kind) {
    std::string all;
    try {
      kinds.add(kind.kind());
    } catch (const Mistake& mistake) {
      for (const Diagnostic& one : mistake.diagnostics()) {
        all += one.slug + ": " + one.message + "\n";
        CHECK(std::string(one.place.cpp_file).ends_with("own_kinds_test.cpp"));
      }
    }
    return all;
  };
  CHECK(refused(threshold()) == "taken-name: there is a kind of pass \"threshold\" already\n");
  auto kind = threshold();
  kind.name = "forward";
  CHECK_THAT(refused(kind), Catch::Contains("taken-name"));
  kind.name = "";
  CHECK_THAT(refused(kind), Catch::Contains("has no name"));
  kind.name = "other";
  kind.keys.key("level", &Threshold::level, {}, "Again");
  kind.writes.push_back({{"glow", passes::Need::optional, "Bound to nothing"}});
  kind.writes.push_back({{"color", passes::Need::optional, "Again"}, &Threshold::color});
  kind.finish = nullptr;
  const std::string all = refused(kind);
  CHECK_THAT(all, Catch::Contains("has two keys \"level\"") &&
                      Catch::Contains("has no member for the target \"glow\"") &&
                      Catch::Contains("has two writes \"color\"") && Catch::Contains("can't be made"));
  CHECK(kinds.find("other") == nullptr);
  CHECK(kinds.all().size() == passes::pass_kinds().all().size() + 1);
}
