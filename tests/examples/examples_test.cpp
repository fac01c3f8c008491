#include "scratch.h"
#include "tool/process.h"

#include <periscena/image/files.h>

#include <catch2/catch.hpp>

#include <cmath>

using namespace periscena;

namespace {

struct Difference {
  double mean = 0;
  int most = 0;
};

Difference difference(const Image& a, const Image& b) {
  REQUIRE(a.width() == b.width());
  REQUIRE(a.height() == b.height());
  Difference found;
  for (std::size_t i = 0; i < a.bytes().size(); ++i) {
    const int step = std::abs(static_cast<int>(a.bytes()[i]) - static_cast<int>(b.bytes()[i]));
    found.mean += step;
    found.most = std::max(found.most, step);
  }
  found.mean /= static_cast<double>(a.bytes().size());
  return found;
}

struct Example {
  const char* name;
  const char* time = "0";
};

void same_as_program_and_as_file(std::initializer_list<Example> examples) {
  const Scratch scratch(examples.begin()->name);
  for (const auto& example : examples) {
    INFO(example.name);
    const std::string by_program = (scratch / "program.png").string(), by_file = (scratch / "file.png").string();
    const Answer program =
        run_process({std::string(PERISCENA_BINARY_FOLDER "/examples/example_") + example.name, by_program});
    INFO(program.error);
    REQUIRE(program.exit_code == 0);
    const std::string frame = std::string("examples/") + example.name + ".toml";
    REQUIRE(periscena_command({"check", frame}).out == frame + ": nothing wrong\n");
    REQUIRE(periscena_command({"render", frame, "-o", by_file, "--time", example.time}).exit_code == 0);
    REQUIRE(difference(read_png(by_program), read_png(by_file)).most == 0);
  }
}

}  // namespace

TEST_CASE("examples 1 to 7 run as programs and as frame files: both give the same picture") {
  same_as_program_and_as_file({{"01_first_picture"},
                               {"02_transforms", "1.5"},
                               {"03_offscreen"},
                               {"04_several_outputs"},
                               {"05_multisampling"},
                               {"06_import_and_light"},
                               {"07_materials"}});
}

TEST_CASE("examples 8 to 14 run as programs and as frame files: both give the same picture") {
  same_as_program_and_as_file({{"08_environments"},
                               {"09_fog"},
                               {"10_instances"},
                               {"11_sprites"},
                               {"12_text"},
                               {"13_particles", "20"},
                               {"14_culling_on_the_device", "3"}});
}

TEST_CASE("examples 15 to 20 run as programs and as frame files: both give the same picture") {
  same_as_program_and_as_file({{"15_first_shadow_map"},
                               {"16_soft_shadows"},
                               {"17_cascades"},
                               {"18_lamp_all_round"},
                               {"19_geometry_buffer"},
                               {"20_light_prepass"}});
}

TEST_CASE("examples 21 to 26 run as programs and as frame files: both give the same picture") {
  same_as_program_and_as_file(
      {{"21_hundred_lights"}, {"22_clean_edges"}, {"23_picking"}, {"24_exposure"}, {"25_bloom"}, {"26_filters"}});
}

TEST_CASE("examples 27 to 34 run as programs and as frame files: both give the same picture") {
  same_as_program_and_as_file({{"27_depth_of_field"},
                               {"28_trails", "4"},
                               {"29_antialias"},
                               {"30_distance_field"},
                               {"31_transition", "3.5"},
                               {"32_openings"},
                               {"33_screens_within", "9"},
                               {"34_motion_blur", "3"}});
}

