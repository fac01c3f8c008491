#include "gl/device.h"
#include "gl/program_files.h"
#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/gl/frame_runner.h>
#include <periscena/gl/program.h>
#include <periscena/image/statistics.h>
#include <periscena/periscena.h>

#include <epoxy/gl.h>

#include <filesystem>
#include <thread>

using namespace periscena;
using gl::ShaderText;
namespace fs = std::filesystem;

namespace {

gl::ProgramDescription filling(const std::string& name, const std::string& expression = "shade") {
  return {name,
          ShaderText::from_text("triangle",
                                "void main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? "
                                "3.0 : -1.0, 0.5, 1.0); }\n"),
          ShaderText::from_text(name,
                                "uniform float shade;\nuniform vec3 tint;\nout vec4 color;\nvoid main() { color = "
                                "vec4(tint * " +
                                    expression + ", 1.0); }\n")};
}

float uniform_in_gl(const gl::Program& program, const char* name) {
  float value[4] = {};
  glGetUniformfv(program.name(), glGetUniformLocation(program.name(), name), value);
  return value[0];
}

/// A scene that takes several families of materials, and what is drawn of it.
Image picture(gl::Device& device) {
  auto scene = std::make_shared<Scene>();
  const MeshHandle sphere = scene->add_mesh("sphere", shapes::sphere(0.4f));
  for (int i = 0; i < 3; ++i) {
    Material material{.name = std::to_string(i), .base_color = {0.2f, 0.3f * static_cast<float>(i), 0.5f}};
    if (i == 1) material.shading = Material::Shading::unlit;
    if (i == 2) material.alpha_mode = Material::AlphaMode::blend;
    Node node;
    node.name = material.name;
    node.mesh = sphere;
    node.material = scene->add_material(material);
    node.placement = Transform::translate({static_cast<float>(i) - 1, 0, 0});
    scene->add_node(node);
  }
  scene->add_view({"front", {.eye = {0, 0, 4}}});
  scene->add_light(Light{.name = "lamp", .kind = DirectionalLight{.illuminance = 3}});
  FrameGraph frame;
  passes::Forward options{.name = "picture", .scene = scene, .view = "front", .lights = {"lamp"}};
  options.programs = batch::Programs::families;
  options.color = frame.target("light", {.format = Format::rgba16f});
  options.depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::forward(options));
  frame.add(passes::tone_map({.light = options.color, .color = frame.output()}));
  gl::FrameRunner runner(device, frame.plan(64, 32, device.limits()).value());
  runner.run(0);
  return runner.read("output");
}

/// A device that keeps programs in a folder, and what became of those of a picture.
struct Kept {
  gl::ProgramCache::Counts counts;
  Image image;

  explicit Kept(const fs::path& folder) {
    gl::DeviceOptions options;
    options.program_folder = folder;
    gl::Device device = gl::Device::headless(options);
    image = picture(device);
    counts = device.programs().counts();
    CHECK(glGetError() == GL_NO_ERROR);
  }
};

std::vector<fs::path> programs_in(const fs::path& folder) {
  std::vector<fs::path> files;
  for (const auto& entry : fs::directory_iterator(folder)) {
    if (entry.path().extension() == ".program") files.push_back(entry.path());
  }
  std::sort(files.begin(), files.end());
  return files;
}

bool keeps_binaries() {
  gl::Device device = gl::Device::headless();
  GLint formats = 0;
  glGetIntegerv(GL_NUM_PROGRAM_BINARY_FORMATS, &formats);
  return formats > 0;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "programs of one text are one GL program, each with values of its own") {
  gl::Program first(device, filling("first")), second(device, filling("second"));
  REQUIRE(first.name() == second.name());
  REQUIRE(gl::Program(device, filling("other", "shade * 0.5")).name() != first.name());
  REQUIRE(device.programs().counts().compiled == 2);
  REQUIRE(device.programs().counts().shared == 1);

  first.set(first.uniform<float>("shade"), 0.25f);
  second.set(second.uniform<float>("shade"), 0.75f);
  second.set(second.uniform<Vec3>("tint"), Vec3(1, 1, 1));
  gl::State& state = device.state();
  first.use(state);
  REQUIRE(uniform_in_gl(first, "shade") == 0.25f);
  REQUIRE(uniform_in_gl(first, "tint") == 0);  // which the second one set alone
  second.use(state);
  REQUIRE(uniform_in_gl(first, "shade") == 0.75f);
  REQUIRE(uniform_in_gl(first, "tint") == 1);
  first.use(state);
  REQUIRE(uniform_in_gl(first, "shade") == 0.25f);
  REQUIRE(uniform_in_gl(first, "tint") == 0);
  first.set(first.uniform<float>("shade"), 0.5f);
  REQUIRE(uniform_in_gl(first, "shade") == 0.5f);
  REQUIRE(thrown_slug([&] { first.expect_all_set(); }) == "unset-uniform");
}

