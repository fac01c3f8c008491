// Input that wants to break the command: too deep, too long, too large, from outside.
#include "sanitized.h"
#include "scratch.h"
#include "tool/process.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <sys/stat.h>

using namespace periscena;
namespace fs = std::filesystem;

namespace {

const std::string fullscreen =
    "[frame]\nsize = [32, 20]\n[[pass]]\nname = \"a\"\nkind = \"fullscreen\"\nshader = \"s.frag\"\nwrites = { color = "
    "\"output\" }\n";
const std::string plain_main = "out vec4 color;\nvoid main() { color = vec4(1); }\n";

std::string repeated(std::string_view text, std::size_t count) {
  std::string all;
  for (std::size_t i = 0; i < count; ++i) all += text;
  return all;
}

struct Hostile {
  Scratch scratch{"hostile"};
  std::string at(const std::string& name) const { return (scratch / name).string(); }

  Answer check(const std::string& toml) const {
    write_file(scratch / "f.toml", toml);
    return periscena_command({"check", at("f.toml")});
  }

  Answer render(const std::string& toml) const {
    write_file(scratch / "f.toml", toml);
    return periscena_command({"render", at("f.toml"), "-o", at("out.png")});
  }

  Answer check_shader(const std::string& glsl) const {
    write_file(scratch / "s.frag", glsl);
    return check(fullscreen);
  }

  Answer render_shader(const std::string& glsl) const {
    write_file(scratch / "s.frag", glsl);
    return render(fullscreen);
  }

  /// A frame that draws a model.
  std::string frame_of(const std::string& model) const {
    return "[frame]\nsize = [32, 20]\nview = \"v\"\nscene = \"" + model +
           "\"\n[view.v]\neye = [0, 0, 5]\n[light.l]\nkind = \"directional\"\ndirection = [0, 0, "
           "-1]\n[target.d]\nformat = "
           "\"depth32f\"\n[[pass]]\nname = \"p\"\nkind = \"forward\"\nwrites = { color = \"output\", depth = \"d\" }\n";
  }
};

/// No signal, one of the four exit codes, and no control character but line feeds.
void expect_civil(const Answer& answer) {
  INFO(answer.error.substr(0, 2000));
  REQUIRE(answer.exit_code >= 0);
  REQUIRE(answer.exit_code <= 3);
  const std::string said = answer.out + answer.error;
  for (const char c : said) REQUIRE((c == '\n' || (static_cast<unsigned char>(c) >= 0x20 && c != 0x7F)));
  for (std::size_t at = said.find('\xC2'); at != said.npos; at = said.find('\xC2', at + 1))
    REQUIRE(static_cast<unsigned char>(said[at + 1]) >= 0xA0);  // U+0080 to U+009F are control characters, too
}

}  // namespace