TEST_CASE("a kind of a program's own draws the same from C++ and from a frame file, and has a page of reference") {
  const Scratch scratch("own-kind");
  const std::string program = PERISCENA_BINARY_FOLDER "/examples/example_35_own_kind";
  const std::string by_program = (scratch / "program.png").string(), by_file = (scratch / "file.png").string();
  REQUIRE(run_process({program, by_program, "--built"}).exit_code == 0);
  REQUIRE(run_process({program, by_file, "examples/35_own_kind.toml"}).exit_code == 0);
  REQUIRE(difference(read_png(by_program), read_png(by_file)).most == 0);
  REQUIRE_THAT(run_process({program, by_file, "--reference"}).out,
               Catch::Contains("| `strength` | yes | number | 0 to 1 | `0.85` | How dark lines are |"));
  // The command does not have it, and says so.
  REQUIRE_THAT(periscena_command({"check", "examples/35_own_kind.toml"}).out +
                   periscena_command({"check", "examples/35_own_kind.toml"}).error,
               Catch::Contains("unknown-kind") && Catch::Contains("contours"));
}

TEST_CASE("the picking example names what is at its pixels, and so does probe") {
  const Scratch scratch("picking");
  const Answer program =
      run_process({PERISCENA_BINARY_FOLDER "/examples/example_23_picking", (scratch / "a.png").string()});
  REQUIRE(program.exit_code == 0);
  REQUIRE_THAT(program.out, Catch::Contains("700, 270: narrowboat") && Catch::Contains("1200, 400: towpath mirror") &&
                                Catch::Contains("640, 60: nothing to pick"));
  REQUIRE_THAT(periscena_command({"probe", "examples/23_picking.toml", "--pixel", "700,270"}).out,
               Catch::Contains("narrowboat"));
}

TEST_CASE("light markers can be switched on: the same by program and by file, and nothing without them") {
  const Scratch scratch("markers");
  const std::string plain = (scratch / "plain.png").string(), by_program = (scratch / "program.png").string(),
                    by_file = (scratch / "file.png").string(), frame = "examples/06_import_and_light.toml";
  REQUIRE(
      run_process({PERISCENA_BINARY_FOLDER "/examples/example_06_import_and_light", by_program, "markers"}).exit_code ==
      0);
  REQUIRE(periscena_command({"render", frame, "-o", plain}).exit_code == 0);
  REQUIRE(periscena_command({"render", frame, "-o", by_file, "--set", "pass.markers.show=true"}).exit_code == 0);
  REQUIRE(difference(read_png(by_program), read_png(by_file)).most == 0);
  REQUIRE(difference(read_png(plain), read_png(by_file)).most > 100);
}

TEST_CASE("the transforms example prints what happens in which order") {
  const Scratch scratch("transforms");
  const Answer answer =
      run_process({PERISCENA_BINARY_FOLDER "/examples/example_02_transforms", (scratch / "a.png").string()});
  // Turned, then moved: moved by 1.1 along X. Moved, then turned by -100°: 1.1 (cos 100°, sin 100°).
  REQUIRE_THAT(answer.out, Catch::Contains("turned, then moved by 1.1:           ( 1.10,  0.00,  0.00)") &&
                               Catch::Contains("moved by 1.1, then turned:           (-0.19,  0.00,  1.08)"));
}

TEST_CASE("an engine with its own context hands a pass over, and draws on as if nothing had happened") {
  const Scratch scratch("own-context");
  const Answer answer =
      run_process({PERISCENA_BINARY_FOLDER "/examples/example_own_context", (scratch / "own.png").string()});
  INFO(answer.error);
  REQUIRE(answer.exit_code == 0);
  REQUIRE(answer.out == "driver's error flag: 0\n");
  const Image image = read_png(scratch / "own.png");
  // Sharp in the corner: from one pixel to the next, the engine's own triangle begins. Blurred elsewhere.
  int sharpest_corner = 0, sharpest_elsewhere = 0;
  for (int y = 0; y < 400; ++y) {
    for (int x = 1; x < 640; ++x) {
      double step = 0;
      for (std::size_t c = 0; c < 3; ++c) step = std::max(step, std::abs(image.at(x, y)[c] - image.at(x - 1, y)[c]));
      int& sharpest = x < 140 && y > 260 ? sharpest_corner : sharpest_elsewhere;
      sharpest = std::max(sharpest, static_cast<int>(step));
    }
  }
  REQUIRE(sharpest_corner > 60);
  REQUIRE(sharpest_elsewhere < 30);
}
