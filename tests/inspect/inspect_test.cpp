#include "gl/draws.h"
#include "scratch.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/inspect/comparison.h>
#include <periscena/inspect/probe.h>
#include <periscena/inspect/report.h>
#include <periscena/inspect/sheet.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cmath>

using namespace periscena;
using Json = nlohmann::json;

namespace {

/// A frame with a target of each kind: light with a NaN in it, ids with samples, normals, depth and stencil, levels,
/// layers, and the picture.
struct Kinds {
  FrameGraph frame;

  explicit Kinds(const std::string& grey = "0.25") {
    const TargetHandle light = frame.target("light", {.format = Format::rgba16f});
    const TargetHandle ids = frame.target("ids", {.format = Format::r32ui, .samples = 4});
    const TargetHandle normals = frame.target("normals", {.format = Format::rgba16f, .holds = Holds::normal});
    const TargetHandle depth =
        frame.target("depth", {.format = Format::depth24_stencil8, .clear_depth = 0.5f, .clear_stencil = 3});
    const TargetHandle chain =
        frame.target("chain", {.format = Format::r8, .size = TargetSize::of_frame(0.5f), .levels = 2});
    const TargetHandle layers = frame.target("layers", {.format = Format::rg16i, .layers = 2});
    frame.add(fill("light",
                   "vec4(ivec2(gl_FragCoord.xy) == ivec2(2, 7) ? uintBitsToFloat(0x7FC00000u) : 800.0, 5.0, 0.0, 1.0)",
                   {.target = light}, "vec4"));
    frame.add(fill("ids", "uvec4(70000u + uint(gl_FragCoord.x))", {.target = ids}, "uvec4"));
    frame.add(fill("normals", "vec4(0.0, -1.0, 0.0, 0.0)", {.target = normals}));
    Pass touch;
    touch.name = "depth";
    touch.writes = {{"depth", depth}, {"color", normals}};
    touch.work = gl::raw_work([](gl::PassContext&) {}, gl::Touched::nothing);
    frame.add(std::move(touch));
    frame.add(fill("chain", "vec4(0.5)", {.target = chain}));
    frame.add(passes::mip_chain({.levels = chain}));
    for (const int layer : {0, 1}) {
      frame.add(fill("layer " + std::to_string(layer), fmt::format("ivec4(-5, {}, 0, 0)", layer),
                     {.target = layers, .layer = layer}, "ivec4"));
    }
    frame.add(fill("end", "vec4(" + grey + ")", {.target = frame.output()}, "vec4"));
    for (const char* name : {"light", "ids", "normals", "depth", "chain", "layers"}) frame.keep(name);
  }
};

struct Running {
  TestDevice test;
  Kinds kinds;
  gl::FrameRunner runner{test.device, planned(kinds.frame, test.device, 16, 8)};
};

}  // namespace

TEST_CASE("a capture holds every target of every pass, without loss, with an index") {
  Running running;
  const Scratch scratch("capture");
  const auto index = inspect::write_capture(running.runner, {.seconds = 1.5}, scratch / "a");
  const Json json = Json::parse(read_text(scratch / "a" / "index.json")->text);
  REQUIRE(json["periscena_capture"] == 1);
  REQUIRE(json["seconds"] == 1.5);
  REQUIRE(json["passes"].size() == running.runner.plan().passes().size());
  REQUIRE(index.entries.size() == 12);  // ids twice: drawn, and resolved; depth and its stencil; normals twice
  const auto entry = [&](const std::string& pass, const std::string& target, bool stencil = false) {
    for (const auto& one : index.entries) {
      if (one.pass == pass && one.target == target && one.stencil == stencil) return one;
    }
    FAIL(pass + " / " + target);
    return index.entries[0];
  };
  REQUIRE(inspect::read_captured(index, entry("ids", "ids")).at(3, 3)[0] == 70003);
  REQUIRE(inspect::read_captured(index, entry("layer 1", "layers")).at(0, 0) == std::array<double, 4>{-5, 1, 0, 0});
  REQUIRE(inspect::read_captured(index, entry("depth", "depth")).at(3, 3)[0] == Approx(0.5).margin(1e-6));
  REQUIRE(inspect::read_captured(index, entry("depth", "depth", true)).at(3, 3)[0] == 3);
  REQUIRE(inspect::read_captured(index, entry("end", "output")).at(3, 3)[0] == Approx(137).margin(1));
  const Image light = inspect::read_captured(index, entry("light", "light"));
  REQUIRE(light.at(0, 0)[0] == 800);
  REQUIRE(std::isnan(light.at(2, 0)[0]));
  const Json& told = json["passes"][0]["targets"][0];
  REQUIRE(told["format"] == "rgba16f");
  REQUIRE(told["channels"][0]["nan"] == 1);
  REQUIRE(told["channels"][0]["max"] == 800);
  REQUIRE(told["channels"][1]["mean"] == 5);
  // Again into the same folder: replaced as a whole, and nothing is left beside it.
  inspect::write_capture(running.runner, {}, scratch / "a");
  REQUIRE(scratch.file_count() == 1);
}

