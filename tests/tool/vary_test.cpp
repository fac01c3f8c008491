#include "scratch.h"
#include "tool/process.h"

#include <periscena/image/files.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

using namespace periscena;

namespace {

const char* const quay = "examples/15_first_shadow_map.toml";

}  // namespace

TEST_CASE("vary tries all combinations, measures them, frames the best, and says by which rule") {
  const Scratch scratch("vary");
  const std::string picture = (scratch / "vary.png").string();
  const Answer answer = periscena_command(
      {"vary", quay, "--size", "320x180", "--set", "target.\"sun.depth\".size=[64,64],[1024,1024]", "--set",
       "pass.sun shadow.radius=1,3", "--step", "2", "--rounds", "1", "--json", "-o", picture});
  INFO(answer.error);
  REQUIRE(answer.exit_code == 0);
  const auto json = nlohmann::json::parse(answer.out);
  const auto& all = json["variations"];
  REQUIRE(all.size() == 4);
  CHECK(all[1]["set"]["pass.sun shadow.radius"] == "3");
  CHECK(all[1]["set"]["target.\"sun.depth\".size"] == "[64,64]");
  CHECK(all[2]["set"]["target.\"sun.depth\".size"] == "[1024,1024]");
  for (const auto& one : all) {
    CHECK(one["time"].get<double>() > 0);
    CHECK(one["shadows"][0]["light"] == "sun");
    CHECK(one["shadows"][0]["lit"].get<int>() > 1000);
  }
  CHECK(all[2]["memory"].get<double>() - all[0]["memory"].get<double>() == 4 * (1024 * 1024 - 64 * 64));
  // Coarser maps and wider bells are farther from the truth.
  CHECK(all[2]["jaggedness"] < all[0]["jaggedness"]);
  CHECK(all[2]["jaggedness"] < all[3]["jaggedness"]);
  CHECK(json["best"] == 2);
  CHECK_THAT(json["rule"].get<std::string>(), Catch::Contains("jaggedness"));
  const Image sheet = read_image(picture);
  CHECK(sheet.width() == 1280);
}

TEST_CASE("vary compares with a picture, decides by what is asked for, and answers with a table") {
  const Scratch scratch("vary-by");
  const std::string reference = (scratch / "reference.png").string();
  REQUIRE(periscena_command({"render", quay, "--size", "160x90", "-o", reference}).exit_code == 0);
  const Answer answer =
      periscena_command({"vary", quay, "--size", "160x90", "--set", "pass.develop.exposure_ev100=12,13.6,15",
                         "--reference", reference, "--by", "rmse", "--rounds", "1", "--step", "16"});
  INFO(answer.error);
  REQUIRE(answer.exit_code == 0);
  CHECK_THAT(answer.out, Catch::Contains("\n>           13.6"));
  CHECK_THAT(answer.out, Catch::Contains("0.0000\n"));
  CHECK_THAT(answer.out, Catch::Contains("> best: the least rmse"));
  // Anything may be varied, also where there are no shadows.
  const Answer plain = periscena_command({"vary", "examples/01_first_picture.toml", "--size", "32x18", "--set",
                                          "target.depth.format=depth16,depth32f", "--by", "memory", "--rounds", "1"});
  INFO(plain.error);
  REQUIRE(plain.exit_code == 0);
  CHECK_THAT(plain.out, Catch::Contains("\n>  depth16") && Catch::Contains("> best: the least memory"));
  CHECK_THAT(plain.out, !Catch::Contains("leaks"));
  // The sun's map is drawn, but it does not light the pass that reads it.
  const Answer unlit =
      periscena_command({"vary", quay, "--size", "32x18", "--set", "pass.quay.lights=[]", "--rounds", "1"});
  INFO(unlit.error);
  REQUIRE(unlit.exit_code == 0);
  CHECK_THAT(unlit.out, Catch::Contains("> best: the least time") && !Catch::Contains("leaks"));
}

