#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/gl/bindings.h>
#include <periscena/gl/shader_interface.h>
#include <periscena/gl/shader_text.h>

using namespace periscena;
using gl::ShaderText;

TEST_CASE("includes are put in once, and each line knows where it came from") {
  const Scratch scratch("include");
  write_file(scratch / "noise.glsl", "float noise() { return 0.5; }\n");
  write_file(scratch / "more.glsl", "#include \"noise.glsl\"\nfloat more() { return noise(); }\n");
  write_file(scratch / "main.frag", "#include \"noise.glsl\"\n#include \"more.glsl\"\nvoid main() {}\n");
  const gl::ExpandedShader shader = gl::expand(ShaderText::file(scratch / "main.frag"));
  REQUIRE(shader.text ==
          "#version 450 core\nfloat noise() { return 0.5; }\nfloat more() { return noise(); }\nvoid main() {}\n");
  REQUIRE(shader.origins.size() == 4);
  REQUIRE_FALSE(shader.origins[0].source);
  REQUIRE(shader.origins[1].source->name == (scratch / "noise.glsl").string());
  REQUIRE(shader.origins[2].source->name == (scratch / "more.glsl").string());
  REQUIRE(shader.origins[2].line == 2);
  REQUIRE(shader.origins[3].line == 3);
}

TEST_CASE("files that include each other end, and comments include nothing") {
  const Scratch scratch("ring");
  write_file(scratch / "a.glsl",
             "#include \"b.glsl\"\n// #include \"none\"\n/* on\n#include \"none\"\n*/ #define A 1\n");
  write_file(scratch / "b.glsl", "#include \"a.glsl\"\n#define B 1\n");
  const gl::ExpandedShader shader = gl::expand(ShaderText::file(scratch / "a.glsl"));
  REQUIRE_THAT(shader.text, Catch::Contains("#define A 1") && Catch::Contains("#define B 1"));
}

TEST_CASE("a text of its own version keeps it, first") {
  const gl::ExpandedShader shader =
      gl::expand(ShaderText::from_text("t", "// why\n#version 460 core\nvoid main() {}\n"));
  REQUIRE(shader.text == "// why\n#version 460 core\nvoid main() {}\n");
}

TEST_CASE("an include that is not there names the nearest file, the line and the place") {
  const Scratch scratch("missing");
  write_file(scratch / "noise.glsl", "");
  write_file(scratch / "main.frag", "void f();\n  #include \"niose.glsl\"\n");
  const std::string text = thrown_text([&] { gl::expand(ShaderText::file(scratch / "main.frag")); });
  REQUIRE_THAT(text, Catch::Contains("main.frag:2:13: error[unknown-include]") &&
                         Catch::Contains("did you mean \"noise.glsl\"?"));
  REQUIRE(thrown_slug([] { gl::expand(ShaderText::from_text("t", "#include nothing\n")); }) == "unknown-include");
  write_file(scratch / "version.glsl", "#version 450\n");
  REQUIRE(thrown_slug([&] { gl::expand(ShaderText::from_text("t", "#include \"x\"")); }) == "unknown-include");
  write_file(scratch / "has_version.frag", "#include \"version.glsl\"\n");
  REQUIRE(thrown_slug([&] { gl::expand(ShaderText::file(scratch / "has_version.frag")); }) == "misplaced-version");
}

TEST_CASE("the bindings table is there for GLSL, number by number") {
  const gl::ExpandedShader shader = gl::expand(ShaderText::from_text("t", "#include \"periscena/bindings.glsl\"\n"));
  REQUIRE_FALSE(gl::named_bindings().empty());
  for (const gl::NamedBinding& binding : gl::named_bindings()) {
    REQUIRE_THAT(shader.text,
                 Catch::Contains("#define " + std::string(binding.name) + " " + std::to_string(binding.value) + "\n"));
  }
}

TEST_CASE("compiler logs of three manners are read, and what is in none is kept as it is") {
  const auto main = std::make_shared<SourceText>(SourceText{"main.frag", "a\nb\n"});
  const auto included = std::make_shared<SourceText>(SourceText{"inc.glsl", "c\nd = 1;\n"});
  const gl::ExpandedShader shader{"", {{nullptr, 0}, {main, 1}, {included, 1}, {included, 2}, {main, 2}}};
  const Diagnostics found = gl::read_compile_log(
      "0:4(5): error: `d' undeclared\n0(2) : error C1008: undefined variable\nERROR: 0:2: 'c' : syntax "
      "error\nsomething else\n"
      "0:1(1): warning: odd\n0:99(1): error: no such line\n",
      shader, "the fragment program of \"x\"");
  REQUIRE(found.size() == 6);
  REQUIRE(to_text(found[0]) ==
          "inc.glsl:2:5: error[shader]: the fragment program of \"x\": `d' undeclared\n  2 | d = 1;\n    |     ^\n"
          "mend: declare it, or #include the file that does\n");
  // Columns are counted after runs of white space became one space; the place is in the line as it was written.
  const auto spaced = std::make_shared<SourceText>(SourceText{"s.frag", "    return   bright;"});
  const Diagnostics moved = gl::read_compile_log("0:1(9): error: `bright' undeclared", {"", {{spaced, 1}}}, "x");
  REQUIRE(moved[0].place.column == 14);
  REQUIRE(moved[0].place.length == 6);
  REQUIRE(found[1].place.file_name() == "main.frag");
  REQUIRE(found[1].message == "the fragment program of \"x\": undefined variable");
  REQUIRE(found[2].place.line == 1);
  REQUIRE_FALSE(found[3].place.known());
  REQUIRE(found[4].severity == Severity::warning);
  REQUIRE_FALSE(found[5].place.known());
}

