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

TEST_CASE_METHOD(Folder, "capture, compare: a change is found in the first target that it reaches") {
  const std::string several = "examples/04_several_outputs.toml";
  const auto capture = [&](const std::string& name, std::vector<std::string> more) {
    more.insert(more.begin(), {"capture", several, "-o", at(name), "--size", "96x60", "--json"});
    const Answer answer = periscena_command(more);
    INFO(answer.error);
    REQUIRE(answer.exit_code == 0);
    return Json::parse(answer.out);
  };
  REQUIRE(capture("a", {})["pictures"] == 5);
  capture("b", {});
  capture("c", {"--set", "view.front.fov_y_degrees=37"});
  const Answer same = periscena_command({"compare", at("a"), at("b")});
  REQUIRE(same.exit_code == 0);
  REQUIRE(same.out == "0 of 5 targets differ\n");
  const Answer other = periscena_command({"compare", at("a"), at("c"), "--heat", at("heat.png")});
  REQUIRE(other.exit_code == 1);
  REQUIRE_THAT(other.out, Catch::StartsWith("first differ in target \"light\" after pass \"shapes\"") &&
                              Catch::Contains("5 of 5"));
  REQUIRE(read_png(at("heat.png")).width() == 96);
  const Json json = Json::parse(periscena_command({"compare", at("a"), at("c"), "--json"}).out);
  REQUIRE(json["differences"][0]["numbers"]["pixels"].get<int>() > 100);
  // Bad input.
  std::filesystem::remove(std::filesystem::path(at("a")) / "index.json");
  REQUIRE(periscena_command({"compare", at("a"), at("b")}).exit_code == 3);
  REQUIRE_THAT(periscena_command({"compare", at("b"), at("heat.png")}).error, Catch::Contains("unlike-things"));
  REQUIRE(periscena_command({"compare", at("b"), at("nothing")}).exit_code == 3);
  REQUIRE(periscena_command({"capture", several, "-o", at("a")}).exit_code == 3);  // no capture any more: somebody's
  REQUIRE(periscena_command({"capture", several, "-o", at("no/where")}).exit_code == 3);
}

TEST_CASE_METHOD(Folder, "compare of pictures: numbers, tolerance, sizes") {
  for (const auto& [name, ev] : {std::pair{"a.png", "10.2"}, std::pair{"b.png", "10.6"}}) {
    periscena_command({"render", "demo/lock.toml", "-o", at(name), "--size", "64x36", "--set",
                       std::string("pass.finish.uniforms.exposure_ev100=") + ev});
  }
  const Json json = Json::parse(periscena_command({"compare", at("a.png"), at("b.png"), "--json"}).out);
  REQUIRE(json["same"] == false);
  const double greatest = json["greatest"];
  REQUIRE(greatest > 0.02);
  REQUIRE(json["ssim"].get<double>() > 0.8);
  REQUIRE(periscena_command({"compare", at("a.png"), at("b.png")}).exit_code == 1);
  REQUIRE(periscena_command({"compare", at("a.png"), at("b.png"), "--tolerance", std::to_string(greatest + 0.001)})
              .exit_code == 0);
  REQUIRE(periscena_command({"compare", at("a.png"), at("b.png"), "--by", "rmse", "--tolerance", "0.0001"}).exit_code ==
          1);
  REQUIRE(periscena_command({"compare", at("a.png"), at("a.png")}).out == "equal\n");
  periscena_command({"render", "demo/lock.toml", "-o", at("c.png"), "--size", "32x36"});
  const Answer sizes = periscena_command({"compare", at("a.png"), at("c.png")});
  REQUIRE(sizes.exit_code == 1);
  REQUIRE_THAT(sizes.error, Catch::Contains("size-mismatch") && Catch::Contains("64 x 36"));
}

TEST_CASE_METHOD(Folder, "sheet writes one picture, probe tells what is at a pixel of it") {
  REQUIRE(periscena_command({"sheet", frame, "-o", at("sheet.png"), "--width", "640"}).exit_code == 0);
  REQUIRE(read_png(at("sheet.png")).width() == 640);
  REQUIRE(periscena_command({"sheet", frame, "-o", at("no/where.png")}).exit_code == 3);
  REQUIRE(periscena_command({"sheet", frame, "-o", at("s.png"), "--width", "5"}).exit_code == 2);
  const Answer text = periscena_command({"probe", "examples/04_several_outputs.toml", "--pixel", "480,240"});
  REQUIRE(text.exit_code == 0);
  REQUIRE_THAT(text.out, Catch::Contains("pixel 480,240 of 960 x 600") && Catch::Contains("R 3  id"));
  const Json json = Json::parse(periscena_command({"probe", frame, "--pixel", "480,100", "--json"}).out);
  REQUIRE(json.size() == 2);
  REQUIRE(json[1]["target"] == "depth");
  REQUIRE(json[1]["metres"].get<double>() > 1.5);
  REQUIRE(json[1]["metres"].get<double>() < 4);
  REQUIRE(periscena_command({"probe", frame, "--pixel", "960,0"}).exit_code == 1);
  REQUIRE_THAT(periscena_command({"probe", frame, "--pixel", "960,0"}).error, Catch::Contains("pixel-outside"));
  REQUIRE_THAT(periscena_command({"probe", frame, "--region", "0,0,4,4"}).out, Catch::Contains("mean"));
  for (const std::vector<std::string>& wrong :
       std::vector<std::vector<std::string>>{{"probe", frame},
                                             {"probe", frame, "--pixel", "1;2"},
                                             {"probe", frame, "--pixel", "1,2,3"},
                                             {"probe", frame, "--region", "1,2"},
                                             {"probe", frame, "--pixel", "1,2", "--region", "1,2,3,4"}}) {
    REQUIRE(periscena_command(wrong).exit_code == 2);
  }
}