TEST_CASE("a capture folder with a missing, cut, exchanged or foreign file is told") {
  Running running;
  const Scratch scratch("broken-capture");
  const auto folder = scratch / "a";
  const auto index = inspect::write_capture(running.runner, {}, folder);
  const auto refusal = [&] { return thrown_text([&] { inspect::compare_captures(folder, folder); }); };
  REQUIRE(refusal().empty());
  const auto first = folder / index.entries[0].file, second = folder / index.entries[2].file;
  const std::string bytes = read_bytes(first), others = read_bytes(second);
  std::filesystem::remove(first);
  REQUIRE_THAT(refusal(),
               Catch::Contains("broken-capture") && Catch::Contains("is missing; it holds \"light\" after \"light\""));
  write_file(first, std::string_view(bytes).substr(0, bytes.size() / 2));
  REQUIRE_THAT(refusal(), Catch::Contains("broken-capture") && Catch::Contains("and was written with"));
  std::string same_length = bytes;
  same_length.back() ^= 1;
  write_file(first, same_length);
  REQUIRE_THAT(refusal(), Catch::Contains("is not the file that was written"));
  write_file(first, others);
  REQUIRE_THAT(refusal(), Catch::Contains("broken-capture"));
  write_file(first, bytes);
  REQUIRE(refusal().empty());
  const std::string text = read_bytes(folder / "index.json");
  for (std::size_t length = 0; length < text.size(); length += 1 + text.size() / 41) {
    write_file(folder / "index.json", std::string_view(text).substr(0, length));
    REQUIRE_THAT(refusal(), Catch::Contains("broken-capture"));
  }
  for (const std::string hostile : {"[]", "{\"periscena_capture\": 7}", "{\"periscena_capture\": \"x\"}", "null"}) {
    write_file(folder / "index.json", hostile);
    REQUIRE_THAT(refusal(), Catch::Contains("broken-capture"));
  }
  std::string outside = text;
  const std::string file = index.entries[0].file;
  outside.replace(outside.find(file), file.size(), "../../etc/passwd");
  write_file(folder / "index.json", outside);
  REQUIRE_THAT(refusal(), Catch::Contains("outside of its folder"));
  // A folder with anything else in it is not written to.
  std::filesystem::create_directory(scratch / "mine");
  write_file(scratch / "mine" / "diary.txt", "dear diary");
  REQUIRE(thrown_slug([&] { inspect::write_capture(running.runner, {}, scratch / "mine"); }) == "folder-in-use");
  REQUIRE(read_bytes(scratch / "mine" / "diary.txt") == "dear diary");
  REQUIRE(thrown_slug([&] { inspect::write_capture(running.runner, {}, scratch / "no" / "where"); }) ==
          "unwritable-file");
}

TEST_CASE("two captures: the first target that differs is named, with how much and where") {
  TestDevice test;
  const Scratch scratch("two-captures");
  for (const auto& [name, grey] : {std::pair{"a", "0.25"}, std::pair{"b", "gl_FragCoord.x < 4.0 ? 0.5 : 0.25"}}) {
    Kinds kinds(grey);
    gl::FrameRunner runner(test.device, planned(kinds.frame, test.device, 16, 8));
    inspect::write_capture(runner, {}, scratch / name);
  }
  const auto found = inspect::compare_captures(scratch / "a", scratch / "b");
  REQUIRE(found.compared == 12);
  REQUIRE(found.differences.size() == 1);
  REQUIRE(found.differences[0].pass == "end");
  REQUIRE(found.differences[0].target == "output");
  REQUIRE(found.differences[0].numbers.pixels == 4 * 8);
  REQUIRE(found.heat.width() == 16);
  REQUIRE(found.heat.at(0, 0)[0] == 255);
  REQUIRE(found.heat.at(9, 0)[0] == 0);
  Kinds kinds;
  gl::FrameRunner smaller(test.device, planned(kinds.frame, test.device, 8, 8));
  inspect::write_capture(smaller, {}, scratch / "c");
  REQUIRE(inspect::compare_captures(scratch / "a", scratch / "c").differences[0].what == "16 x 8 pixels against 8 x 8");
}

