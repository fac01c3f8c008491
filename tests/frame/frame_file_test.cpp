#include "graph/frames.h"
#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/frame/frame_file.h>

#include <cmath>

using namespace periscena;

namespace {

/// A frame file in a folder of its own.
struct Written {
  Scratch scratch{"frame-file"};

  FrameFile read(const std::string& text, const FrameFileOptions& options = {}) {
    write_file(scratch / "frame.toml", text);
    return read_frame_file(scratch / "frame.toml", options);
  }

  /// "line:column slug" for each diagnostic of the whole check.
  std::vector<std::string> found(const std::string& text) {
    std::vector<std::string> list;
    for (const Diagnostic& one : read(text).plan().diagnostics()) {
      list.push_back(std::to_string(one.place.line) + ":" + std::to_string(one.place.column) + " " + one.slug);
    }
    return list;
  }
};

const std::string scene_sections =
    "[mesh.box]\nkind = \"box\"\nsize = [1, 2, 3]\n"
    "[material.oak]\nbase_color = [0.1, 0.2, 0.3]\n"
    "[light.sun]\nkind = \"directional\"\ndirection = [0, -2, 0]\nilluminance_lux = 5\n"
    "[light.sky]\nkind = \"ambient\"\nsky_nits = [1, 2, 3]\n"
    "[view.front]\neye = [0, 0, 9]\nfov_y_degrees = 40\ndepth = \"ordinary\"\nkeep = \"width\"\n"
    "keep_aspect = 1.5\n";

const std::string pass =
    "[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = \"front\"\nlights = [\"sun\", \"sky\"]\nwrites = { "
    "color = \"output\" }\n";

}  // namespace

TEST_CASE_METHOD(Written, "a frame file says all that the C++ says, by the same names") {
  const FrameFile file = read(
      "[frame]\nsize = [64, 32]\n[target.\"scene.color\"]\nformat = \"r11g11b10f\"\nscale = 0.5\nclear_color = [1, 2, "
      "3, 4]\n"
      "[target.depth]\nformat = \"depth32f\"\nsize = [32, 16]\nclear_depth = 1\n"
      "[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = \"front\"\nwrites = { color = \"scene.color\", depth = "
      "\"depth\" }\n"
      "[[pass]]\nname = \"q\"\nkind = \"forward\"\nview = \"front\"\nwrites = { color = \"output\" }\n" +
      scene_sections);
  FrameGraph kept = file.graph;
  kept.keep("scene.color");
  const PlanResult result = kept.plan(file.width, file.height);
  INFO(to_text(result.diagnostics()));
  const FramePlan& plan = result.value();
  REQUIRE(plan.width() == 64);
  const PlannedTarget& color = plan.targets()[*plan.find_target("scene.color")];
  REQUIRE(color.width == 32);
  REQUIRE(color.description.format == Format::r11g11b10f);
  REQUIRE(color.description.clear_color == std::array<float, 4>{1, 2, 3, 4});
  REQUIRE(plan.targets()[*plan.find_target("depth")].description.clear_depth == 1);
  const Camera& camera = file.scene->find_view("front")->camera;
  REQUIRE(camera.fov_y == Approx(radians(40)));
  REQUIRE(camera.depth == DepthOrder::ordinary);
  REQUIRE(camera.keep == Keep::width);
  REQUIRE(camera.keep_aspect == 1.5f);
  REQUIRE(std::isinf(camera.far));
  REQUIRE(file.scene->find_light("sun")->strength() == 5);
  REQUIRE(file.scene->find_ambient_light("sky")->sky == Vec3(1, 2, 3));
  REQUIRE(file.scene->materials()[0].base_color == Vec3(0.1f, 0.2f, 0.3f));
  REQUIRE(file.scene->meshes()[0].volume() == Approx(6));
}

TEST_CASE_METHOD(Written, "transform steps happen in order, pivots, parents and motions mean what they mean in C++") {
  const FrameFile file =
      read(scene_sections + pass +
           "[[object]]\nname = \"gate\"\ntransform = [{ scale = 2 }, { rotate_degrees = 90, axis = [0, 1, 0], pivot = "
           "[1, 0, 0] }, { translate = [0, 5, 0] }]\n"
           "[[object]]\nname = \"beam\"\nparent = \"gate\"\nmesh = \"box\"\nmaterial = \"oak\"\ntransform = [{ scale = "
           "[1, 2, 3] }]\n"
           "motion = { kind = \"swing\", axis = [0, 0, 1], to_degrees = 180, period_seconds = 4 }\n");
  REQUIRE(file.plan().ok());
  std::vector<Transform> worlds(2, Transform::identity());
  file.scene->world_transforms(0, worlds);
  const Transform expected =
      Transform::scale(2).then(rotate(Vec3::unit_y(), radians(90), {Vec3(1, 0, 0)})).then(translate({0, 5, 0}));
  REQUIRE(worlds[0].matrix().is_near(expected.matrix(), 1e-5f));
  REQUIRE(worlds[1].matrix().is_near(Transform::scale(Vec3(1, 2, 3)).then(expected).matrix(), 1e-5f));
  file.scene->world_transforms(2, worlds);  // half a period: turned by 180° before its own scale
  REQUIRE(worlds[1].apply_to_point(Vec3::unit_y()).is_near(expected.apply_to_point({0, -2, 0}), 1e-4f));
}