TEST_CASE_METHOD(Folder, "ten gibibytes of targets are refused on the device before they are made") {
  const Answer answer =
      periscena_command({"render", "demo/lock.toml", "-o", at("huge.png"), "--size", "8192x8192", "--set",
                         "target.scene.color.format=rgba32f", "--set", "target.air.color.format=rgba32f"});
  REQUIRE(answer.exit_code == 1);
  REQUIRE_THAT(answer.error, Catch::Contains("over-memory") && Catch::Contains("\"scene.color\" takes"));
}

TEST_CASE_METHOD(Folder,
                 "a tolerance that is none, a capture without a name, a text for a number are told as what they are") {
  REQUIRE(periscena_command({"compare", "a.png", "b.png", "--tolerance", "nan"}).exit_code == 2);
  REQUIRE_THAT(periscena_command({"capture", frame, "-o", ""}).error, Catch::Contains("the folder has no name"));
  const Answer text = periscena_command({"check", frame, "--set", "target.depth.samples=four"});
  REQUIRE_THAT(text.out,
               Catch::Contains("wants a whole number") && Catch::Contains("write it without quotes: samples = 1"));
}

namespace {

/// RFC 4648, 4; the text is a whole number of fours.
std::string from_base64(const std::string& text) {
  const std::string digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string bytes;
  for (std::size_t i = 0; i < text.size(); i += 4) {
    std::size_t three = 0, given = 0;
    for (std::size_t k = 0; k < 4; ++k) {
      const std::size_t digit = digits.find(text[i + k]);
      three = three << 6 | (digit == std::string::npos ? 0 : digit);
      given += digit != std::string::npos;
    }
    for (std::size_t k = 0; k + 1 < given; ++k) bytes += static_cast<char>(three >> (16 - 8 * k) & 255);
  }
  return bytes;
}

}  // namespace

TEST_CASE_METHOD(Folder, "bench tells what each pass takes, and a page shows it with the pictures and no script") {
  const Answer answer = periscena_command(
      {"bench", frame, "examples/26_filters.toml", "--size", "160x90", "--rounds", "2", "--page", at("costs.html")});
  INFO(answer.error);
  REQUIRE(answer.exit_code == 0);
  for (const char* part : {"examples/01_first_picture.toml on ", "lens + look + warm + corners + film", "draw calls",
                           "ms in all with a wait after each pass", "costs.html: 2 frames"})
    CHECK_THAT(answer.out, Catch::Contains(part));
  const std::string page = read_text(at("costs.html"))->text;
  CHECK_THAT(page, Catch::StartsWith("<!doctype html>") && Catch::EndsWith("</html>\n"));
  CHECK_THAT(page, !Catch::Contains("<script") && !Catch::Contains("http"));
  // Each picture lies in the page, whole: what base64 says is the PNG again.
  std::size_t count = 0;
  const std::string before = "base64,";
  for (std::size_t at_text = page.find(before); at_text != std::string::npos;
       at_text = page.find(before, at_text + 1)) {
    const std::size_t from = at_text + before.size();
    const std::string text = page.substr(from, page.find('"', from) - from);
    REQUIRE(text.size() % 4 == 0);
    write_file(at("from_page.png"), from_base64(text));
    CHECK(read_png(at("from_page.png")).width() == 160);
    ++count;
  }
  CHECK(count == 2);
  const Json json = Json::parse(periscena_command({"bench", frame, "--size", "64x40", "--rounds", "1", "--json"}).out);
  REQUIRE(json.size() == 1);
  CHECK(json[0]["frame"] == frame);
  double sum = 0;
  for (const Json& pass : json[0]["passes"]) sum += pass["milliseconds"].get<double>();
  CHECK(sum > 0);
  CHECK(json[0]["milliseconds"].get<double>() > 0);
}

TEST_CASE_METHOD(Folder, "bench refuses what it can't measure or write, and leaves no page behind") {
  CHECK(periscena_command({"bench", frame, "--rounds", "0"}).exit_code == 2);
  CHECK(periscena_command({"bench", frame, "--page", at("no/where.html")}).exit_code == 3);
  CHECK(periscena_command({"bench", frame, "tests/broken_frames/07_feedback_loop.toml", "--size", "32x20", "--rounds",
                           "1", "--page", at("costs.html")})
            .exit_code == 1);
  CHECK(periscena_command({"bench", "nowhere.toml"}).exit_code == 3);
  CHECK(scratch.file_count() == 0);
}
