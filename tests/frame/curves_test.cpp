#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/frame/frame_file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/math/curve.h>
#include <periscena/model/gltf.h>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <cmath>

using namespace periscena;

namespace {

struct Timed {
  Scratch scratch{"curves"};

  FrameFile read(const std::string& text, std::vector<std::string> overrides = {}) {
    write_file(scratch / "frame.toml", text);
    return read_frame_file(scratch / "frame.toml", {.overrides = std::move(overrides)});
  }
  std::string found(const std::string& text) { return to_text(read(text).plan().diagnostics()); }
};

/// A frame in which much depends on time. @param values  of the keys that do, in their order
std::string frame(const std::vector<std::string>& values) {
  return fmt::format(
      R"toml([frame]
size = [96, 64]
[mesh.ball]
kind = "sphere"
[material.clay]
base_color = {}
roughness = 0.6
[[object]]
mesh = "ball"
material = "clay"
[light.lamp]
kind = "point"
position = {}
intensity_candela = {}
[light.room]
kind = "ambient"
sky_nits = {}
[environment.sky]
zenith_nits = [0.2, 0.3, 0.5]
intensity = {}
[fog.haze]
density = {}
color_nits = [0.2, 0.1, 0.1]
[view.front]
eye = {}
fov_y_degrees = {}
[target.light]
format = "rgba16f"
[target.depth]
format = "depth32f"
[[pass]]
name = "ball"
kind = "forward"
view = "front"
environment = "sky"
fog = "haze"
writes = {{ color = "light", depth = "depth" }}
[[pass]]
name = "develop"
kind = "tone_map"
exposure_ev100 = {}
reads = {{ light = "light" }}
writes = {{ color = "picture" }}
[target.picture]
format = "rgba8_srgb"
[[pass]]
name = "edge"
kind = "vignette"
strength = {}
reads = {{ from = "picture" }}
writes = {{ color = "output" }}
)toml",
      values[0], values[1], values[2], values[3], values[4], values[5], values[6], values[7], values[8], values[9]);
}

std::string keyed(const std::string& at_0, const std::string& at_2, const std::string& more = "") {
  return "{ curve = [[0, " + at_0 + "], [2, " + at_2 + "]]" + more + " }";
}

Image picture(gl::Device& device, const FrameFile& file, double seconds) {
  const PlanResult planned = file.plan(device.limits());
  INFO(to_text(planned.diagnostics()));
  REQUIRE(planned.ok());
  gl::FrameRunner runner(device, planned.value());
  runner.run(seconds);
  return runner.read("output");
}

}  // namespace

TEST_CASE_METHOD(Timed, "a frame of curves is at each time the frame of the values that they have then") {
  std::string wrong;
  gl::Device device = gl::Device::headless({.on_message = [&](const gl::DebugMessage& message) {
    if (message.kind == gl::DebugMessage::Kind::error) wrong += std::string(message.text) + "\n";
  }});
  const FrameFile timed =
      read(frame({keyed("[0.2, 0.4, 0.8]", "[1, 0.4, 0]"), keyed("[2, 2, 2]", "[-2, 2, 2]"),
                  keyed("20", "60", ", ease = \"smooth\""), keyed("[0.1, 0.1, 0.1]", "[0.5, 0.1, 0.1]"),
                  keyed("1", "3"), keyed("0", "0.25"), keyed("[0, 0, 3]", "[0, 1, 2]"), keyed("40", "60"),
                  keyed("2", "4", ", repeat = true"), keyed("0.25", "0.75")}));
  INFO(to_text(timed.plan().diagnostics()));
  REQUIRE(timed.plan().ok());
  const FrameFile still = read(frame({"[0.4, 0.4, 0.6]", "[1, 2, 2]", "26.25", "[0.2, 0.1, 0.1]", "1.5", "0.0625",
                                      "[0, 0.25, 2.75]", "45", "2.5", "0.375"}));
  gl::FrameRunner runner(device, timed.plan(device.limits()).value());
  std::vector<Image> seen;
  for (const double seconds : {0.0, 0.5, 2.0, 0.5}) {
    runner.run(seconds);
    seen.push_back(runner.read("output"));
    REQUIRE(seen.back() == picture(device, timed, seconds));
  }
  CHECK(seen[0] != seen[1]);
  CHECK(seen[2] != seen[1]);
  CHECK(seen[3] == seen[1]);
  CHECK(seen[1] == picture(device, still, 0.5));
  CHECK(wrong.empty());
}