namespace {

/// Which of encoding and decoding a program does: "", "e", "d", "ed".
std::string coding_of(const std::string& glsl) {
  const auto shader = gl::read_interface(ShaderText::from_text("t.frag", glsl));
  if (!shader) return "?";
  return std::string(shader->encodes ? "e" : "") + (shader->decodes ? "d" : "");
}

}  // namespace

TEST_CASE("encoding to sRGB is seen in GLSL, with its place: the curve's constants, and powers of about 1 / 2.2") {
  const auto body = [](const std::string& line) { return "out vec4 color;\nvoid main() {\n  " + line + "\n}\n"; };
  REQUIRE(coding_of(body("color.rgb = pow(color.rgb, vec3(1.0 / 2.2));")) == "e");
  REQUIRE(coding_of(body("color.rgb = pow(max(color.rgb, vec3(0)), vec3(0.4545, 0.4545, 0.4545));")) == "e");
  REQUIRE(coding_of(body("color.r = pow(color.r, 1. / 2.4);")) == "e");
  REQUIRE(coding_of(body("color.rgb = pow(color.rgb, vec3(2.2));")) == "d");
  REQUIRE(coding_of("const float gamma = 2.2;\n" + body("color.rgb = pow(color.rgb, vec3(1.0 / gamma));")) == "e");
  REQUIRE(coding_of("#define GAMMA (2.0 + 0.2)\n" + body("color.rgb = pow(color.rgb, vec3(GAMMA));")) == "d");
  // Falloffs, comments, exponents of run time, and functions that nothing calls.
  REQUIRE(coding_of(body("color.r = pow(color.r, 0.45); color.g = pow(color.g, 5.0);")).empty());
  REQUIRE(coding_of(body("// pow(color.rgb, vec3(1.0 / 2.2))\n /* 0.0031308 */")).empty());
  REQUIRE(coding_of("uniform float gamma;\n" + body("color.rgb = pow(color.rgb, vec3(1.0 / gamma));")).empty());
  const std::string curves =
      "float to(float x) { return x < 0.0031308 ? 12.92 * x : 1.055 * pow(x, 1.0 / 2.4) - 0.055; }\n"
      "float from(float x) { return x < 0.04045 ? x / 12.92 : pow((x + 0.055) / 1.055, 2.4); }\n"
      "vec3 to(vec3 x) { return vec3(to(x.r), to(x.g), to(x.b)); }\n";
  REQUIRE(coding_of(curves + body("color.r = 0.0;")).empty());
  REQUIRE(coding_of(curves + body("color.rgb = to(color.rgb);")) == "e");
  REQUIRE(coding_of(curves + body("color.r = from(color.r);")) == "d");
  REQUIRE(coding_of(curves + body("color.rgb = to(vec3(from(color.r)));")) == "ed");
  const auto shader = gl::read_interface(
      ShaderText::from_text("t.frag", "/* two\nlines */\n" + body("color.rgb =  pow(color.rgb, vec3(0.4545));")));
  REQUIRE(shader->encodes->line == 5);
  REQUIRE(shader->encodes->column == 16);
  REQUIRE(shader->encodes->length == 3);
}

TEST_CASE("interfaces are read from any text, in a moment, whatever it holds") {
  const auto shader = gl::read_interface(ShaderText::from_text(
      "t.frag",
      "layout(location = 3) out highp uvec2 ids;\nuniform mediump isampler2DArray a, b[2];\nin vec2 uv;\n"
      "void f(out vec4 x) { x = vec4(0); }\nlayout(location=1) out vec4 color;\nvoid main() {}\n"));
  REQUIRE(shader->outputs.size() == 2);
  REQUIRE(shader->outputs[0].kind == ValueKind::unsigned_integer);
  REQUIRE(shader->outputs[0].location == 3);
  REQUIRE(shader->outputs[1].location == 1);
  REQUIRE(shader->samplers.size() == 2);
  REQUIRE(shader->samplers[1].name == "b");
  REQUIRE(shader->samplers[1].kind == ValueKind::signed_integer);
  REQUIRE(shader->samplers[1].shape == SamplerShape::array);
  constexpr std::size_t much = 1u << 20;
  std::string doubling = "const float a0 = 1.0;\n";
  for (int i = 1; i < 60; ++i) {
    const std::string last = "a" + std::to_string(i - 1);
    doubling += "const float a" + std::to_string(i) + " = " + last + " * " + last + ";\n";
  }
  std::string calls = "void main() { ", powers = calls;
  for (std::size_t i = 0; i < much / 4; ++i) powers += "pow(";
  for (const std::string& text :
       {std::string(much, ' ') + "#version 450\n", std::string(much, '\n'), std::string(much, 'a'),
        "layout(" + std::string(much, ' '), "/*" + std::string(much, '*'), std::string(much, '('),
        std::string(much, '{'), "#include" + std::string(much, ' ') + "\"", "// " + std::string(much, 'x'), powers,
        doubling + "void main() { pow(1.0, a59); }", std::string("void main() { pow("), std::string("out"),
        std::string("uniform sampler2D"), std::string("1e"), std::string("/*"), std::string("#")}) {
    try {
      gl::read_interface(ShaderText::from_text("t.frag", text));
      const gl::ShaderWords words(ShaderText::from_text("t.frag", text));
      words.declared("uniform");
      words.has_function("void", "main");
    } catch (const Mistake& mistake) {
      REQUIRE(mistake.diagnostics()[0].slug == "unknown-include");
    }
  }
}
