#include "gl/device.h"
#include "scratch.h"
#include "thrown.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

#include <fstream>

using namespace periscena;

namespace {

void write(const std::filesystem::path& path, const std::string& text) {
  std::ofstream(path) << text;
}

/// A fullscreen program that includes a file beside it.
std::string program(const std::string& more, const std::string& value) {
  return "#include \"periscena/fullscreen.glsl\"\n#include \"tint.glsl\"\n" + more +
         "\nout vec4 color;\nvoid main() { color = vec4(" + value + ", 1.0); }\n";
}

/// A picture of a tint, and a cube on it whose material has GLSL of its own, too.
struct Files {
  Scratch folder{"reload"};
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  bool fuses = true;

  Files() {
    write(folder / "tint.frag", program("uniform float strength;", "strength * tint"));
    write(folder / "tint.glsl", "const vec3 tint = vec3(1.0, 0.0, 0.0);\n");
    write(folder / "paint.glsl", paint("0.1, 0.8, 0.1"));
    const MaterialHandle painted =
        scene->add_material({.name = "painted", .surface = (folder / "paint.glsl").string()});
    scene->add_node({.mesh = scene->add_mesh("cube", shapes::box({1, 1, 1})), .material = painted});
    scene->add_view({"front", {.eye = {0, 0, 4}}});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{3, {0, 0, -1}}});
  }

  static std::string paint(const std::string& color) {
    return "void surface(SurfacePoint point, inout Surface surface) { surface.base_color = vec3(" + color + "); }\n";
  }

  FrameGraph frame() const {
    FrameGraph frame;
    frame.set_fusing(fuses);
    frame.add(
        passes::fullscreen({.name = "tint",
                            .shader = gl::ShaderText::file((folder / "tint.frag").string(), passes::pass_shaders()),
                            .writes = {{"color", frame.output()}},
                            .uniforms = {{"strength", 0.5}}}));
    frame.add(passes::forward({.name = "cube",
                               .scene = scene,
                               .view = "front",
                               .color = frame.output(),
                               .depth = frame.target("depth", {.format = Format::depth32f})}));
    return frame;
  }

  Image anew(gl::Device& device) const {
    gl::FrameRunner runner(device, frame().plan(64, 48, device.limits()).value());
    runner.run(0);
    return runner.read("output");
  }
};

Image picture(gl::FrameRunner& runner) {
  runner.run(0);
  return runner.read("output");
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "reload() shows what files of GLSL say now, and reuses other programs") {
  for (const bool fuses : {true, false}) {
    Files files;
    files.fuses = fuses;
    const FrameGraph frame = files.frame();
    gl::FrameRunner runner(device, frame.plan(64, 48, device.limits()).value());
    Image before = picture(runner);
    const auto changed = [&] {
      const auto compiled = device.programs().counts().compiled;
      CHECK(runner.reload().empty());
      // One of a pass that is drawn with it may have one user at a time, and the picture before still has it.
      CHECK(device.programs().counts().compiled <= compiled + 2);
      const Image now = picture(runner);
      CHECK(now != before);
      CHECK(now == files.anew(device));
      before = now;
    };
    CHECK(runner.reload().empty());
    CHECK(picture(runner) == before);
    write(files.folder / "tint.glsl", "const vec3 tint = vec3(0.0, 0.0, 1.0);\n");
    changed();
    write(files.folder / "tint.frag", program("uniform float strength;", "vec3(uv, strength)"));
    changed();
    write(files.folder / "paint.glsl", Files::paint("0.9, 0.1, 0.8"));
    changed();
    // Both at once, then options as ever, then another plan.
    write(files.folder / "tint.frag", program("uniform float strength;", "strength * tint.bgr"));
    write(files.folder / "paint.glsl", Files::paint("0.2, 0.1, 0.8"));
    CHECK(runner.reload().empty());
    CHECK(picture(runner) == files.anew(device));
    frame.options("tint")->set("uniforms.strength", {0.25, {}});
    CHECK(picture(runner).at(1, 1)[0] == Approx(137).margin(1));  // 0.25 as sRGB
    runner.use(frame.plan(32, 24, device.limits()).value());
    CHECK(picture(runner).at(1, 1)[0] == Approx(137).margin(1));
  }
}