TEST_CASE_METHOD(Timed, "curves in the scene file of a pass, and what that scene has from the frame, follow time") {
  gl::Device device = gl::Device::headless();
  const auto room = [&](const std::string& candela) {
    write_file(scratch / "room.toml", fmt::format(R"toml([mesh.ball]
kind = "sphere"
[material.clay]
roughness = 0.6
[[object]]
mesh = "ball"
material = "clay"
[light.lamp]
kind = "point"
position = [1, 2, 2]
intensity_candela = {}
)toml",
                                                  candela));
  };
  const auto frame_of = [&](const std::string& eye, const std::string& density) {
    return read(fmt::format(R"toml([frame]
size = [48, 32]
[fog.haze]
density = {}
color_nits = [0.5, 0.1, 0.1]
[view.front]
eye = {}
[target.light]
format = "rgba16f"
[[pass]]
name = "room"
kind = "forward"
scene = "room.toml"
view = "front"
fog = "haze"
writes = {{ color = "light" }}
[[pass]]
name = "develop"
kind = "tone_map"
exposure_ev100 = 2
reads = {{ light = "light" }}
writes = {{ color = "output" }}
)toml",
                            density, eye));
  };
  room(keyed("20", "60"));
  const FrameFile timed = frame_of(keyed("[0, 0, 3]", "[0, 1, 2]"), keyed("0", "0.5"));
  INFO(to_text(timed.plan().diagnostics()));
  REQUIRE(timed.plan().ok());
  gl::FrameRunner runner(device, timed.plan(device.limits()).value());
  runner.run(0);
  const Image at_start = runner.read("output");
  runner.run(1);
  const Image later = runner.read("output");
  runner.run(0);
  CHECK(runner.read("output") == at_start);
  room("40");
  CHECK(later == picture(device, frame_of("[0, 0.5, 2.5]", "0.25"), 0));
  CHECK(later != at_start);
  room(keyed("20", "-60"));
  CHECK_THAT(to_text(frame_of("[0, 0, 3]", "0").diagnostics),
             Catch::Contains("room.toml:11:21") && Catch::Contains("out-of-range"));
}