TEST_CASE_METHOD(Hostile, "GLSL of any length without an end to its declarations is read in one go") {
  for (const std::string& glsl : {
           "/*" + std::string(26'000, 'x') + "*/ uniform " + repeated("highp ", 5'000) + plain_main,
           "uniform " + repeated("a ", 40'000) + plain_main,
           "uniform float " + std::string(30'000, 'n') + ";\n" + plain_main,
           "out " + repeated("lowp ", 30'000) + "vec4 color;\nvoid main() { color = vec4(1); }\n",
           repeated("uniform float a", 3'000) + plain_main,
           "float distance_to" + std::string(50'000, ' ') + "(vec3 a);\n" + plain_main,
       }) {
    const Answer answer = check_shader(glsl);
    expect_civil(answer);
    REQUIRE(answer.exit_code <= 1);
  }
  // Names of 30,000 letters come back in a compiler's message, which is cut.
  const Answer long_name =
      render_shader("out vec4 color;\nvoid main() { color = vec4(" + std::string(30'000, 'n') + "); }\n");
  expect_civil(long_name);
  REQUIRE(long_name.exit_code == 1);
  REQUIRE_THAT(long_name.error, Catch::Contains("s.frag:2:") && Catch::Contains("undeclared"));
  REQUIRE(long_name.error.size() < 5'000);
}

TEST_CASE_METHOD(Hostile, "of thousands of compiler errors the first hundred are told, and how many more there are") {
  std::string body;
  for (int i = 0; i < 500; ++i) body += fmt::format("  color.x += nothing_{};\n", i);
  const Answer answer = render_shader("out vec4 color;\nvoid main() {\n" + body + "}\n");
  expect_civil(answer);
  REQUIRE(answer.exit_code == 1);
}

TEST_CASE_METHOD(Hostile, "what nests too deep is refused before a parser falls over it") {
  for (const std::string& toml : {"x" + repeated(".a", 13'000) + " = 1\n", "[x" + repeated(".a", 13'000) + "]\n",
                                  "x = " + std::string(20'000, '[') + std::string(20'000, ']') + "\n",
                                  "x = " + repeated("{ a = ", 5'000) + "1" + std::string(5'000, '}') + "\n",
                                  repeated("[[a.b.c.d.e]]\n", 20) + "[a" + repeated(".\"b\"", 200) + "]\n"}) {
    const Answer answer = check(toml);
    expect_civil(answer);
    REQUIRE(answer.exit_code == 1);
    REQUIRE_THAT(answer.out, Catch::Contains("nest over 100 deep"));
  }
  REQUIRE(check("# " + repeated(".[", 5'000) + "\nx = \"" + repeated("[.", 5'000) + "\"\n").out.find("deep") ==
          std::string::npos);
  const Answer set = periscena_command(
      {"check", "examples/01_first_picture.toml", "--set", "pass.picture" + repeated(".a", 20'000) + "=1"});
  expect_civil(set);
  REQUIRE(set.exit_code == 1);
  const Answer value = periscena_command(
      {"check", "examples/01_first_picture.toml", "--set", "pass.picture.a=" + std::string(20'000, '[')});
  expect_civil(value);
  REQUIRE(value.exit_code == 1);
}

TEST_CASE_METHOD(Hostile, "11,000 files that include one another are told at the 64th") {
  const int count = sanitized ? 200 : 11'000;
  for (int i = 0; i < count; ++i)
    write_file(scratch / fmt::format("{}.glsl", i), fmt::format("#include \"{}.glsl\"\n", i + 1));
  write_file(scratch / fmt::format("{}.glsl", count), "float last;\n");
  const Answer answer = check_shader("#include \"0.glsl\"\n" + plain_main);
  expect_civil(answer);
  REQUIRE(answer.exit_code == 1);
  REQUIRE_THAT(answer.out, Catch::Contains("include-depth") && Catch::Contains("over 64 deep"));
}

TEST_CASE_METHOD(Hostile, "a few lines can't ask for all memory, and check makes no meshes and decodes no pictures") {
  const long most = sanitized ? 100'000 : 300;  // MiB
  std::string spheres;
  for (int i = 0; i < 8; ++i) spheres += fmt::format("[mesh.s{}]\nkind = \"sphere\"\nsegments = 4096\n", i);
  const std::string rest =
      "[[object]]\nmesh = \"s0\"\n[frame]\nview = \"v\"\n[view.v]\n[[pass]]\nname = \"p\"\nkind = \"forward\"\nwrites "
      "= { "
      "color = \"output\" }\n";
  const Answer many = check(spheres + rest);
  REQUIRE(many.exit_code == 1);
  REQUIRE_THAT(many.out, Catch::Contains("scene-size") && Catch::Contains("use fewer segments"));
  REQUIRE(many.peak_mebibytes < most);
  const Answer one = check("[mesh.s0]\nkind = \"sphere\"\nsegments = 4096\n" + rest);
  REQUIRE(one.exit_code == 0);
  REQUIRE(one.peak_mebibytes < most);
  // 18 KB of a picture that is 8192 x 8192 pixels, named twenty times: once decoded is 256 MiB.
  const std::string large = encode_png(Image(8192, 8192, Format::rgba8_srgb));
  std::string mtl, obj = "mtllib m.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\n", toml;
  for (int i = 0; i < 20; ++i) {
    write_file(scratch / fmt::format("{}.png", i), large);
    mtl += fmt::format("newmtl m{}\nmap_Kd {}.png\n", i, i);
    obj += fmt::format("usemtl m{}\nf 1 2 3\n", i);
    toml += fmt::format("[texture.t{}]\nfile = \"0.png\"\n", i);
  }
  write_file(scratch / "m.mtl", mtl);
  write_file(scratch / "m.obj", obj);
  const Answer model = check(frame_of("m.obj"));
  expect_civil(model);
  REQUIRE(model.peak_mebibytes < most);
  REQUIRE_THAT(model.out, Catch::Contains("leave room for"));
  const Answer same = check(toml + rest.substr(rest.find("[frame]")));
  expect_civil(same);
  REQUIRE(same.exit_code == 0);  // one file, read once
  REQUIRE(same.peak_mebibytes < most);
  if (sanitized) return;
  const Answer drawn = render(frame_of("m.obj"));
  expect_civil(drawn);
  REQUIRE(drawn.peak_mebibytes < 2048);
}

TEST_CASE_METHOD(Hostile, "files that are devices, or links to them, are refused by kind") {
  fs::create_symlink("/dev/zero", scratch / "endless.png");
  fs::create_symlink("/dev/zero", scratch / "endless.toml");
  const Answer frame = periscena_command({"check", at("endless.toml")});
  REQUIRE(frame.exit_code == 3);
  REQUIRE_THAT(frame.error, Catch::Contains("it is a device"));
  const Answer texture = check("[texture.t]\nfile = \"endless.png\"\n");
  REQUIRE_THAT(texture.out, Catch::Contains("it is a device"));
  REQUIRE(texture.peak_mebibytes < (sanitized ? 100'000 : 200));
}

TEST_CASE_METHOD(Hostile, "a picture wider than a device can hold is told before it is uploaded") {
  write_png(Image(20'000, 2, Format::rgba8_srgb), scratch / "wide.png");
  const std::string toml =
      "[texture.wide]\nfile = \"wide.png\"\n[material.m]\nbase_color_map = \"wide\"\n[mesh.b]\nkind = "
      "\"box\"\n[[object]]\nmesh = \"b\"\nmaterial = \"m\"\n[light.l]\nkind = \"directional\"\n[frame]\nsize = [32, "
      "20]\nview = "
      "\"v\"\n[view.v]\neye = [3, 3, 3]\n[[pass]]\nname = \"p\"\nkind = \"forward\"\nwrites = { color = \"output\" }\n";
  const Answer checked = check(toml);
  REQUIRE(checked.exit_code == 0);
  REQUIRE_THAT(checked.out, Catch::Contains("warning[over-guaranteed-limit]") &&
                                Catch::Contains("wide.png\" is 20000 x 2 pixels, over the 16384"));
  const Answer drawn = render(toml);
  REQUIRE(drawn.exit_code == 1);
  REQUIRE_THAT(drawn.error, Catch::Contains("error[over-device-limit]") && Catch::Contains("wide.png"));
  REQUIRE_FALSE(fs::exists(scratch / "out.png"));
}

TEST_CASE_METHOD(Hostile, "a chain of 2,000 filters becomes programs of sixteen steps") {
  std::string toml =
      "[frame]\nsize = [8, 8]\nbackground = [0.2, 0.2, 0.2]\n[target.t0]\nformat = \"rgba16f\"\n[[pass]]\nname = "
      "\"start\"\nkind = \"fullscreen\"\nshader = \"s.frag\"\nwrites = { color = \"t0\" }\n";
  const int count = sanitized ? 40 : 2'000;
  for (int i = 0; i < count; ++i) {
    const std::string into = i + 1 == count ? "output" : fmt::format("t{}", i + 1);
    if (into != "output") toml += fmt::format("[target.{}]\nformat = \"rgba16f\"\n", into);
    toml += fmt::format(
        "[[pass]]\nname = \"f{}\"\nkind = \"grade\"\nreads = {{ from = \"t{}\" }}\nwrites = {{ color = \"{}\" }}\n", i,
        i, into);
  }
  write_file(scratch / "s.frag", plain_main);
  write_file(scratch / "f.toml", toml);
  const Answer plan = periscena_command({"plan", at("f.toml")});
  expect_civil(plan);
  INFO(plan.error.substr(0, 1000));
  REQUIRE(plan.exit_code == 0);
  std::size_t longest = 0;
  for (std::size_t at_line = 0; at_line < plan.out.size();) {
    const std::size_t end = std::min(plan.out.find('\n', at_line), plan.out.size());
    const std::string line = plan.out.substr(at_line, end - at_line);
    std::size_t steps = 1;
    for (std::size_t at_plus = line.find(" + "); at_plus != line.npos; at_plus = line.find(" + ", at_plus + 1)) ++steps;
    longest = std::max(longest, steps);
    at_line = end + 1;
  }
  REQUIRE(longest == 16);
}

TEST_CASE_METHOD(Hostile, "a cache that is a pipe, cut, flipped, foreign or unreadable is passed over and made again") {
  const std::string toml =
      "[environment.sky]\npanorama = \"sky.exr\"\n[mesh.b]\nkind = \"box\"\n[[object]]\nmesh = \"b\"\n[frame]\nsize = "
      "[16, "
      "16]\nview = \"v\"\n[view.v]\neye = [3, 3, 3]\n[[pass]]\nname = \"p\"\nkind = \"forward\"\nenvironment = "
      "\"sky\"\nwrites = { color = \"output\" }\n";
  Image sky(8, 4, Format::rgba32f);
  for (int i = 0; i < 32; ++i) sky.set(i % 8, i / 8, {1.0 + i, 1, 2, 1});
  write_exr(sky, scratch / "sky.exr");
  write_file(scratch / "f.toml", toml);
  const auto picture = [&] {
    const Answer answer =
        periscena_command({"render", at("f.toml"), "-o", at("out.png")}, {"XDG_CACHE_HOME=" + at("cache")});
    INFO(answer.error);
    REQUIRE(answer.exit_code == 0);
    return read_bytes(scratch / "out.png");
  };
  const std::string wanted = picture();
  std::vector<fs::path> files;
  for (const auto& entry : fs::directory_iterator(scratch / "cache/periscena")) {
    if (entry.path().extension() == ".environment") files.push_back(entry.path());
  }
  REQUIRE(files.size() == 1);
  const std::string kept = read_bytes(files[0]);
  std::string flipped = kept;
  flipped[kept.size() / 2] = static_cast<char>(flipped[kept.size() / 2] ^ 1);
  for (const std::string& spoilt :
       {kept.substr(0, kept.size() / 3), flipped, std::string("something else"), std::string()}) {
    write_file(files[0], spoilt);
    REQUIRE(picture() == wanted);
    REQUIRE(read_bytes(files[0]) == kept);
  }
  fs::remove(files[0]);
  REQUIRE(::mkfifo(files[0].c_str(), 0600) == 0);
  REQUIRE(picture() == wanted);
  fs::remove(files[0]);
  fs::create_directory(files[0]);
  REQUIRE(picture() == wanted);
  // A relative folder is none (XDG Base Directory Specification).
  const Answer relative =
      run_process({PERISCENA_BINARY_FOLDER "/periscena", "render", at("f.toml"), "-o", at("out.png")},
                  scratch.path().string(), {"XDG_CACHE_HOME=here", "HOME=" + at("home")});
  REQUIRE(relative.exit_code == 0);
  REQUIRE_FALSE(fs::exists(scratch / "here/periscena"));  // the driver's own cache may be there
}

TEST_CASE_METHOD(Hostile,
                 "GLSL that a model brings along stays in its folder, what a frame's author names goes anywhere") {
  fs::create_directories(scratch / "models/below");
  write_file(scratch / "secret.txt", "the secret line\n");
  write_file(scratch / "models/below/good.glsl", "const float good = 0.5;\n");
  const auto model = [&](const std::string& surface, const std::string& glsl) {
    write_file(scratch / "models/s.glsl", glsl);
    write_file(scratch / "models/m.gltf",
               R"({"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],)"
               R"("materials":[{"name":"m","extras":{"periscena":{"surface":")" +
                   surface +
                   R"("}}}],"meshes":[{"primitives":[{"attributes":{"POSITION":0},"material":0}]}],)"
                   R"("accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3"}],)"
                   R"("bufferViews":[{"buffer":0,"byteLength":36}],"buffers":[{"byteLength":36,"uri":"data:;base64,)"
                   R"(AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAA"}]})");
    write_file(scratch / "models/f.toml", frame_of("m.gltf"));
    return periscena_command({"render", at("models/f.toml"), "-o", at("out.png")});
  };
  const std::string surface = "void surface(SurfacePoint point, inout Surface surface) { surface.roughness = 0.5; }\n";
  REQUIRE(model("s.glsl", "#include \"below/good.glsl\"\n" + surface).exit_code == 0);
  fs::create_symlink(scratch / "secret.txt", scratch / "models/link.glsl");
  for (const std::string& include : {std::string("../secret.txt"), at("secret.txt"), std::string("link.glsl"),
                                     std::string("below/../../secret.txt"), std::string("/etc/passwd")}) {
    const Answer answer = model("s.glsl", "#include \"" + include + "\"\n" + surface);
    INFO(include << ": " << answer.error);
    REQUIRE(answer.exit_code == 1);
    REQUIRE_THAT(answer.error,
                 Catch::Contains("path-outside") && !Catch::Contains("the secret line") && !Catch::Contains("root:"));
  }
  REQUIRE_THAT(model("link.glsl", surface).error, Catch::Contains("path-outside"));
  write_file(scratch / "shared.glsl", "const float half_light = 0.5;\n");
  write_file(scratch / "models/own.frag",
             "#include \"../shared.glsl\"\nout vec4 color;\nvoid main() { color = vec4(half_light); }\n");
  write_file(scratch / "models/own.toml",
             "[frame]\nsize = [8, 8]\n[[pass]]\nname = \"a\"\nkind = \"fullscreen\"\nshader = \"own.frag\"\nwrites = { "
             "color = "
             "\"output\" }\n");
  REQUIRE(periscena_command({"render", at("models/own.toml"), "-o", at("out.png")}).exit_code == 0);
}

TEST_CASE_METHOD(Hostile, "no text from outside reaches the terminal as it is, nor breaks JSON") {
  const std::string escape = "\x1b]0;owned\x07\x1b[2J";
  const std::string in_toml = "\\u001b]0;owned\\u0007\\u001b[2J\\u009b2J";
  write_file(scratch / "s.frag", plain_main);
  expect_civil(check("[material.\"" + in_toml + "\"]\nbase_colour = 1\n"));
  expect_civil(check(fullscreen + "uniforms = { \"" + in_toml + "\" = 1 }\n"));
  expect_civil(check_shader("#include \"" + escape + "\"\n" + plain_main));
  expect_civil(render_shader("out vec4 color;\nvoid main() { color = " + escape + "; }\n"));
  expect_civil(periscena_command({"check", at("a" + escape + ".toml")}));
  expect_civil(periscena_command({"rende" + escape}));
  expect_civil(periscena_command({"render", "--si" + escape}));
  expect_civil(periscena_command({"check", "examples/01_first_picture.toml", "--set", "a" + escape + ".b.c=1"}));
  expect_civil(periscena_command({"compare", at("a" + escape + ".png"), at("b.png")}));
  write_file(scratch / "m.obj", "mtllib " + escape + ".mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
  expect_civil(check(frame_of("m.obj")));
  write_file(scratch / "m.gltf", R"({"asset":{"version":"\u001b[2J"}})");
  expect_civil(check(frame_of("m.gltf")));
  write_file(scratch / "t.cube", "LUT_3D_SIZE " + escape + "\n");
  const std::string table =
      "[[pass]]\nname = \"c\"\nkind = \"color_table\"\ntable = \"t.cube\"\nreads = { color = \"output\" "
      "}\nwrites = { color = \"output\" }\n";
  expect_civil(check(table));
  write_file(scratch / "sheet.json", "{ \"image\": \"" + in_toml + "\", \"cells\": [] }");
  expect_civil(
      check("[[pass]]\nname = \"c\"\nkind = \"sprites\"\nsheets = { a = \"sheet.json\" }\nwrites = { color = "
            "\"output\" }\n"));
  const std::string named = "[target.\"" + in_toml + "\"]\n" + fullscreen;
  write_file(scratch / "f.toml", named);
  for (const std::string verb : {"plan", "check"}) expect_civil(periscena_command({verb, at("f.toml")}));
  const Answer json = periscena_command({"check", at("f.toml"), "--json"});
  expect_civil(json);
  REQUIRE_THAT(json.out, Catch::Contains("\\u001b[2J"));
}

TEST_CASE_METHOD(Hostile, "OBJ and MTL files in Latin-1 are read, with a note, and so are the files that they name") {
  write_png(Image(2, 2, Format::rgba8_srgb), scratch / "h\xF6lzern.png");
  write_file(scratch / "m.mtl", "newmtl Eiche gr\xFCn\nKd 1 0 0\nmap_Kd h\xF6lzern.png\n");
  write_file(scratch / "m.obj", "mtllib m.mtl\no T\xFCr\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl Eiche gr\xFCn\nf 1 2 3\n");
  const Answer answer = check(frame_of("m.obj") + "[variant.x]\ntags = []\n");
  INFO(answer.out);
  REQUIRE(answer.exit_code == 0);
  REQUIRE_THAT(answer.out, Catch::Contains("note[latin-1]") && Catch::Contains("m.mtl is no UTF-8") &&
                               !Catch::Contains("missing-texture"));
  REQUIRE(periscena_command({"check", at("f.toml"), "--set", "material.Eiche grün.roughness=0.5"}).exit_code == 0);
}

TEST_CASE_METHOD(Hostile, "what misled is told with its place and a way out") {
  const std::string glsl_at = at("s.frag");
  const Answer version = check_shader("out vec4 color;\n#version 450\nvoid main() { color = vec4(1); }\n");
  REQUIRE_THAT(version.out,
               Catch::Contains(glsl_at + ":2:1: error[misplaced-version]") && Catch::Contains("first line"));
  const Answer recursion = render_shader(
      "out vec4 color;\nfloat again(float x) {\n  return x > 1.0 ? again(x - 1.0) : x;\n}\nvoid main() { color = "
      "vec4(again(3.0)); }\n");
  REQUIRE(recursion.exit_code == 1);
  REQUIRE_THAT(recursion.error, Catch::Contains(glsl_at + ":2:7: error[shader]") &&
                                    Catch::Contains("static recursion") && Catch::Contains("write a loop"));
  const Answer no_main = check_shader("out vec4 color;\n");
  REQUIRE_THAT(no_main.out, Catch::Contains(glsl_at + ": error[no-main]") && Catch::Contains("add void main()"));
  REQUIRE(check_shader("\xEF\xBB\xBF" + plain_main).exit_code == 0);
  REQUIRE(check("\xEF\xBB\xBF" + fullscreen).exit_code == 0);
  REQUIRE_THAT(periscena_command({"rende", "x"}).error,
               Catch::Contains("there is no verb \"rende\"") && Catch::Contains("did you mean \"render\"?"));
}
