#include "graph/frames.h"

#include <catch2/catch.hpp>

using namespace periscena;
using Names = std::vector<std::string>;

namespace {

enum class Glsl { plain, encodes, decodes, both };

/// Light, then a chain of programs, each into a target of the next format, the last into the output or a framebuffer of
/// somebody else's.
struct Chain {
  FrameGraph frame;
  TargetHandle last;
  int count = 0;

  explicit Chain(Format format = Format::rgba16f) {
    last = frame.target("light", {.format = format});
    Pass light = pass_of("light", {}, {});
    light.writes = {{.slot = "color", .target = last, .coding = ColorCoding::light}};
    frame.add(std::move(light));
  }

  Chain& then(Glsl glsl, TargetHandle into, ColorCoding coding = ColorCoding::unknown) {
    Pass pass = pass_of("pass " + std::to_string(++count), {}, {});
    pass.reads = {{"source", last}};
    pass.writes = {{.slot = "color", .target = into, .coding = coding}};
    pass.shader = ShaderInterface{"a.frag", {{"color"}}, {{"source"}}};
    if (glsl == Glsl::encodes || glsl == Glsl::both) pass.shader->encodes = Place::file("encodes.frag");
    if (glsl == Glsl::decodes || glsl == Glsl::both) pass.shader->decodes = Place::file("decodes.frag");
    frame.add(std::move(pass));
    last = into;
    return *this;
  }
  Chain& then(Glsl glsl, Format format, ColorCoding coding = ColorCoding::unknown) {
    return then(glsl, frame.target("target " + std::to_string(count), {.format = format}), coding);
  }
  Names found(Glsl glsl = Glsl::plain) {
    then(glsl, frame.output());
    return slugs(frame.plan(8, 8).diagnostics());
  }
};

}  // namespace

TEST_CASE("light that is encoded once, by program or target, is fine, twice is told with both places") {
  REQUIRE(Chain().found().empty());
  REQUIRE(Chain(Format::rgba8_srgb).found().empty());
  REQUIRE(Chain().found(Glsl::encodes) == Names{"encoded-twice"});
  REQUIRE(Chain().then(Glsl::encodes, Format::rgba8).found() == Names{"encoded-twice"});
  // A filter in between hands on what it got.
  REQUIRE(Chain().then(Glsl::encodes, Format::rgba8).then(Glsl::plain, Format::rgba8).found() ==
          Names{"encoded-twice"});
  REQUIRE(Chain().then(Glsl::encodes, Format::rgba8).then(Glsl::encodes, Format::rgba8).found(Glsl::decodes) ==
          Names{"encoded-twice"});
  Chain chain;
  chain.then(Glsl::encodes, Format::rgba8).then(Glsl::plain, chain.frame.output());
  const Diagnostics told = chain.frame.plan(8, 8).diagnostics();
  REQUIRE(told[0].message ==
          "pass \"pass 2\" reads \"target 0\", which was encoded to sRGB by \"encodes.frag\", line 0, and writes "
          "\"output\", which is rgba8_srgb and encodes again: the picture comes out washed out");
}

TEST_CASE("what decodes in between is fine, and what takes light must not get what was encoded") {
  REQUIRE(Chain().then(Glsl::encodes, Format::rgba8).found(Glsl::decodes).empty());
  REQUIRE(Chain().then(Glsl::encodes, Format::rgba8).then(Glsl::both, Format::rgba8).found(Glsl::decodes).empty());
  // An sRGB target decodes as it is read.
  REQUIRE(Chain().then(Glsl::plain, Format::rgba8_srgb).found().empty());
  REQUIRE(Chain().then(Glsl::encodes, Format::rgba8).then(Glsl::plain, Format::rgba16f, ColorCoding::light).found() ==
          Names{"encoded-light"});
  // Numbers that are no colours have nothing to do with it.
  REQUIRE(Chain().then(Glsl::encodes, Format::r8).found().empty());
}

TEST_CASE("light that ends in a plain framebuffer of somebody else's is told to be too dark") {
  for (const bool srgb : {false, true}) {
    Chain chain;
    const TargetHandle window = chain.frame.target(
        "window", {.format = srgb ? Format::rgba8_srgb : Format::rgba8, .origin = Origin::outside_framebuffer});
    chain.then(Glsl::plain, window).frame.keep(window);
    REQUIRE(slugs(chain.frame.plan(8, 8).diagnostics()) == (srgb ? Names{} : Names{"never-encoded"}));
    Chain encoding;
    const TargetHandle other =
        encoding.frame.target("window", {.format = Format::rgba8, .origin = Origin::outside_framebuffer});
    encoding.then(Glsl::encodes, other).frame.keep(other);
    REQUIRE(slugs(encoding.frame.plan(8, 8).diagnostics()).empty());
  }
}