TEST_CASE_METHOD(Timed, "keys whose values are curves keep them: particles stay where they began") {
  const auto sparks = [&](const std::string& keys) {
    return read(
        "[frame]\nsize = [96, 64]\n[view.front]\neye = [0, 0, 6]\n[[pass]]\nname = \"sparks\"\nkind = "
        "\"particles\"\nview = \"front\"\ncount = 300\nlife = 1\ngravity = [0, 0, 0]\nsize = 0.1\n" +
        keys + "\nwrites = { color = \"output\" }\n");
  };
  const FrameFile file = sparks(
      "path = { curve = [[0, [-2, 0, 0]], [2, [2, 0, 0]]] }\nemission = { curve = [[0, 1], [1, "
      "0]], ease = \"step\" }");
  gl::Device device = gl::Device::headless();
  // Half a second after it stopped: what began from 0.5 s to 1 s, 1 m to 2 m along the path.
  const Image seen = picture(device, file, 1.5);
  int left = 96, right = -1;
  for (int y = 0; y < 64; ++y) {
    for (int x = 0; x < 96; ++x) {
      if (seen.at(x, y)[0] < 8) continue;
      left = std::min(left, x);
      right = std::max(right, x);
    }
  }
  const double metre = 32 / (6 * std::tan(file.scene->views()[0].camera.fov_y / 2));
  CHECK(left == Approx(48 - 1 * metre).margin(2));
  CHECK(right == Approx(48).margin(2));
  // The same keys can be read back, and set while it runs.
  const auto options = file.graph.options("sparks");
  CHECK(options->get("path").find("curve"));
  options->set("path", {Value::Array{{1.0, {}}, {0.0, {}}, {0.0, {}}}, {}});
  CHECK(options->get("path").array());
  CHECK(picture(device, file, 1.5) ==
        picture(device, sparks("path = [1, 0, 0]\nemission = { curve = [[0, 1], [1, 0]], ease = \"step\" }"), 1.5));
  const auto wrong = [&](const std::string& keys) { return to_text(sparks(keys).plan().diagnostics()); };
  CHECK_THAT(wrong("path = { curve = [[0, [1, 2]]] }"), Catch::Contains("frame.toml:13:8") &&
                                                            Catch::Contains("values of 2 numbers") &&
                                                            Catch::Contains("give it values of 3 numbers"));
  CHECK_THAT(wrong("path = [1e300, 0, 0]"), Catch::Contains("frame.toml:13:8") && Catch::Contains("out-of-range"));
  CHECK_THAT(wrong("emission = { curve = [[0, 0], [1, 2]] }"), Catch::Contains("out-of-range"));
  CHECK_THAT(wrong("emission = \"much\""), Catch::Contains("\"emission\" wants a value or curve"));
  CHECK_THAT(wrong("emission = { curve = [[0, 1], [0, 0]] }"), Catch::Contains("broken-curve"));
  CHECK_THAT(wrong("emission = { curv = [[0, 1], [0, 0]] }"), Catch::Contains("curv"));
}

TEST_CASE_METHOD(Timed, "a program sets what depends on time at the start of each frame") {
  gl::Device device = gl::Device::headless();
  FrameFile file =
      read(frame({"[1, 1, 1]", "[1, 2, 2]", "26", "[0.2, 0.1, 0.1]", "1", "0", "[0, 0, 3]", "45", "2", "0"}));
  const Curve glow({{0, {10}}, {1, {90}}}, {});
  const auto scene = file.scene;
  file.graph.before_each_frame([=](double seconds) {
    const LightHandle lamp = scene->light_handle("lamp");
    Light light = scene->at(lamp);
    std::get<PointLight>(light.kind).intensity = static_cast<float>(glow.number_at(seconds));
    scene->change_light(lamp, light);
  });
  const Image first = picture(device, file, 0);
  CHECK(picture(device, file, 1) != first);
  CHECK(scene->at(scene->light_handle("lamp")).strength() == 90);
  file.graph.before_each_frame([](double) { throw Mistake("demo", Place::here(), "no", ""); });
  CHECK(thrown_slug([&] { picture(device, file, 0); }) == "demo");
}