TEST_CASE("the demo's shadows hold to the aims at its own settings, by day, in the evening and at night") {
  // The moon leaves less dark that is away from edges.
  const std::pair<const char*, int> frames[] = {
      {"demo/lock_day.toml", 1000}, {"demo/lock_evening.toml", 1000}, {"demo/lock_night.toml", 800}};
  for (const auto& [frame, dark] : frames) {
    const Answer answer = periscena_command({"vary", frame, "--time", "20", "--rounds", "1", "--step", "5", "--json"});
    INFO(frame << answer.error << answer.out);
    REQUIRE(answer.exit_code == 0);
    const auto tried = nlohmann::json::parse(answer.out)["variations"][0];
    CHECK(tried["shadows"][0]["lit"].get<int>() > 10000);
    CHECK(tried["shadows"][0]["dark"].get<int>() > dark);
    CHECK(tried["leaks"].get<double>() < 0.005);
    CHECK(tried["stripes"].get<double>() < 0.001);
    CHECK(tried["detachment"].get<double>() < 1.5);
  }
}

TEST_CASE("two frames are compared by picture, cost and shadows") {
  const Scratch scratch("compare-frames");
  const std::string soft = "examples/16_soft_shadows.toml", heat = (scratch / "heat.png").string();
  const Answer answer = periscena_command({"compare", quay, soft, "--size", "160x90", "--heat", heat, "--json"});
  INFO(answer.error);
  REQUIRE(answer.exit_code == 1);
  const auto json = nlohmann::json::parse(answer.out);
  CHECK(json["same"] == false);
  REQUIRE(json["frames"].size() == 2);
  CHECK(json["frames"][0]["set"]["frame"] == quay);
  CHECK(json["frames"][0]["rmse"] == 0);
  CHECK(json["frames"][1]["rmse"] == json["rmse"]);
  for (const auto& frame : json["frames"]) {
    CHECK(frame["shadows"][0]["light"] == "sun");
    CHECK(frame["memory"].get<double>() > 0);
  }
  CHECK(read_image(heat).width() == 160);
  // One that takes no shadows says nothing of them.
  const Answer plain = periscena_command({"compare", quay, "examples/01_first_picture.toml", "--size", "32x18"});
  CHECK(plain.exit_code == 1);
  CHECK_THAT(plain.out, Catch::Contains("leaks, %") && Catch::Contains(" -  "));
  const Answer same = periscena_command({"compare", quay, quay, "--size", "64x36", "--time", "1"});
  CHECK(same.exit_code == 0);
  CHECK_THAT(same.out, Catch::StartsWith("equal"));
  CHECK_THAT(periscena_command({"compare", quay, heat}).error,
             Catch::Contains("unlike-things") && Catch::Contains("a frame file"));
  CHECK_THAT(periscena_command({"compare", quay, "tests/broken_frames/34_shadows.toml"}).error,
             Catch::Contains("unknown-tag"));
}

TEST_CASE("what can't be varied is told with place, cause and mend, and nothing is written") {
  const Scratch scratch("vary-bad");
  const std::string picture = (scratch / "vary.png").string();
  const auto told = [&](std::vector<std::string> arguments, const char* slug) {
    arguments.insert(arguments.begin(), {"vary", quay, "--size", "32x18", "--rounds", "1", "-o", picture});
    const Answer answer = periscena_command(arguments);
    INFO(answer.error);
    CHECK(answer.exit_code == 1);
    CHECK_THAT(answer.error, Catch::Contains(slug) && Catch::Contains("mend: "));
  };
  told({"--set", "pass.sun shadow.radius"}, "bad-override");
  told({"--set", "pass.sun shadow.radius=1,,2"}, "bad-override");
  told({"--set", "pass.sun shadow.radios=1,2"}, "unknown-key");
  told({"--set", "pass.sun shadow.radius=1,9"}, "bad-shadow");
  told({"--set", "pass.sun shadow.radius=1,9"}, "with pass.sun shadow.radius=9: ");
  told({"--set", "frame.view=quay,kay"}, "unknown-view");
  told({"--set", "pass.develop.exposure_ev100=1,2,3,4,5,6,7,8,9", "--set", "pass.sun shadow.bias=0,1,2,3,4,5,6,7"},
       "too-many-variations");
  told({"--by", "beauty"}, "unknown-measure");
  told({"--by", "rmse"}, "unknown-measure");
  told({"--light", "moon"}, "unknown-light");
  const Answer no_shadows =
      periscena_command({"vary", "examples/01_first_picture.toml", "--light", "lamp", "--size", "8x8"});
  CHECK_THAT(no_shadows.error, Catch::Contains("unknown-light") && Catch::Contains("the frame takes no shadows"));
  told({"--part", "0,0,64,64"}, "bad-size");
  CHECK(scratch.file_count() == 0);
  CHECK(periscena_command({"vary", quay, "--part", "0,0,64"}).exit_code == 2);
  CHECK(periscena_command({"vary", quay, "--step", "0"}).exit_code == 2);
}