TEST_CASE_METHOD(Written, "a scene file is taken from the frame file's folder, and the file's own sections add to it") {
  std::filesystem::create_directory(scratch / "scenes");
  write_file(scratch / "scenes/lock.toml", scene_sections);
  const FrameFile file = read(
      "[frame]\nscene = \"scenes/lock.toml\"\nview = \"front\"\n[[object]]\nmesh = \"box\"\n"
      "[[pass]]\nname = \"p\"\nkind = \"forward\"\nwrites = { color = \"output\" }\n");
  const PlanResult result = file.plan();
  INFO(to_text(result.diagnostics()));
  REQUIRE(result.ok());
  REQUIRE(file.scene->nodes().size() == 1);
  write_file(scratch / "scenes/lock.toml", "[mesh.box]\nknid = \"box\"\n");
  REQUIRE_THAT(to_text(read("[frame]\nscene = \"scenes/lock.toml\"\n" + pass).plan().diagnostics()),
               Catch::Contains("scenes/lock.toml:2:1") && Catch::Contains("did you mean \"kind\"?"));
  REQUIRE(thrown_slug([&] { read_scene_file(scratch / "scenes/lock.toml"); }) == "missing-key");
}

TEST_CASE_METHOD(Written, "all mistakes are told at once, each at its place, in the order of the file") {
  REQUIRE(found("[frame]\nsiez = [4, 4]\n[target.a]\nformat = \"rgba15\"\n[[pass]]\nname = \"p\"\nkind = "
                "\"foward\"\nwrites = { color = \"outptu\" }\n"
                "[view.v]\neye = [0, 0]\n[light.l]\nkind = \"spit\"\n") ==
          std::vector<std::string>{"2:1 unknown-key", "4:10 unknown-choice", "7:8 unknown-kind", "8:20 unknown-target",
                                   "10:7 wrong-type", "12:8 unknown-choice"});
}

TEST_CASE_METHOD(Written, "one mistake is told once: what follows from it is not") {
  REQUIRE(found("[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = \"front\"\nwrites = { color = \"output\" "
                "}\n[view.front]\nfov_y_degrees = 200\n") == std::vector<std::string>{"6:7 bad-field-of-view"});
  REQUIRE(found("[mesh.box]\nkind = \"cube\"\n[[object]]\nmesh = \"box\"\n" +
                scene_sections.substr(scene_sections.find("[material")) + pass) ==
          std::vector<std::string>{"2:8 unknown-choice"});
  REQUIRE(found("[[pass]]\nname = \"a\"\nkind = \"zzz\"\nwrites = { color = \"t\" }\n[[pass]]\nname = \"b\"\nkind = "
                "\"forward\"\nview = \"front\"\nwrites = { color = \"output\" }\n"
                "[target.t]\n" +
                scene_sections) == std::vector<std::string>{"3:8 unknown-kind"});
}

TEST_CASE_METHOD(Written, "the frame's own view is told once, though several passes look through it") {
  const std::string other = "[[pass]]\nname = \"q\"\nkind = \"forward\"\nwrites = { color = \"output\" }\n";
  const std::string text = to_text(read("[frame]\nview = \"fornt\"\n" + other + scene_sections +
                                        "[[pass]]\nname = \"r\"\nkind = \"forward\"\nwrites = { color = \"output\" }\n")
                                       .plan()
                                       .diagnostics());
  REQUIRE_THAT(text, Catch::Contains(":2:8: error[unknown-view]: the frame looks through \"fornt\"") &&
                         Catch::Contains("did you mean \"front\"?"));
  REQUIRE(text.find("unknown-view") == text.rfind("unknown-view"));
}

TEST_CASE_METHOD(Written, "numbers written as nan, inf or with far too many digits are refused") {
  REQUIRE(found("[target.a]\nscale = nan\n" + pass + scene_sections)[0] == "1:9 unused-target");
  REQUIRE(found("[target.a]\nscale = nan\n" + pass + scene_sections)[1] == "2:9 not-finite");
  REQUIRE(found(pass + scene_sections + "[view.w]\neye = [0, inf, 0]\n") ==
          std::vector<std::string>{"26:11 not-finite"});
  REQUIRE(found(pass + scene_sections + "[mesh.m]\nkind = \"sphere\"\nradius = 1e300\n") ==
          std::vector<std::string>{"27:10 out-of-range"});
}

TEST_CASE_METHOD(Written, "sections of the wrong shape say how to write them") {
  const std::string text = to_text(
      read("pass = 3\ntarget = \"a\"\nframe = []\nview = [1]\nobject = {}\n[light]\nsun = 5\n").plan().diagnostics());
  REQUIRE_THAT(text, Catch::Contains("[[pass]]") && Catch::Contains("[target.NAME]") && Catch::Contains("[frame]") &&
                         Catch::Contains("[view.NAME]") && Catch::Contains("[[object]]") &&
                         Catch::Contains("[light.NAME]"));
}

