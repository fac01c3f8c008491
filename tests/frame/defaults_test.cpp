// What the passes of a frame share.
#include "scratch.h"

#include <periscena/base/file.h>
#include <periscena/frame/frame_file.h>
#include <periscena/image/files.h>
#include <periscena/passes/deferred.h>
#include <periscena/passes/forward.h>

#include <catch2/catch.hpp>

using namespace periscena;

namespace {

/// What a pass that draws is lit by: "view; lights; environment; fog".
std::string drawn_with(const passes::Forward& options) {
  std::string lights;
  for (const Reference& one : options.lights.names()) lights += one.name + " ";
  return options.view.name + "; " + (options.lights.all() ? "all" : lights) + "; " + options.environment.name + "; " +
         options.fog.name;
}

}  // namespace

TEST_CASE("a pass has what the frame's passes share, but for what it says itself") {
  const auto scene = std::make_shared<const Scene>();
  const passes::Defaults lock{
      .scene = scene, .view = "towpath", .lights = {"sun"}, .environment = "dusk", .fog = "haze", .cache = "cache"};
  const passes::Forward plain = passes::with_defaults(passes::Forward{}, lock);
  CHECK(plain.scene == scene);
  CHECK(plain.cache == "cache");
  CHECK(drawn_with(plain) == "towpath; sun ; dusk; haze");
  const auto other = std::make_shared<const Scene>();
  const passes::Forward own = passes::with_defaults(
      passes::Forward{
          .scene = other, .view = "bridge", .lights = ChosenNames::none(), .environment = "", .fog = "", .cache = ""},
      lock);
  CHECK(own.scene == other);
  CHECK(own.cache.empty());
  CHECK(drawn_with(own) == "bridge; ; ; ");
  CHECK(drawn_with(passes::with_defaults(passes::Forward{}, {})) == "; all; ; ");
}

TEST_CASE("[frame] says view, lights, environment and fog for all passes, once") {
  const Scratch scratch("defaults");
  Image sky(4, 2, Format::rgba32f);
  write_hdr(sky, scratch / "sky.hdr");
  const std::string scene =
      "[view.front]\neye = [0, 0, 5]\ntarget = [0, 0, 0]\n[view.side]\neye = [5, 0, 0]\ntarget = [0, 0, 0]\n"
      "[light.sun]\nkind = \"directional\"\n[light.lamp]\nkind = \"point\"\n[environment.dusk]\npanorama = "
      "\"sky.hdr\"\n"
      "[fog.haze]\n[material.red]\n[mesh.box]\nkind = \"box\"\nsize = [1, 1, 1]\n"
      "[[object]]\nmesh = \"box\"\nmaterial = \"red\"\n";
  const auto read = [&](const std::string& frame, const std::string& pass) {
    write_file(scratch / "f.toml", "[frame]\nsize = [8, 8]\n" + frame + scene +
                                       "[target.depth]\nformat = \"depth32f\"\n"
                                       "[[pass]]\nname = \"draw\"\nkind = \"forward\"\n" +
                                       pass + "writes = { color = \"output\", depth = \"depth\" }\n");
    return read_frame_file(scratch / "f.toml");
  };
  const auto facts = [&](const std::string& frame, const std::string& pass) {
    const FrameFile file = read(frame, pass);
    INFO(to_text(file.diagnostics) << to_text(file.graph.passes()[0]->problems));
    REQUIRE(file.diagnostics.empty());
    REQUIRE_FALSE(file.graph.passes()[0]->problems.has_errors());
    const auto lit = std::get<LitFacts>(file.graph.passes()[0]->facts);
    std::string lights;
    for (const Reference& one : lit.lit->lights.names()) lights += one.name + " ";
    return lit.drawn.view.name + "; " + (lit.lit->lights.all() ? "all" : lights) + "; " + lit.lit->environment.name;
  };
  const std::string all = "view = \"front\"\nlights = [\"sun\"]\nenvironment = \"dusk\"\nfog = \"haze\"\n";
  CHECK(facts(all, "") == "front; sun ; dusk");
  CHECK(facts(all, "view = \"side\"\nlights = [\"lamp\"]\nenvironment = \"\"\n") == "side; lamp ; ");
  CHECK(facts(all, "lights = []\n") == "front; ; dusk");
  CHECK(facts("", "view = \"front\"\n") == "front; all; ");

  // What is misspelt is said of the frame, and not of each pass again.
  const FrameFile wrong = read("view = \"front\"\nlights = [\"sum\"]\nenvironment = \"dust\"\nfog = \"hase\"\n", "");
  CHECK(wrong.diagnostics.size() == 3);
  CHECK_THAT(to_text(wrong.diagnostics), Catch::Contains("f.toml:4:11: error[unknown-light]: the frame") &&
                                             Catch::Contains("did you mean \"sun\"?") &&
                                             Catch::Contains("f.toml:5:15: error[unknown-environment]: the frame") &&
                                             Catch::Contains("f.toml:6:7: error[unknown-fog]: the frame"));
  CHECK_FALSE(wrong.graph.passes()[0]->problems.has_errors());
}
