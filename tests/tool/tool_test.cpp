#include "tool/folder.h"
#include "tool/process.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>

#include <fmt/ranges.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

using namespace periscena;
using Json = nlohmann::json;

namespace {

const std::string frame = "examples/01_first_picture.toml";

}  // namespace

TEST_CASE_METHOD(Folder, "render writes one picture, at a size and a time, and the same picture for the same time") {
  const Answer answer = periscena_command({"render", frame, "-o", at("a.png"), "--time", "2.5", "--size", "64x40"});
  INFO(answer.error);
  REQUIRE(answer.exit_code == 0);
  REQUIRE(answer.out == at("a.png") + ": 64 x 40 at 2.5 s\n");
  REQUIRE(answer.error.empty());  // no progress and no driver messages where there is no terminal
  const Image image = read_png(at("a.png"));
  REQUIRE(image.width() == 64);
  REQUIRE(image.at(32, 9)[0] > image.at(2, 2)[0] + 30);  // the ring stands out
  periscena_command({"render", frame, "-o", at("b.png"), "--time", "2.5", "--size", "64x40"});
  REQUIRE(read_png(at("b.png")) == image);
  periscena_command({"render", frame, "-o", at("c.png"), "--time", "3.5", "--size", "64x40"});
  REQUIRE_FALSE(read_png(at("c.png")) == image);
  periscena_command({"render", frame, "-o", at("d.png"), "--time", "10.5", "--size", "64x40"});
  REQUIRE(read_png(at("d.png")) == image);  // a period of 8 s later
}

TEST_CASE_METHOD(Folder, "a series numbers its pictures, and each is the picture of its own time") {
  const Answer answer = periscena_command(
      {"render", frame, "--frames", "2:5", "--rate", "4", "-o", at("f-%04d.png"), "--size", "32x20", "--json"});
  INFO(answer.error);
  REQUIRE(answer.exit_code == 0);
  const Json json = Json::parse(answer.out);
  REQUIRE(json["pictures"].size() == 3);
  REQUIRE(json["pictures"][1]["file"] == at("f-0003.png"));
  REQUIRE(json["pictures"][1]["time"] == 0.75);
  REQUIRE(scratch.file_count() == 3);
  periscena_command({"render", frame, "--time", "0.75", "-o", at("one.png"), "--size", "32x20"});
  REQUIRE(read_png(at("one.png")) == read_png(at("f-0003.png")));
}

TEST_CASE_METHOD(Folder, "a setting (--set) changes any key for one run") {
  REQUIRE(periscena_command({"render", frame, "-o", at("a.png"), "--size", "32x20", "--set",
                             "material.brass.base_color=[0, 0, 1]", "--set", "light.room.sky_nits=[0,0,0]"})
              .exit_code == 0);
  const auto pixel = read_png(at("a.png")).at(16, 4);
  REQUIRE(pixel[2] > 2 * pixel[0]);
  const Answer wrong = periscena_command({"render", frame, "-o", at("b.png"), "--set", "pass.pictur.light=lamp"});
  REQUIRE(wrong.exit_code == 1);
  REQUIRE_THAT(wrong.error, Catch::Contains("did you mean \"picture\"?"));
  REQUIRE(scratch.file_count() == 1);
}

TEST_CASE("check answers in text and in JSON, and needs no device") {
  const std::vector<std::string> no_device{"GALLIUM_DRIVER=nonsense", "LIBGL_DRIVERS_PATH=/nonexistent",
                                           "EGL_PLATFORM=nonsense"};
  const Answer good = periscena_command({"check", "demo/lock.toml"}, no_device);
  REQUIRE(good.exit_code == 0);
  REQUIRE(good.out == "demo/lock.toml: nothing wrong\n");
  const Answer json = periscena_command({"check", "tests/broken_frames/02_misspelt_kind.toml", "--json"}, no_device);
  REQUIRE(json.exit_code == 1);
  const Json list = Json::parse(json.out);
  REQUIRE(list.size() == 1);
  REQUIRE(list[0]["slug"] == "unknown-kind");
  REQUIRE(list[0]["file"] == "tests/broken_frames/02_misspelt_kind.toml");
  REQUIRE(list[0]["line"] == 3);
  REQUIRE(list[0]["column"] == 10);
  REQUIRE(list[0]["length"] == 8);
  REQUIRE(list[0]["mend"] == "did you mean \"forward\"?");
  REQUIRE(Json::parse(periscena_command({"check", "demo/lock.toml", "--json"}).out).empty());
}

