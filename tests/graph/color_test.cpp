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

namespace {

/// Light of a scene, then passes that take and make ranges of light, the last into the output.
Diagnostics along(std::initializer_list<std::pair<LightRange, LightRange>> passes) {
  FrameGraph frame;
  TargetHandle last = frame.target("scene.color", {.format = Format::rgba16f});
  Pass lock = pass_of("lock", {}, {});
  lock.writes = {{.slot = "color", .target = last, .covering = Covering::replaces}};
  lock.makes = LightRange::scene;
  frame.add(std::move(lock));
  std::size_t count = 0;
  for (const auto& [takes, makes] : passes) {
    Pass pass = pass_of("pass " + std::to_string(++count), {}, {});
    const TargetHandle into = count == passes.size()
                                  ? frame.output()
                                  : frame.target("target " + std::to_string(count), {.format = Format::rgba16f});
    pass.reads = {{"from", last}};
    pass.writes = {{.slot = "color", .target = into, .covering = Covering::replaces}};
    pass.takes = takes;
    pass.makes = makes;
    frame.add(std::move(pass));
    last = into;
  }
  return frame.plan(8, 8).diagnostics();
}

constexpr std::pair bloom{LightRange::scene, LightRange::scene}, tone_map{LightRange::scene, LightRange::screen},
    grade{LightRange::screen, LightRange::screen}, blur{LightRange::unknown, LightRange::same},
    own{LightRange::unknown, LightRange::unknown};

}  // namespace

TEST_CASE("light is bent into the range of a screen once, after bloom and before what wants 0 to 1") {
  CHECK(along({bloom, tone_map, grade}).empty());
  CHECK(along({blur, bloom, blur, tone_map, blur, grade}).empty());
  CHECK(slugs(along({tone_map, tone_map})) == Names{"toned-twice"});
  CHECK(slugs(along({tone_map, bloom, grade})) == Names{"toned-before", "not-toned"});
  CHECK(slugs(along({tone_map, blur, bloom})) == Names{"toned-before"});
  CHECK(slugs(along({grade, tone_map})) == Names{"not-toned", "toned-twice"});
  // What GLSL of one's own makes, nobody knows.
  CHECK(along({own, grade}).empty());
  CHECK(along({tone_map, own, tone_map}).empty());
  const std::string told = to_text(along({tone_map, blur, bloom}));
  INFO(told);
  CHECK(told.find("pass \"pass 3\" takes light as bright as it is in the scene, but pass \"pass 1\" has bent \"target "
                  "2\" into the range of a screen") != std::string::npos);
  CHECK(told.find("let it read what pass \"pass 1\" reads") != std::string::npos);
}