TEST_CASE_METHOD(TestDevice, "a mistake in a file is reported, and the last good picture goes on") {
  Files files;
  const FrameGraph frame = files.frame();
  gl::FrameRunner runner(device, frame.plan(64, 48, device.limits()).value());
  const Image before = picture(runner);
  const auto refused = [&](const char* slug) {
    const Diagnostics found = runner.reload();
    REQUIRE(found.has_errors());
    CHECK(found[0].slug == slug);
    CHECK(picture(runner) == before);
    // Nothing is tried again as long as the files stay as they are.
    const auto compiled = device.programs().counts().compiled;
    CHECK(runner.reload().has_errors());
    CHECK(device.programs().counts().compiled == compiled);
    CHECK(picture(runner) == before);
    return found;
  };
  write(files.folder / "tint.glsl", "const vec3 tint =\n  vec3(1.0, 0.0;\n");
  const Diagnostics found = refused("shader");
  CHECK(found[0].place.line == 2);
  CHECK(found[0].place.source->name == (files.folder / "tint.glsl").string());
  write(files.folder / "tint.glsl", "const vec3 tint = vec3(1.0, 0.0, 0.0);\n");
  CHECK(runner.reload().empty());

  write(files.folder / "tint.frag", program("uniform float strong;", "strong * tint"));
  refused("unknown-uniform");
  write(files.folder / "tint.frag", program("uniform float strength, more;", "strength * more * tint"));
  refused("unset-uniform");
  write(files.folder / "tint.frag",
        program("uniform float strength;\nuniform sampler2D other;", "strength * texture(other, uv).rgb"));
  refused("unset-sampler");
  // One that is sound does not go ahead of one that is not.
  write(files.folder / "paint.glsl", Files::paint("0.9, 0.1, 0.8"));
  refused("unset-sampler");
  std::filesystem::remove(files.folder / "tint.frag");
  refused("unreadable-file");
  // What is made again for other reasons is made of files as they are then.
  write(files.folder / "paint.glsl", Files::paint("0.1, 0.8, 0.1"));
  // Options change all the while.
  passes::Live<passes::Fullscreen> tint(frame, "tint");
  tint.change([](auto& options) { options.uniforms = {{"strength", 1}}; });
  CHECK(picture(runner).at(1, 1)[0] == 255);
  tint.change([](auto& options) { options.uniforms = {{"strength", 0.5}}; });
  CHECK(picture(runner) == before);
  write(files.folder / "tint.frag", program("uniform float strength;", "strength * tint"));
  CHECK(runner.reload().empty());
  CHECK(picture(runner) == files.anew(device));
}

TEST_CASE_METHOD(TestDevice,
                 "what a changed file would need another plan for is refused, and a text that was kept is reported") {
  Scratch folder("reload-plan");
  write(folder / "show.frag",
        "#include \"periscena/fullscreen.glsl\"\nuniform sampler2D from;\nout vec4 color;\n"
        "void main() { color = texture(from, uv); }\n");
  FrameGraph frame;
  const auto from = frame.target("from", {.format = Format::rgba16f, .samples = 4, .clear_color = {0, 1, 0, 1}});
  const auto fill = gl::ShaderText::from_text("fill.frag",
                                              "#include \"periscena/fullscreen.glsl\"\nout vec4 color;\n"
                                              "void main() { color = vec4(0, 1, 0, 1); }\n",
                                              passes::pass_shaders());
  frame.add(passes::fullscreen({.name = "fill", .shader = fill, .writes = {{"color", from}}}));
  frame.add(passes::fullscreen({.name = "show",
                                .shader = gl::ShaderText::file((folder / "show.frag").string(), passes::pass_shaders()),
                                .reads = {{"from", from}},
                                .writes = {{"color", frame.output()}}}));
  gl::FrameRunner runner(device, frame.plan(16, 16, device.limits()).value());
  CHECK(picture(runner).at(3, 3) == std::array<double, 4>{0, 255, 0, 255});
  write(folder / "show.frag",
        "#include \"periscena/fullscreen.glsl\"\nuniform sampler2DMS from;\nout vec4 color;\n"
        "void main() { color = texelFetch(from, ivec2(gl_FragCoord.xy), 1).grba; }\n");
  CHECK(runner.reload()[0].slug == "not-live");
  CHECK(picture(runner).at(3, 3) == std::array<double, 4>{0, 255, 0, 255});

  // A pass of one's own that holds on to a text.
  write(folder / "own.frag", "out vec4 color;\nvoid main() { color = vec4(1.0); }\n");
  const auto own = gl::ShaderText::file((folder / "own.frag").string());
  const auto triangle = gl::ShaderText::embedded("periscena/fullscreen.vert", passes::pass_shaders());
  class Own final : public gl::PassWork {
   public:
    Own(gl::PassSetup& setup, const gl::ShaderText& vertex, const gl::ShaderText& fragment)
        : program_(setup.device(), {"own", vertex, fragment}) {}
    void run(gl::PassContext& context) override {
      program_.use(context.state());
      context.state().apply({});
      context.draw_triangle();
    }

   private:
    gl::Program program_;
  };
  bool reads_again = false;
  FrameGraph mine;
  mine.add({.name = "mine", .writes = {{"color", mine.output()}}, .work = gl::work([&](gl::PassSetup& setup) {
                                                                    return std::make_unique<Own>(
                                                                        setup, triangle,
                                                                        reads_again ? own.latest() : own);
                                                                  })});
  gl::FrameRunner plain(device, mine.plan(4, 4).value());
  CHECK(picture(plain).at(0, 0)[1] == 255);
  write(folder / "own.frag", "out vec4 color;\nvoid main() { color = vec4(0.0); }\n");
  CHECK(plain.reload()[0].slug == "kept-text");
  CHECK_FALSE(plain.reload().has_errors());
  reads_again = true;
  write(folder / "own.frag", "out vec4 color;\nvoid main() { color = vec4(0.0, 0.0, 1.0, 1.0); }\n");
  CHECK(plain.reload().empty());
  CHECK(picture(plain).at(0, 0) == std::array<double, 4>{0, 0, 255, 255});
}