TEST_CASE("plan tells passes, targets and memory, in text and in JSON that agree") {
  const Answer text = periscena_command({"plan", "demo/lock.toml", "--size", "100x50"});
  REQUIRE(text.exit_code == 0);
  REQUIRE_THAT(text.out, Catch::Contains("frame 100 x 50") && Catch::Contains("dusk sky + lock (forward), 200 x 100") &&
                             Catch::Contains("reads   scene.depth as depth") &&
                             Catch::Contains("scene.color as color, every pixel") &&
                             Catch::Contains("scene.depth as depth, cleared first"));
  const Json json = Json::parse(periscena_command({"plan", "demo/lock.toml", "--size", "100x50", "--json"}).out);
  std::size_t bytes = 0;
  for (const Json& target : json["targets"]) bytes += target["bytes"].get<std::size_t>();
  REQUIRE(json["unshared_bytes"] == bytes);
  REQUIRE(json["bytes"].get<std::size_t>() < bytes);
  REQUIRE(json["bytes"] == json["least_bytes"]);
  // Two colour targets and a depth at twice the size, three at a quarter (13 pixels high, rounded up), the picture; and
  // the mirror's colour and depth with four samples each, and its colour with one.
  REQUIRE(bytes == 200 * 100 * (8 + 8 + 4) + 3 * 25 * 13 * 8 + 100 * 50 * 4 + 256 * 256 * (4 * (8 + 4) + 8));
  REQUIRE(json["passes"].size() == 8);  // each sky is a part of what is drawn over it
  REQUIRE(json["passes"][1]["put_in"] == true);
  REQUIRE(json["targets"][0]["renderbuffer"] == true);
  REQUIRE(periscena_command({"plan", "tests/broken_frames/08_cycle.toml"}).exit_code == 1);
}

TEST_CASE_METHOD(Folder, "render tells what a frame cost, and plan what is drawn in which call and why") {
  const std::string picture = (scratch / "a.png").string();
  const Answer text = periscena_command({"render", "demo/lock.toml", "--size", "64x36", "-o", picture, "--stats"});
  REQUIRE(text.exit_code == 0);
  REQUIRE_THAT(text.out, Catch::Contains("draw calls") && Catch::Contains("\ndusk sky + lock ") &&
                             Catch::Contains("\nthe frame "));
  const Answer json =
      periscena_command({"render", "demo/lock.toml", "--size", "64x36", "-o", picture, "--stats", "--json"});
  const auto counts = nlohmann::json::parse(json.out)["counts"];
  REQUIRE(counts["passes"].size() == 8);
  REQUIRE(counts["frame"]["draw_calls"] < 25);
  REQUIRE(counts["frame"]["instances"] > 1000);

  const Answer batches = periscena_command({"plan", "demo/lock.toml", "--batches", "--size", "64x36"});
  REQUIRE(batches.exit_code == 0);
  REQUIRE_THAT(batches.out, Catch::Contains("pass \"dusk sky + lock\": ") &&
                                Catch::Contains("not one with the batch before it: mirrored") &&
                                Catch::Contains("instead of 512 x 512 rgba8_srgb"));
  const auto listed = nlohmann::json::parse(
      periscena_command({"plan", "demo/lock.toml", "--batches", "--size", "64x36", "--json"}).out);
  REQUIRE(listed["passes"].size() == 2);
  REQUIRE(periscena_command({"plan", "demo/lock.toml", "--batches", "--svg"}).exit_code == 2);
  const Answer none =
      periscena_command({"plan", "examples/03_offscreen.toml", "--batches", "--size", "8x8", "--time", "1"});
  REQUIRE(none.exit_code == 0);
}