TEST_CASE_METHOD(TestDevice, "programs that give uniforms a value in their GLSL have one user at a time") {
  const auto description = [](const char* name) {
    return gl::ProgramDescription{
        name, ShaderText::from_text("v", "void main() { gl_Position = vec4(0.0); }\n"),
        ShaderText::from_text("f",
                              "uniform float shade = 0.5;\nout vec4 color;\nvoid main() { color = vec4(shade); }\n")};
  };
  const gl::Program second(device, description("second"));
  std::uint32_t name = 0;
  {
    gl::Program first(device, description("first"));
    REQUIRE(first.name() != second.name());
    first.set(first.uniform<float>("shade"), 1.0f);
    second.use(device.state());
    REQUIRE(uniform_in_gl(second, "shade") == 0.5f);
    name = first.name();
  }
  // The next user of what the first has left finds the GLSL's own value.
  const std::size_t compiled = device.programs().counts().compiled;
  const gl::Program next(device, description("next"));
  REQUIRE(next.name() == name);
  REQUIRE(device.programs().counts().compiled == compiled);
  next.use(device.state());
  REQUIRE(uniform_in_gl(next, "shade") == 0.5f);
  REQUIRE_NOTHROW(next.expect_all_set());
}

TEST_CASE_METHOD(TestDevice, "a second runner compiles nothing, and neither does one made when the first is gone") {
  const Image first = picture(device);
  const std::size_t compiled = device.programs().counts().compiled;
  REQUIRE(compiled >= 3);
  REQUIRE(picture(device) == first);
  REQUIRE(device.programs().counts().compiled == compiled);
}

TEST_CASE_METHOD(TestDevice, "of programs that nothing uses, only the latest stay") {
  const gl::Program used(device, filling("used", "1.0"));
  for (int i = 0; i < 200; ++i) gl::Program(device, filling("passing", "0." + std::to_string(100 + i)));
  REQUIRE(device.programs().size() <= 130);
  REQUIRE(glIsProgram(used.name()));
  const std::size_t compiled = device.programs().counts().compiled;
  gl::Program(device, filling("again", "0.299"));
  gl::Program(device, filling("again", "1.0"));
  REQUIRE(device.programs().counts().compiled == compiled);
  gl::Program(device, filling("again", "0.100"));
  REQUIRE(device.programs().counts().compiled == compiled + 1);
}

TEST_CASE_METHOD(TestDevice,
                 "programs that were prepared are as those that were not, what is wrong with them included") {
  const std::vector<gl::ProgramDescription> descriptions{filling("fine"), filling("broken", "shade +")};
  device.programs().prepare(descriptions);
  REQUIRE_NOTHROW(gl::Program(device, descriptions[0]));
  for (int i = 0; i < 2; ++i) {
    REQUIRE_THAT(thrown_text([&] { gl::Program(device, descriptions[1]); }),
                 Catch::Contains("broken:4:") && Catch::Contains("error[shader]"));
  }
  REQUIRE(device.programs().counts().compiled == 1);
}

TEST_CASE("with a folder, the next device loads what the first one compiled, and draws the same") {
  if (!keeps_binaries()) return;
  const Scratch scratch("programs");
  const Kept first(scratch.path() / "a" / "programs");
  REQUIRE(first.counts.compiled >= 3);
  REQUIRE(first.counts.loaded == 0);
  const Kept second(scratch.path() / "a" / "programs");
  CHECK(second.counts.compiled == 0);
  CHECK(second.counts.loaded == first.counts.compiled);
  CHECK(second.image == first.image);
}

