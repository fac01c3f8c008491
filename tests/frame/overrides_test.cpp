#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/frame/frame_file.h>

using namespace periscena;

namespace {

struct WithFile {
  Scratch scratch{"overrides"};

  WithFile() {
    write_file(scratch / "a.frag",
               "#include \"periscena/fullscreen.glsl\"\nuniform float strength;\nout vec4 color;\nvoid main() { color "
               "= vec4(strength); }\n");
    write_file(scratch / "frame.toml",
               "[frame]\nsize = [64, 32]\n[target.\"scene.color\"]\n[target.\"scene.color.half\"]\n"
               "[[pass]]\nname = \"sun shadow\"\nkind = \"fullscreen\"\nshader = \"a.frag\"\nwrites = { color = "
               "\"output\" }\nuniforms = { strength = 1 }\n");
  }

  PlanResult plan(std::vector<std::string> overrides) { return file(std::move(overrides)).plan(); }

  FrameFile file(std::vector<std::string> overrides) {
    FrameFileOptions options;
    options.overrides = std::move(overrides);
    return read_frame_file(scratch / "frame.toml", options);
  }

  std::string text(std::string override) { return to_text(plan({std::move(override)}).diagnostics()); }
};

}  // namespace

TEST_CASE_METHOD(WithFile,
                 "any key can be set for one run: names with spaces and dots, nested keys, new keys, bare words") {
  REQUIRE(file({"frame.size=[10, 20]"}).width == 10);
  REQUIRE(plan({"pass.sun shadow.uniforms.strength=0.25"}).ok());
  REQUIRE_THAT(text("pass.sun shadow.uniforms.strenght=0.25"),
               Catch::Contains("--set:1:") && Catch::Contains("did you mean \"strength\"?"));
  const PlanResult kept = plan({"pass.sun shadow.writes.color=scene.color.half", "target.scene.color.half.scale=0.25"});
  REQUIRE_FALSE(kept.ok());  // now nothing reaches the output
  REQUIRE_THAT(to_text(kept.diagnostics()), Catch::Contains("no-output"));
  REQUIRE_THAT(text("target.scene.color.half.format=rgba17f"),
               Catch::Contains("unknown-choice") && Catch::Contains("did you mean \"rgba16f\"?"));
  REQUIRE(file({"pass.sun shadow.shader=a.frag"}).plan().ok());
}

TEST_CASE_METHOD(WithFile, "what stands in the scene file can be set as well, and the scene file itself") {
  write_file(scratch / "scene.toml", "[view.front]\neye = [0, 0, 5]\n[[object]]\nname = \"gate\"\n");
  write_file(scratch / "other.toml", "[view.front]\neye = [0, 0, 7]\n");
  write_file(scratch / "frame.toml",
             "[frame]\nscene = \"scene.toml\"\nview = \"front\"\n[[object]]\nparent = \"gate\"\n"
             "[[pass]]\nname = \"p\"\nkind = \"forward\"\nwrites = { color = \"output\" }\n");
  REQUIRE(plan({}).ok());
  REQUIRE(file({"view.front.eye=[0, 0, 6]"}).scene->views()[0].camera.eye.z() == 6);
  REQUIRE(file({"view.front.eye=[0, 0, 6]", "frame.scene=other.toml"}).scene->views()[0].camera.eye.z() == 6);
  REQUIRE(file({"frame.scene=other.toml"}).scene->views()[0].camera.eye.z() == 7);
  REQUIRE_THAT(text("frame.scene=othr.toml"), Catch::Contains("did you mean") && Catch::Contains("other.toml"));
  REQUIRE_THAT(text("object.gate.transform=[{translate=[1, 2]}]"), Catch::Contains("--set:1:23: error[wrong-type]"));
}

TEST_CASE_METHOD(WithFile, "the later of two settings of one key wins, and the size option wins over both") {
  REQUIRE(file({"frame.size=[10, 20]", "frame.size=[30, 20]"}).width == 30);
  FrameFileOptions options;
  options.overrides = {"frame.size=[10, 20]"};
  options.size = {{7, 8}};
  REQUIRE(read_frame_file(scratch / "frame.toml", options).width == 7);
}

TEST_CASE_METHOD(WithFile, "settings that can't be are told with the argument and its place") {
  REQUIRE_THAT(text("nonsense"), Catch::Contains("--set:1:1: error[bad-override]") && Catch::Contains("1 | nonsense"));
  REQUIRE_THAT(text("pass.sun shdow.shader=\"b\""), Catch::Contains("did you mean \"sun shadow\"?"));
  REQUIRE_THAT(text("pas.sun shadow.shader=\"b\""), Catch::Contains("did you mean \"pass\"?"));
  REQUIRE_THAT(text("target.scene.color=1"), !Catch::Contains("did you mean") && Catch::Contains("but no key"));
  REQUIRE_THAT(text("nowhere.x.y=1"), !Catch::Contains("\"frame\", \"frame\""));
  REQUIRE_THAT(text("frame.size=[1, "), Catch::Contains("this is no value"));
  REQUIRE_THAT(text("frame.size="), Catch::Contains("this is no value"));
  REQUIRE_THAT(text("pass.sun shadow.shader.deeper=1"), Catch::Contains("not in a table"));
  REQUIRE_THAT(text("frame.sze=[1, 2]"), Catch::Contains("did you mean \"size\"?"));
  REQUIRE_THAT(text("frame.size=[0, 2]"), Catch::Contains("--set:1:12: error[out-of-range]"));
}