TEST_CASE_METHOD(Folder, "loose pictures are packed into a sheet that a frame draws from, and nothing else is taken") {
  Image dot(3, 2, Format::rgba8_srgb);
  for (int i = 0; i < 6; ++i) dot.set(i % 3, i / 3, {255, 255, 255, 255});
  write_png(dot, at("dot.png"));
  write_png(Image(5, 4, Format::rgba8_srgb), at("hole.png"));
  const Answer packed = periscena_command({"pack", at("dot.png"), at("hole.png"), "-o", at("both.json")});
  INFO(packed.error);
  REQUIRE(packed.exit_code == 0);
  REQUIRE(packed.out == at("both.json") + ": 2 cells on 5 x 7 pixels\n");
  write_file(at("frame.toml"), std::string_view(R"(
[frame]
size = [16, 8]

[[pass]]
name   = "dots"
kind   = "sprites"
filter = "nearest"
sheets = { both = "both.json" }
writes = { color = "output" }

[[pass.sprite]]
cell   = "dot"
at     = [2, 1]
corner = "lower_right"
)"));
  REQUIRE(periscena_command({"render", at("frame.toml"), "-o", at("a.png")}).exit_code == 0);
  const Image image = read_png(at("a.png"));
  for (int y = 0; y < 8; ++y)
    for (int x = 0; x < 16; ++x) REQUIRE((image.at(x, y)[0] > 0) == (x >= 11 && x < 14 && y >= 5 && y < 7));
  REQUIRE(periscena_command({"pack", at("dot.png"), "-o", at("both.png")}).exit_code == 2);
  REQUIRE(periscena_command({"pack", at("none.png"), "-o", at("c.json")}).exit_code == 3);
  REQUIRE(periscena_command({"pack", at("dot.png"), at("dot.png"), "-o", at("c.json")}).exit_code != 0);
  REQUIRE_FALSE(std::filesystem::exists(at("c.json")));
}

TEST_CASE("device tells what the driver says, in text and in JSON") {
  const Answer text = periscena_command({"device"});
  REQUIRE(text.exit_code == 0);
  REQUIRE_THAT(text.out,
               Catch::Contains("OpenGL") && Catch::Contains("MAX_TEXTURE_SIZE") && Catch::Contains("rgba16f"));
  const Json json = Json::parse(periscena_command({"device", "--json"}).out);
  REQUIRE(json["major"].get<int>() * 10 + json["minor"].get<int>() >= 45);
  REQUIRE(json["limits"]["MAX_TEXTURE_SIZE"].get<int>() >= 16384);
}

TEST_CASE("every verb helps, with an example, and the version is told") {
  for (const char* verb : {"render", "check", "plan", "device", "bench"}) {
    const Answer answer = periscena_command({verb, "--help"});
    REQUIRE(answer.exit_code == 0);
    REQUIRE_THAT(answer.out, Catch::Contains("Example: periscena ") && Catch::Contains("--json"));
  }
  REQUIRE(periscena_command({"--version"}).out == "0.1.0\n");
}

TEST_CASE_METHOD(Folder, "wrong usage ends with 2, and says what is right") {
  const auto usage = [&](std::vector<std::string> arguments) {
    const Answer answer = periscena_command(std::move(arguments));
    CHECK(answer.exit_code == 2);
    CHECK(scratch.file_count() == 0);
    return answer.error + answer.out;
  };
  usage({});
  usage({"rendr"});
  usage({"render"});
  usage({"check", frame, "--no-such-option"});
  REQUIRE_THAT(usage({"render", frame, "-o", at("a.png"), "--size", "0x40"}), Catch::Contains("at least 1"));
  REQUIRE_THAT(usage({"render", frame, "-o", at("a.png"), "--size", "-5x40"}), Catch::Contains("at least 1"));
  REQUIRE_THAT(usage({"render", frame, "-o", at("a.png"), "--size", "640"}), Catch::Contains("such as 640x360"));
  REQUIRE_THAT(usage({"render", frame, "-o", at("a.png"), "--size", "9999999999x1"}), Catch::Contains("is no size"));
  REQUIRE_THAT(usage({"render", frame, "-o", at("a.png"), "--time", "nan"}), Catch::Contains("no finite number"));
  REQUIRE_THAT(usage({"render", frame, "-o", at("a.png"), "--frames", "5:5"}), Catch::Contains("holds no frame"));
  REQUIRE_THAT(usage({"render", frame, "-o", at("a.png"), "--frames", "0:4"}), Catch::Contains("%04d"));
  REQUIRE_THAT(usage({"render", frame, "-o", at("%s%d.png"), "--frames", "0:4"}), Catch::Contains("%04d"));
  REQUIRE_THAT(usage({"render", frame, "-o", at("%d.png"), "--frames", "0:4", "--rate", "0"}),
               Catch::Contains("more than 0"));
}

TEST_CASE_METHOD(Folder, "what the machine can't do ends with 3, and the file in the way is left as it was") {
  const auto failure = [](std::vector<std::string> arguments, const std::vector<std::string>& variables = {}) {
    INFO(fmt::format("periscena {}", fmt::join(arguments, " ")));
    const Answer answer = periscena_command(std::move(arguments), variables);
    INFO(answer.error);
    CHECK(answer.exit_code == 3);
    return answer.error;
  };
  // This driver leaks where it gives up, and is unloaded by then, so no suppression can name it.
  const std::string driver_leaks = "ASAN_OPTIONS=detect_leaks=0";
  REQUIRE_THAT(failure({"check", "examples/01_frist_picture.toml"}),
               Catch::Contains("did you mean \"examples/01_first_picture.toml\"?"));
  REQUIRE_THAT(failure({"check", "examples"}), Catch::Contains("it is a folder"));
  write_file(scratch / "latin.toml", "# caf\xE9\n");
  REQUIRE_THAT(failure({"check", at("latin.toml")}), Catch::Contains("not UTF-8"));
  REQUIRE_THAT(failure({"render", frame, "-o", at("no/such/a.png")}),
               Catch::Contains("does not exist") && Catch::Contains("mkdir -p"));
  REQUIRE_THAT(failure({"render", frame, "-o", scratch.path().string()}), Catch::Contains("it is a folder"));
  REQUIRE_THAT(failure({"render", frame, "-o", ""}), Catch::Contains("name a file"));
  REQUIRE_THAT(failure({"render", frame, "-o", "/proc/a.png"}), Catch::Contains("cannot write"));
  REQUIRE_THAT(failure({"render", frame, "-o", at("a.png")}, {"GALLIUM_DRIVER=nonsense", driver_leaks}),
               Catch::Contains("no-device") && Catch::Contains("GALLIUM_DRIVER=nonsense"));
  REQUIRE_THAT(failure({"device"}, {"LIBGL_DRIVERS_PATH=/nonexistent", "EGL_PLATFORM=nonsense", driver_leaks}),
               Catch::Contains("EGL_PLATFORM=nonsense"));
  REQUIRE_THAT(failure({"device"}, {"__EGL_VENDOR_LIBRARY_FILENAMES=/nonexistent.json", driver_leaks}),
               Catch::Contains("no-device"));
  REQUIRE_THAT(
      failure({"device"}, {"MESA_GL_VERSION_OVERRIDE=3.3", driver_leaks}),
      Catch::Contains("old-device") && Catch::Contains("OpenGL 4.5 core is needed, but this driver offers 3.3"));
  REQUIRE(Json::parse(periscena_command({"check", "nowhere.toml", "--json"}).out)[0]["slug"] == "unreadable-file");
  REQUIRE(scratch.file_count() == 1);
}

TEST_CASE_METHOD(Folder, "100000 x 100000 is refused against the device's limit, before anything is made") {
  const Answer answer = periscena_command({"render", frame, "-o", at("a.png"), "--size", "100000x100000"});
  REQUIRE(answer.exit_code == 1);
  REQUIRE_THAT(answer.error, Catch::Contains("over-device-limit") && Catch::Contains("100000 x 100000"));
  REQUIRE(scratch.file_count() == 0);
}

TEST_CASE_METHOD(Folder, "a time that GLSL can't hold is refused") {
  const Answer answer = periscena_command({"render", frame, "-o", at("a.png"), "--time", "1e300"});
  REQUIRE(answer.exit_code == 1);
  REQUIRE_THAT(answer.error, Catch::Contains("32-bit float"));
}

TEST_CASE_METHOD(Folder, "a shader with an error on line 7 of an included file is told with that file, line and text") {
  write_file(scratch / "light.glsl", "// 1\n// 2\n// 3\n// 4\n// 5\nfloat light() {\n  return brightnes * 2.0;\n}\n");
  write_file(scratch / "main.frag",
             "#include \"periscena/fullscreen.glsl\"\n#include \"light.glsl\"\nout vec4 color;\nvoid main() { color = "
             "vec4(light()); }\n");
  write_file(
      scratch / "frame.toml",
      "[[pass]]\nname = \"a\"\nkind = \"fullscreen\"\nshader = \"main.frag\"\nwrites = { color = \"output\" }\n");
  const Answer answer = periscena_command({"render", at("frame.toml"), "-o", at("a.png")});
  REQUIRE(answer.exit_code == 1);
  REQUIRE_THAT(answer.error,
               Catch::StartsWith(at("light.glsl") + ":7:10: error[shader]: the fragment program of \"a\": `brightnes' "
                                                    "undeclared\n  7 |   return brightnes * 2.0;\n"));
  REQUIRE_FALSE(std::filesystem::exists(scratch / "a.png"));
}

TEST_CASE_METHOD(Folder, "a file that is in the way of a failing render is not touched") {
  write_file(scratch / "a.png", "keep me");
  REQUIRE(periscena_command({"render", "tests/broken_frames/08_cycle.toml", "-o", at("a.png")}).exit_code == 1);
  REQUIRE(read_text(scratch / "a.png")->text == "keep me");
}

TEST_CASE_METHOD(Folder, "plan draws the frame as DOT and as SVG, into a file or to standard output") {
  REQUIRE_THAT(periscena_command({"plan", frame, "--dot"}).out,
               Catch::StartsWith("digraph frame {") && Catch::Contains("pass0"));
  REQUIRE(periscena_command({"plan", frame, "--svg", "-o", at("plan.svg")}).exit_code == 0);
  REQUIRE_THAT(read_text(at("plan.svg"))->text, Catch::StartsWith("<svg") && Catch::EndsWith("</svg>\n"));
  REQUIRE(periscena_command({"plan", frame, "--svg", "--dot"}).exit_code == 2);
  REQUIRE(periscena_command({"plan", frame, "--svg", "-o", at("no/where.svg")}).exit_code == 3);
}
