#include "draw/scene/scene_buffers.h"
#include "gl/device.h"
#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/gl/program.h>
#include <periscena/passes/shaders.h>

#include <epoxy/gl.h>

#include <map>
#include <set>

using namespace periscena;
using gl::ShaderText;

namespace {

const char* plain_vertex = "void main() { gl_Position = vec4(0.0); }\n";

gl::Program make(gl::Device& device, const std::string& fragment, const std::string& vertex = plain_vertex) {
  return gl::Program(
      device, {"test", ShaderText::from_text("test.vert", vertex), ShaderText::from_text("test.frag", fragment)});
}

const char* with_uniforms =
    "uniform float strength;\nuniform vec3 tint;\nuniform mat4 twist;\nuniform int steps;\nuniform bool on;\nuniform "
    "vec2 given = vec2(1.0, 2.0);\n"
    "uniform float list[3];\nuniform sampler2D scene;\nuniform sampler2D depth_map;\nuniform float idle;\n"
    "out vec4 color;\n"
    "void main() { color = twist * vec4(tint * strength, float(steps) + list[0] + list[2]) + texture(scene, given) + "
    "texture(depth_map, given);\n"
    "  if (on) color *= 2.0; }\n";

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "an error on line 7 of an included file names that file, that line and the driver's words") {
  const Scratch scratch("line7");
  write_file(scratch / "light.glsl",
             "// 1\n// 2\nfloat a = 1.0;\n\n// 5\nfloat light() {\n  return brightnes * 2.0;\n}\n");
  write_file(scratch / "main.frag",
             "#include \"light.glsl\"\nout vec4 color;\nvoid main() { color = vec4(light()); }\n");
  const std::string text = thrown_text([&] {
    gl::Program(device, {"lamp", ShaderText::from_text("v", plain_vertex), ShaderText::file(scratch / "main.frag")});
  });
  REQUIRE_THAT(text, Catch::Contains("light.glsl:7:") &&
                         Catch::Contains("error[shader]: the fragment program of \"lamp\":") &&
                         Catch::Contains("7 |   return brightnes * 2.0;") && Catch::Contains("brightnes"));
  REQUIRE_THAT(thrown_text([&] { make(device, "out vec4 color;\nvoid main() { color = vec4(1.0) }\n"); }),
               Catch::Contains("test.frag:2:") && Catch::Contains("look for a missing ;"));
  REQUIRE_THAT(thrown_text([&] { make(device, "out vec4 c; void main() { c = vec4(1); }", "oops\n"); }),
               Catch::Contains("the vertex program of \"test\""));
}

TEST_CASE_METHOD(TestDevice, "programs that do not fit together are told with the driver's words") {
  const std::string text = thrown_text(
      [&] { make(device, "in vec3 shade;\nout vec4 color;\nvoid main() { color = vec4(shade, 1.0); }\n"); });
  REQUIRE_THAT(text, Catch::Contains("program-link") && Catch::Contains("shade"));
}

TEST_CASE_METHOD(TestDevice, "uniforms, samplers and outputs are reflected, what is not used is not there") {
  const gl::Program program = make(device, with_uniforms);
  const gl::UniformInfo* tint = program.interface().find_uniform("tint");
  REQUIRE(tint);
  REQUIRE(tint->type == gl::ValueType::vec3);
  REQUIRE(program.interface().find_uniform("list")->array_size == 3);
  REQUIRE_FALSE(program.interface().find_uniform("idle"));
  REQUIRE(program.interface().output_names() == std::vector<std::string>{"color"});
  REQUIRE(program.sampler_unit("scene") != program.sampler_unit("depth_map"));
  GLint unit = -1;
  glGetUniformiv(program.name(), glGetUniformLocation(program.name(), "depth_map"), &unit);
  REQUIRE(unit == program.sampler_unit("depth_map"));
}

TEST_CASE_METHOD(TestDevice, "a uniform that does not exist, or of another type, is refused with the nearest name") {
  const gl::Program program = make(device, with_uniforms);
  REQUIRE_THAT(thrown_text([&] { program.uniform<float>("strenght"); }),
               Catch::Contains("unknown-uniform") && Catch::Contains("did you mean \"strength\"?"));
  REQUIRE(thrown_slug([&] { program.uniform<float>("idle"); }) == "unknown-uniform");
  REQUIRE(thrown_slug([&] { program.uniform<int>("scene"); }) == "unknown-uniform");  // samplers are not set by hand
  REQUIRE_THAT(thrown_text([&] { program.uniform<float>("tint"); }), Catch::Contains("is vec3, not float"));
  REQUIRE_THAT(thrown_text([&] { program.uniform<float>("list"); }), Catch::Contains("float[3]"));
  REQUIRE_THAT(thrown_text([&] { program.sampler_unit("scenes"); }), Catch::Contains("did you mean \"scene\"?"));
}