TEST_CASE_METHOD(Timed, "curves of a model's lights, of scene files, and from --set") {
  Scene model;
  model.add_light(Light{.name = "lamp", .kind = PointLight{.intensity = 5, .range = 7}, .tags = {"lamps"}});
  Node ball{};
  ball.mesh = model.add_mesh("ball", shapes::sphere(1));
  ball.material = model.add_material({.name = "clay"});
  model.add_node(ball);
  write_glb(model, scratch / "scene.glb");
  const std::string pass =
      "[view.v]\n[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = \"v\"\nlights = [\"lamps\"]\nwrites = { color = "
      "\"output\" }\n";
  gl::Device device = gl::Device::headless();
  const auto strength = [&](const FrameFile& file, double seconds) {
    picture(device, file, seconds);
    const Light& lamp = *file.scene->find_light("lamp");
    CHECK(lamp.range() == 7);
    CHECK(lamp.tags == std::vector<std::string>{"lamps"});
    return lamp.strength();
  };
  const FrameFile own = read(
      "[frame]\nscene = \"scene.glb\"\n[light.lamp]\nintensity_candela = { curve = [[0, 1], [4, "
      "9]] }\n" +
      pass);
  CHECK(strength(own, 1) == 3);
  CHECK(strength(own, 4) == 9);
  const FrameFile set = read("[frame]\nscene = \"scene.glb\"\n[light.lamp]\n" + pass,
                             {"light.lamp.intensity_candela={ noise = [6, 8], seed = 2 }"});
  CHECK(strength(set, 0.5) == Approx(Curve::noise({6}, {8}, 1, 8, 2).number_at(0.5)));
  write_file(
      scratch / "lit.toml",
      "[light.lamp]\nkind = \"point\"\nrange = 7\ntags = [\"lamps\"]\nintensity_candela = { curve = [[0, 2], [1, "
      "4]], ease = \"step\" }\n");
  CHECK(strength(read("[frame]\nscene = \"lit.toml\"\n" + pass), 0.9) == 2);
  // What the frame file says of it later counts.
  CHECK(strength(read("[frame]\nscene = \"lit.toml\"\n[light.lamp]\nintensity_candela = 5\n" + pass), 0.9) == 5);
  // Noise without a seed: each section has its own.
  const FrameFile two = read(
      "[light.a]\nkind = \"point\"\nintensity_candela = { noise = [0, 9] }\n[light.b]\nkind = "
      "\"point\"\nintensity_candela = { noise = [0, 9] }\n[view.v]\n[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = "
      "\"v\"\nwrites = { color = \"output\" }\n");
  picture(device, two, 3.3);
  CHECK(two.scene->find_light("a")->strength() != two.scene->find_light("b")->strength());
}

TEST_CASE_METHOD(Timed, "what is wrong with a curve is told with its place") {
  const std::string rest =
      "[view.v]\n[target.c]\nformat = \"rgba8_srgb\"\n[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = \"v\"\nlights "
      "= "
      "[]\nwrites = { color = \"c\" }\n";
  const auto of_light = [&](const std::string& value) {
    return found("[light.l]\nkind = \"point\"\nintensity_candela = " + value + "\n" + rest +
                 "[[pass]]\nname = \"q\"\nkind = \"copy\"\nreads = { from = \"c\" }\nwrites = { to = \"output\" }\n");
  };
  CHECK(of_light("{ curve = [[0, 1]] }").empty());
  for (const char* broken :
       {"{ curve = 3 }", "{ curve = [] }", "{ curve = [[0]] }", "{ curve = [[0, 1, 2]] }", "{ curve = [[\"a\", 1]] }",
        "{ curve = [[0, \"a\"]] }", "{ curve = [[0, []]] }", "{ curve = [[0, [1, 2, 3, 4, 5]]] }",
        "{ curve = [[0, 1], [0, 2]] }", "{ curve = [[1, 1], [0, 2]] }", "{ curve = [[0, 1], [1, [1, 2]]] }",
        "{ curve = [[0, nan]] }", "{ curve = [[0, 1]], repeat = true }", "{ noise = 1 }", "{ noise = [1] }",
        "{ noise = [1, [2, 3]] }", "{ noise = [1, inf] }", "{ noise = [1, 2], curve = [[0, 1]] }"}) {
    INFO(broken);
    CHECK_THAT(of_light(broken), Catch::Contains(":3:") && Catch::Contains("broken-curve"));
  }
  CHECK_THAT(of_light("{ curve = [[0, 1]], easy = \"step\" }"), Catch::Contains("did you mean \"ease\"?"));
  CHECK_THAT(of_light("{ curve = [[0, 1]], ease = \"stp\" }"), Catch::Contains(":3:") && Catch::Contains("step"));
  CHECK_THAT(of_light("{ noise = [1, 2], rate = 0 }"), Catch::Contains("out-of-range"));
  // Each of its keys is within the range of what it is for; and of the same number of numbers.
  CHECK_THAT(of_light("{ curve = [[0, 1], [1, -1]] }"), Catch::Contains(":3:") && Catch::Contains("out-of-range"));
  CHECK_THAT(of_light("{ noise = [-1, 1] }"), Catch::Contains("out-of-range"));
  CHECK_THAT(of_light("{ curve = [[0, [1, 2, 3]]] }"), Catch::Contains(":3:") && Catch::Contains("wrong-type"));
  // What can't change with time.
  CHECK_THAT(found("[environment.e]\nzenith_nits = { curve = [[0, [1, 1, 1]]] }\n" + rest),
             Catch::Contains(":2:1: error[not-live]"));
  CHECK_THAT(found("[mesh.m]\nkind = \"sphere\"\nradius = { curve = [[0, 1]] }\n" + rest),
             Catch::Contains(":3:") && Catch::Contains("wrong-type"));
  CHECK_THAT(
      found(rest + "[[pass]]\nname = \"q\"\nkind = \"tone_map\"\nexposure_ev100 = { curve = [[0, 1], [1, 99]] }\n"
                   "reads = { light = \"c\" }\nwrites = { color = \"output\" }\n"),
      Catch::Contains(":13:") && Catch::Contains("out-of-range"));
  CHECK_THAT(
      found(rest + "[[pass]]\nname = \"q\"\nkind = \"copy\"\nfrom = { curve = [[0, 1]] }\nreads = { from = \"c\" "
                   "}\nwrites = { to = \"output\" }\n"),
      Catch::Contains("unknown-key"));
}