TEST_CASE("probe tells exact numbers at a place in every target, scaled to its size, with units") {
  Running running;
  const auto entries = inspect::probe(running.runner, {}, {2, 0, 1, 1});
  REQUIRE(entries.size() == 12);
  REQUIRE(std::isnan(entries[0].values[0]));
  REQUIRE(entries[0].unit == "nits");
  REQUIRE(entries[1].values == std::vector<double>{70002});
  REQUIRE(entries[1].unit == "id");
  const auto chain =
      std::find_if(entries.begin(), entries.end(), [](const auto& one) { return one.target == "chain"; });
  REQUIRE(chain->x == 1);  // half the size
  REQUIRE(chain->values == std::vector<double>{128});
  REQUIRE(std::any_of(entries.begin(), entries.end(),
                      [](const auto& one) { return one.target == "output" && one.unit == "of 255, sRGB"; }));
  const std::string text = inspect::to_text(entries);
  REQUIRE_THAT(text, Catch::Contains("depth stencil") && Catch::Contains("chain level 1") && Catch::Contains("R nan"));
  const Json json = Json::parse(inspect::to_json(entries));
  REQUIRE(json[0]["values"][0] == "nan");
  const auto region = inspect::probe(running.runner, {}, {0, 0, 4, 2});
  REQUIRE(region[0].region[0].nan == 1);
  REQUIRE(region[0].region[0].finite == 7);
  REQUIRE(region[1].region[0].least == 70000);
  REQUIRE(region[1].region[0].most == 70003);
  for (const PixelRect outside :
       {PixelRect{16, 0, 1, 1}, PixelRect{-1, 0, 1, 1}, PixelRect{0, 0, 17, 1}, PixelRect{0, 0, 0, 1}}) {
    REQUIRE(thrown_slug([&] { inspect::probe(running.runner, {}, outside); }) == "pixel-outside");
  }
}

TEST_CASE("each kind of target has a view that fits it, and NaN stands out") {
  Running running;
  std::vector<inspect::CapturedTarget> found;
  inspect::visit_targets(running.runner, {}, [&](const inspect::CapturedTarget& one) { found.push_back(one); });
  const auto view = [&](const std::string& target, bool stencil = false) {
    const auto one = std::find_if(found.begin(), found.end(),
                                  [&](const auto& f) { return f.target == target && f.stencil == stencil; });
    REQUIRE(one != found.end());
    return inspect::fitting_view(*one, 16, 8);
  };
  const auto light = view("light");
  REQUIRE(light.scale == "white is 800 nits");
  REQUIRE(light.picture.at(2, 0) == std::array<double, 4>{255, 0, 255, 255});
  REQUIRE(light.picture.at(5, 5)[0] == 255);
  // Brought down to a quarter, the one NaN still shows.
  const auto small = inspect::fitting_view(found[0], 4, 2);
  REQUIRE(small.picture.width() == 4);
  REQUIRE(small.picture.at(0, 0) == std::array<double, 4>{255, 0, 255, 255});
  REQUIRE(small.picture.at(2, 1)[2] == 0);
  const auto ids = view("ids");
  REQUIRE_FALSE(ids.picture.at(3, 3) == ids.picture.at(4, 3));
  const auto normals = view("normals");
  REQUIRE(normals.picture.at(1, 1)[0] == Approx(127.5).margin(1));
  REQUIRE(normals.picture.at(1, 1)[1] == 0);
  REQUIRE(view("depth", true).scale == "1 level: 3");
}