TEST_CASE_METHOD(TestDevice,
                 "values arrive at the driver, and uniforms left unset are named, unless the GLSL gives them a value") {
  gl::Program program = make(device, with_uniforms);
  REQUIRE_THAT(thrown_text([&] { program.expect_all_set(); }),
               Catch::Contains("unset-uniform") && Catch::Contains("\"strength\"") && Catch::Contains("\"list\"") &&
                   !Catch::Contains("given"));
  program.set(program.uniform<float>("strength"), 0.5f);
  program.set(program.uniform<Vec3>("tint"), Vec3(1, 2, 3));
  program.set(program.uniform<int>("steps"), 7);
  program.set(program.uniform<bool>("on"), true);
  Mat4 twist;
  for (int i = 0; i < 16; ++i) twist.data()[i] = static_cast<float>(i);
  program.set(program.uniform<Mat4>("twist"), twist);
  float back[16] = {};
  glGetUniformfv(program.name(), glGetUniformLocation(program.name(), "tint"), back);
  REQUIRE(back[2] == 3);
  glGetUniformfv(program.name(), glGetUniformLocation(program.name(), "twist"), back);
  REQUIRE(back[1] == 1);  // column-major on both sides
  REQUIRE_THAT(thrown_text([&] { program.expect_all_set(); }),
               Catch::Contains("uses uniform \"list\", but nothing set it"));
}

TEST_CASE_METHOD(TestDevice, "a struct whose members lie elsewhere than the block's is refused, member by member") {
  struct Sun {
    Vec3 direction = Vec3::zero();
    float strength = 0;
    Vec3 color = Vec3::zero();
    float padding = 0;
  };
  struct Packed {  // as C++ would pack it: std140 aligns the second vec3 to 16
    Vec3 direction = Vec3::zero();
    Vec3 color = Vec3::zero();
    float strength = 0;
  };
  const gl::Program program =
      make(device,
           "layout(std140) uniform Sun { vec3 direction; float strength; vec3 color; } sun;\nout vec4 c;\n"
           "void main() { c = vec4(sun.direction * sun.strength + sun.color, 1.0); }\n");
  REQUIRE_NOTHROW(program.expect_block(gl::describe_block<Sun>("Sun")
                                           .member("direction", &Sun::direction)
                                           .member("strength", &Sun::strength)
                                           .member("color", &Sun::color)));
  const std::string text = thrown_text([&] {
    program.expect_block(gl::describe_block<Packed>("Sun")
                             .member("direction", &Packed::direction)
                             .member("strength", &Packed::strength)
                             .member("colour", &Packed::color));
  });
  REQUIRE_THAT(text, Catch::Contains("\"strength\" is at byte 24 in C++ and 12 in GLSL") &&
                         Catch::Contains("\"color\" is missing in C++ (is it \"colour\"?)") &&
                         Catch::Contains("C++ has 28 bytes"));
  REQUIRE_THAT(thrown_text([&] { program.expect_block(gl::describe_block<Sun>("Snu")); }),
               Catch::Contains("did you mean \"Sun\"?"));
}

TEST_CASE_METHOD(TestDevice, "storage blocks are compared element by element, their size included") {
  struct Short {
    Mat4 world = Mat4::identity();
  };
  const gl::Program program(device, {"forward", ShaderText::embedded("periscena/surface.vert", passes::pass_shaders()),
                                     ShaderText::embedded("periscena/forward.frag", passes::pass_shaders())});
  REQUIRE_NOTHROW(program.expect_block(draw::ObjectBlock::layout()));
  REQUIRE_NOTHROW(program.expect_block(draw::CameraBlock::layout()));
  REQUIRE_THAT(thrown_text([&] {
                 program.expect_block(gl::describe_block<Short>("Objects", "objects").member("world", &Short::world));
               }),
               Catch::Contains("block-mismatch"));
}

TEST_CASE(
    "storage blocks lie in the eight places that OpenGL 4.5 guarantees, and those of one program never share one") {
  std::map<std::string, std::uint32_t> place;
  for (const gl::NamedBinding& binding : gl::named_bindings()) {
    const std::string name(binding.name);
    if (name.ends_with("_STORAGE")) place[name] = binding.value;
  }
  for (const auto& [name, value] : place) {
    INFO(name);
    REQUIRE(value < 8);
  }
  const std::vector<std::vector<std::string>> together{
      {"OBJECT_STORAGE", "MATERIAL_NUMBER_STORAGE", "MATERIAL_STORAGE", "LIGHT_STORAGE", "MESH_COLOR_STORAGE",
       "SECOND_UV_STORAGE", "SHADOW_STORAGE"},
      {"OBJECT_STORAGE", "MOVER_STORAGE"},
      {"SPRITE_STORAGE", "CELL_STORAGE"}};
  for (const auto& program : together) {
    std::set<std::uint32_t> taken;
    for (const std::string& name : program) REQUIRE(taken.insert(place.at(name)).second);
  }
}