TEST_CASE_METHOD(Written, "an unquoted dotted target name is explained") {
  REQUIRE_THAT(
      to_text(read("[target.scene.color]\nformat = \"rgba16f\"\n" + pass + scene_sections).plan().diagnostics()),
      Catch::Contains("[target.\"scene.color\"]"));
}

TEST_CASE(
    "random bytes, and frame files cut anywhere or with a byte changed, end in diagnostics and never in a crash") {
  const Scratch scratch("cut");
  const std::string demo = read_bytes(std::string(PERISCENA_SOURCE_FOLDER) + "/demo/lock.toml");
  write_file(scratch / "osier_lock.toml", scene_sections);
  std::uint32_t state = 12345;
  const auto random = [&] { return state = state * 1664525u + 1013904223u; };
  for (int i = 0; i < 400; ++i) {
    std::string text = demo.substr(0, i % 3 == 0 ? random() % demo.size() : demo.size());
    for (int k = 0; k < i % 4 && !text.empty(); ++k)
      text[(random() >> 8) % text.size()] = static_cast<char>(random() >> 24);
    write_file(scratch / "cut.toml", text);
    try {
      read_frame_file(scratch / "cut.toml").plan();
    } catch (const Error& error) {
      REQUIRE(error.diagnostics()[0].slug == "unreadable-file");  // no UTF-8
    }
  }
}

TEST_CASE("the reference page in docs is what the tables say") {
  REQUIRE(read_text(std::string(PERISCENA_SOURCE_FOLDER) + "/docs/frame_file.md")->text == frame_file_reference());
}

TEST_CASE_METHOD(
    Written,
    "a pass may draw another scene, which borrows views and skies, inside of a window, and not in each frame") {
  write_file(scratch / "room.toml",
             "[mesh.ball]\nkind = \"sphere\"\n[light.lamp]\nkind = \"point\"\n[[object]]\nmesh = \"ball\"\ntags = "
             "[\"ball\"]\n");
  const std::string frame =
      "[target.color]\nformat = \"rgba16f\"\n[target.depth]\nformat = \"depth32f_stencil8\"\n[[object]]\nmesh = "
      "\"box\"\ntags = [\"pane\"]\n" +
      scene_sections +
      "[[pass]]\nname = \"p\"\nkind = \"forward\"\nview = \"front\"\nlights = [\"sun\"]\nevery = 3\nwrites = { color = "
      "\"color\", depth = \"depth\" }\n"
      "[[pass]]\nname = \"w\"\nkind = \"opening\"\nview = \"front\"\ntags = [\"pane\"]\nevery = 3\nwrites = { depth = "
      "\"depth\" }\n"
      "[[pass]]\nname = \"r\"\nkind = \"forward\"\nscene = \"room.toml\"\ninside = \"w\"\nevery = 3\nview = "
      "\"front\"\nlights = [\"lamp\"]\ntags = [\"ball\"]\nwrites = { color = \"color\", "
      "depth = \"depth\" }\n"
      "[[pass]]\nname = \"t\"\nkind = \"tone_map\"\nexposure_ev100 = 10\nreads = { light = \"color\" }\nwrites = { "
      "color = \"output\" }\n";
  const FrameFile file = read(frame);
  const PlanResult result = file.plan();
  INFO(to_text(result.diagnostics()));
  REQUIRE(result.diagnostics().empty());
  const std::vector<PlannedPass>& passes = result.value().passes();
  REQUIRE(passes.size() == 4);
  CHECK(passes[1].declared->opening == 1);
  CHECK(passes[2].declared->within == 1);
  CHECK(passes[2].declared->every == 3);
  CHECK(passes[3].declared->every == 1);
  // What it lacks is told, by the names of that scene.
  const auto with = [&](const std::string& from, const std::string& to) {
    std::string changed = frame;
    changed.replace(changed.find(from), from.size(), to);
    return to_text(read(changed).plan().diagnostics());
  };
  CHECK_THAT(with("lights = [\"lamp\"]", "lights = [\"lamb\"]"),
             Catch::Contains("unknown-light") && Catch::Contains("\"lamp\""));
  CHECK_THAT(with("tags = [\"ball\"]", "tags = [\"pane\"]"), Catch::Contains("unknown-tag"));
  for (const char* name : {"room.stl", "room"}) {
    CHECK_THAT(with("room.toml", name),
               Catch::Contains("frame.toml") && Catch::Contains("is no scene that can be read") &&
                   Catch::Contains("give a scene file (.toml) or a model (.glb, .gltf, .obj)"));
  }
  CHECK_THAT(with("exposure_ev100 = 10", "scene = \"room.toml\""),
             Catch::Contains("of kind tone_map, which draws no scene"));
  write_file(scratch / "room.toml", "[mesh.ball]\nkind = \"sphere\"\nradios = 3\n");
  CHECK_THAT(to_text(read(frame).plan().diagnostics()),
             Catch::Contains("room.toml:3:1: error[unknown-key]") && !Catch::Contains("unknown-light"));
}