TEST_CASE("vary compares frames that follow each other with the same frames at better settings") {
  const char* const edges = "examples/29_antialias.toml";
  const std::vector<std::string> reference{
      "--reference-set", "choice.antialias=large",     "--reference-set", "target.large.color.scale=4",
      "--reference-set", "target.large.depth.scale=4", "--reference-set", "target.large.picture.scale=4",
      "--reference-set", "pass.to size.filter=box"};
  std::vector<std::string> arguments{"vary",     edges,
                                     "--size",   "192x108",
                                     "--set",    "choice.antialias=none,over_time,samples",
                                     "--set",    "frame.view=gliding",
                                     "--moving", "3",
                                     "--by",     "edges",
                                     "--rounds", "1",
                                     "--json"};
  arguments.insert(arguments.end(), reference.begin(), reference.end());
  const Answer answer = periscena_command(arguments);
  INFO(answer.error);
  REQUIRE(answer.exit_code == 0);
  const auto all = nlohmann::json::parse(answer.out)["variations"];
  REQUIRE(all.size() == 3);
  for (const int smooth : {1, 2}) {
    for (const char* measure : {"rmse", "edges", "flicker"}) {
      INFO(measure << " of " << all[smooth]["set"]["choice.antialias"]);
      CHECK(all[smooth][measure].get<double>() > 0);
      CHECK(all[smooth][measure].get<double>() < 0.8 * all[0][measure].get<double>());
    }
  }
  // A frame is no farther from itself than nothing.
  const Answer same =
      periscena_command({"vary", edges, "--size", "64x36", "--set", "choice.antialias=none", "--reference-set",
                         "choice.antialias=none", "--moving", "1", "--rounds", "1", "--json"});
  REQUIRE(same.exit_code == 0);
  for (const char* measure : {"rmse", "edges", "flicker"})
    CHECK(nlohmann::json::parse(same.out)["variations"][0][measure] == 0);
  // What can't be compared is told.
  const Scratch scratch("vary-moving");
  const std::string picture = (scratch / "reference.png").string();
  REQUIRE(periscena_command({"render", edges, "--size", "64x36", "-o", picture}).exit_code == 0);
  const auto refused = [&](std::vector<std::string> more, const char* slug) {
    more.insert(more.begin(), {"vary", edges, "--size", "64x36", "--set", "choice.antialias=none"});
    const Answer told = periscena_command(more);
    CHECK(told.exit_code == 1);
    CHECK_THAT(told.error, Catch::Contains(slug));
  };
  refused({"--reference", picture, "--moving", "2"}, "still-reference");
  refused({"--reference", picture, "--reference-set", "choice.antialias=large"}, "two-references");
  refused({"--moving", "2"}, "no-reference");
  refused({"--by", "flicker"}, "unknown-measure");
  refused({"--reference-set", "choice.antialias"}, "bad-override");
  CHECK(periscena_command({"vary", edges, "--moving", "-1"}).exit_code == 2);
}