TEST_CASE_METHOD(Timed, "a light of another file is changed, and not to an ambient one") {
  write_file(scratch / "lit.toml",
             "[light.lamp]\nkind = \"point\"\nintensity_candela = 7\nrange = 3\n[fog.haze]\ndensity = "
             "0.5\nhalf_height = 2\n[view.v]\neye = [0, 0, 7]\n");
  const std::string pass =
      "[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = \"v\"\nwrites = { color = \"output\" }\n";
  const FrameFile file = read("[frame]\nscene = \"lit.toml\"\n" + pass, {"light.lamp.range=4"});
  REQUIRE(file.plan().ok());
  CHECK(file.scene->find_light("lamp")->strength() == 7);
  CHECK(file.scene->find_light("lamp")->range() == 4);
  CHECK_THAT(found("[frame]\nscene = \"lit.toml\"\n[fog.haze]\ndensity = 0.25\n" + pass), Catch::Equals(""));
}

TEST_CASE_METHOD(Timed, "uniforms of your GLSL may be called curve and noise, and may be curves") {
  write_file(scratch / "s.frag",
             "#include \"periscena/fullscreen.glsl\"\nuniform float noise;\nuniform vec2 curve;\nout vec4 color;\n"
             "void main() { color = vec4(noise, curve, 1.0); }\n");
  const auto frame_with = [](const std::string& uniforms) {
    return "[frame]\nsize = [4, 4]\n[[pass]]\nname = \"p\"\nkind = \"fullscreen\"\nshader = \"s.frag\"\nuniforms = { " +
           uniforms + " }\nwrites = { color = \"output\" }\n";
  };
  gl::Device device = gl::Device::headless();
  const auto pixel = picture(device, read(frame_with("noise = 1, curve = [0, 1]")), 1).at(1, 1);
  CHECK(pixel == std::array<double, 4>{255, 0, 255, 255});
  const FrameFile timed =
      read(frame_with("noise = { curve = [[0, 0], [2, 1]] }, curve = { curve = [[0, [0, 1]], [2, [1, 0]]] }"));
  gl::FrameRunner runner(device, timed.plan(device.limits()).value());
  for (const double seconds : {2.0, 1.0, 0.0, 0.5}) {
    runner.run(seconds);
    const std::string half = fmt::format("noise = {}, curve = [{}, {}]", seconds / 2, seconds / 2, 1 - seconds / 2);
    CHECK(runner.read("output") == picture(device, read(frame_with(half)), 0));
  }
  CHECK_THAT(found(frame_with("noise = { curve = [[0, 0], [2, \"red\"]] }, curve = [0, 1]")),
             Catch::Contains(":7:41: error[broken-curve]"));
}