TEST_CASE("damaged, foreign and strange files in a program folder are compiled again, and replaced") {
  if (!keeps_binaries()) return;
  const Scratch scratch("damaged-programs");
  const fs::path folder = scratch.path() / "programs";
  const Kept first(folder);
  const std::vector<fs::path> files = programs_in(folder);
  REQUIRE(files.size() == first.counts.compiled);
  std::vector<std::string> whole;
  for (const fs::path& file : files) whole.push_back(read_bytes(file));

  const auto again = [&](const char* what) {
    INFO(what);
    const Kept broken(folder);
    CHECK(broken.image == first.image);
    CHECK(broken.counts.loaded + broken.counts.compiled == first.counts.compiled);
    const Kept repaired(folder);
    CHECK(repaired.image == first.image);
    return std::pair(broken.counts.compiled, repaired.counts.compiled);
  };
  const std::pair<std::size_t, std::size_t> repaired_at_once{1, 0};
  write_file(files[0], "");
  CHECK(again("an empty file") == repaired_at_once);
  for (const std::size_t length : {std::size_t{5}, std::size_t{30}, whole[0].size() / 2, whole[0].size() - 1}) {
    write_file(files[0], whole[0].substr(0, length));
    CHECK(again("a file that ends early") == repaired_at_once);
  }
  for (const std::size_t share : {2u, 3u, 5u, 50u, 99u}) {
    std::string changed = whole[0];
    changed[changed.size() * share / 100] ^= 4;
    write_file(files[0], changed);
    CHECK(again("a flipped bit") == repaired_at_once);
  }
  write_file(files[0], whole[1]);
  CHECK(again("another program's file") == repaired_at_once);

  // Whole and of this text, but nothing that a driver could take.
  gl::ProgramFiles other("another driver", folder);
  CHECK_FALSE(other.read("text"));
  other.write("text", {.format = 1, .bytes = std::vector<std::byte>(100, std::byte{7})});
  REQUIRE(other.read("text"));
  CHECK(other.read("text")->bytes.size() == 100);
  CHECK_FALSE(gl::ProgramFiles("this driver", folder).read("text"));

  fs::remove(files[0]);
  fs::create_directory(files[0]);
  CHECK(again("a folder in its place") == std::pair<std::size_t, std::size_t>{1, 1});
  fs::remove(files[0]);
  fs::create_symlink(files[1], files[0]);
  CHECK(again("a link in its place") == std::pair<std::size_t, std::size_t>{1, 1});
  CHECK(read_bytes(files[1]) == whole[1]);
}

TEST_CASE("a binary that the driver refuses is dropped, and the program is compiled") {
  if (!keeps_binaries()) return;
  const Scratch scratch("refused-programs");
  gl::DeviceOptions options;
  options.program_folder = scratch.path();
  GLenum format = 0;
  {
    gl::Device device = gl::Device::headless(options);
    gl::Program(device, filling("one"));
    glGetIntegerv(GL_PROGRAM_BINARY_FORMATS, reinterpret_cast<GLint*>(&format));
  }
  // The same file, with bytes in it that are no program: what a driver gets that changed without changing its version.
  const std::vector<fs::path> files = programs_in(scratch.path());
  REQUIRE(files.size() == 1);
  gl::Device device = gl::Device::headless(options);
  const gl::Capabilities& is = device.capabilities();
  const std::string driver = is.vendor + "\n" + is.renderer + "\n" + is.version + "\n" + is.shading_language;
  const auto text = [&] {
    std::string all;
    const auto add = [&](const char* stage, const ShaderText& source) {
      const std::string expanded = gl::expand(source).text;
      all += std::string(stage) + " " + std::to_string(expanded.size()) + "\n" + expanded;
    };
    add("vertex", filling("one").vertex);
    add("fragment", filling("one").fragment);
    return all;
  }();
  gl::ProgramFiles store(driver, scratch.path());
  REQUIRE(store.read(text));
  for (const GLenum wrong : {format, format + 1}) {
    store.write(text, {.format = wrong, .bytes = std::vector<std::byte>(64, std::byte{1})});
    gl::Device next = gl::Device::headless(options);
    gl::Program(next, filling("one"));
    CHECK(next.programs().counts().compiled == 1);
    CHECK(store.read(text)->bytes.size() > 64);  // replaced
  }
}

TEST_CASE("a program folder that can't be used costs no picture") {
  const Scratch scratch("no-programs");
  write_file(scratch / "file", "not a folder");
  const Image expected = Kept({}).image;
  for (const fs::path& folder :
       {scratch.path() / "file", scratch.path() / "file" / "below", fs::path("/proc/1/programs"), fs::path("/dev/full"),
        fs::path(std::string(5000, 'x'))}) {
    INFO(folder.string().substr(0, 60));
    const Kept kept(folder);
    CHECK(kept.counts.loaded == 0);
    CHECK(kept.image == expected);
  }
  CHECK(read_bytes(scratch / "file") == "not a folder");
}

TEST_CASE("several devices may share a program folder at once") {
  const Scratch scratch("shared-programs");
  const Image expected = Kept({}).image;
  std::vector<Image> images(6);
  {
    std::vector<std::jthread> threads;
    for (std::size_t i = 0; i < 2; ++i) {
      threads.emplace_back([&, i] {
        for (std::size_t k = 0; k < 3; ++k) images[3 * i + k] = Kept(scratch.path()).image;
      });
    }
  }
  for (const Image& image : images) CHECK(image == expected);
}