TEST_CASE("depth is shown as distance through the lens that drew it") {
  inspect::CapturedTarget target;
  target.format = Format::depth32f;
  target.holds = Holds::depth;
  target.camera = Camera{};
  target.image = Image(100, 1, Format::r32f);
  const Projection lens = target.camera->projection(1);
  for (int x = 0; x < 100; ++x) {
    const double metres = 1 + 0.5 * x;
    target.image.set(x, 0, {x == 99 ? 0.0 : lens.near() / metres, 0, 0, 0});  // reversed, infinite: near / distance
  }
  const auto view = inspect::fitting_view(target, 100, 1);
  REQUIRE_THAT(view.scale, Catch::Contains("1 m light"));
  for (int x = 1; x < 98; ++x) REQUIRE(view.picture.at(x, 0)[0] <= view.picture.at(x - 1, 0)[0]);
  REQUIRE(view.picture.at(0, 0)[0] > 240);
  REQUIRE(view.picture.at(99, 0)[2] > view.picture.at(99, 0)[0] + 20);  // nothing was drawn there
}

TEST_CASE(
    "motions are shown by their direction, grey where nothing moves, and how many frames a mean has is no light") {
  inspect::CapturedTarget target;
  target.slot = "velocity";
  target.shows = Shows::motions;
  target.format = Format::rg16f;
  target.image = Image(3, 1, Format::rg32f);
  target.image.set(0, 0, {0, 0, 0, 0});
  target.image.set(1, 0, {0.02, 0, 0, 0});
  target.image.set(2, 0, {0, -0.02, 0, 0});
  const auto view = inspect::fitting_view(target, 3, 1);
  CHECK(view.scale == "to the right red, up green; full is 0.02 of the picture");
  for (std::size_t c = 0; c < 3; ++c) CHECK(view.picture.at(0, 0)[c] == Approx(127.5).margin(1));
  CHECK(view.picture.at(1, 0)[0] == 255);
  CHECK(view.picture.at(2, 0)[1] == 0);
  target.image = Image(3, 1, Format::rg32f);
  CHECK(inspect::fitting_view(target, 3, 1).scale == "nothing moves");
  target.shows = Shows::counts;
  target.slot = "count";
  target.format = Format::r16f;
  target.image = Image(3, 1, Format::r32f);
  target.image.set(1, 0, {16, 0, 0, 0});
  CHECK(inspect::fitting_view(target, 3, 1).scale == "white is 16");
}

TEST_CASE("a sheet has a cell for every target, in order, and letters on it") {
  Running running;
  const Image sheet = inspect::make_sheet(running.runner, {}, {.width = 640, .columns = 4});
  REQUIRE(sheet.width() == 640);
  // 12 targets in 3 rows. The title is written in a light colour on dark paper.
  double brightest = 0;
  for (int y = 15; y < 40; ++y) {
    for (int x = 18; x < 200; ++x) brightest = std::max(brightest, sheet.at(x, y)[0]);
  }
  REQUIRE(brightest > 200);
  REQUIRE(sheet.at(2, 2) == std::array<double, 4>{20, 24, 30, 255});
  REQUIRE(thrown_slug([&] { inspect::make_sheet(running.runner, {}, {.width = 10}); }) == "bad-size");
  REQUIRE(thrown_slug([&] { inspect::make_sheet(running.runner, {}, {.width = 320, .columns = 60}); }) == "bad-size");
}

TEST_CASE("a plan's DOT and SVG name every pass and target once, whatever letters they have") {
  FrameGraph frame;
  const TargetHandle odd = frame.target("a \"b\" <c> & d", {});
  frame.add(fill("first \\ <one>", "vec4(1.0)", {.target = odd}));
  frame.add(fill("last", "texture(x, uv)", {.target = frame.output()}, "vec4", {{"x", odd}}, "uniform sampler2D x;\n"));
  const FramePlan plan = frame.plan(8, 8).value();
  const std::string dot = inspect::to_dot(plan), svg = inspect::to_svg(plan);
  REQUIRE_THAT(dot, Catch::Contains("a \\\"b\\\" <c> & d") && Catch::Contains("target0 -> pass1") &&
                        Catch::Contains("pass1 -> target1"));
  REQUIRE_THAT(svg, Catch::Contains("a &quot;b&quot; &lt;c&gt; &amp; d") && Catch::Contains("</svg>") &&
                        !Catch::Contains("<c>"));
}
