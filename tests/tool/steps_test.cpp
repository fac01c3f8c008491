// Work in proportion to the input: what `check` takes for n and for 4 n things of a kind, in instructions, which
// valgrind counts. What grew with the square would take sixteen times as many.
#include "scratch.h"
#include "tool/process.h"

#include <periscena/base/file.h>
#include <periscena/model/gltf.h>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <charconv>
#include <cmath>
#include <functional>
#include <numbers>

using namespace periscena;

namespace {

/// Writes the files of a frame of n things into a folder; "f.toml" is the frame.
using Writer = std::function<void(const Scratch&, int)>;

template <class Line>
std::string lines(int count, Line line) {
  std::string text;
  for (int i = 0; i < count; ++i) text += line(i);
  return text;
}

std::string frame(const std::string& scene) {
  return "[frame]\nsize = [32, 20]\nview = \"v\"\n" + (scene.empty() ? "" : "scene = \"" + scene + "\"\n") +
         "[view.v]\neye = [0, 0, 5]\n[mesh.box]\nkind = \"box\"\n[target.d]\nformat = \"depth32f\"\n[[pass]]\nname = "
         "\"p\"\nkind = \"forward\"\nwrites = { color = \"output\", depth = \"d\" }\n";
}

template <class Line>
Writer in_frame(Line line) {
  return [line](const Scratch& scratch, int n) { write_file(scratch / "f.toml", frame("") + lines(n, line)); };
}

/// @param glsl  by n @param keys  of the pass, by n
template <class Text>
Writer in_shader(
    Text glsl, const std::function<std::string(int)>& keys = [](int) { return std::string(); }) {
  return [=](const Scratch& scratch, int n) {
    write_file(scratch / "s.frag", glsl(n) + "out vec4 color;\nvoid main() { color = vec4(1); }\n");
    write_file(scratch / "f.toml",
               "[[pass]]\nname = \"a\"\nkind = \"fullscreen\"\nshader = \"s.frag\"\nwrites = { color = \"output\" }\n" +
                   keys(n));
  };
}

/// @param parts  of the JSON, by n, with commas
template <class Text>
Writer in_gltf(Text parts) {
  return [=](const Scratch& scratch, int n) {
    write_file(scratch / "m.gltf",
               R"({"asset":{"version":"2.0"},"scene":0,)" + parts(n) +
                   R"("accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3"},)"
                   R"({"bufferView":0,"byteOffset":12,"componentType":5126,"count":1,"type":"SCALAR"},)"
                   R"({"bufferView":0,"componentType":5126,"count":1,"type":"VEC3"}],)"
                   R"("bufferViews":[{"buffer":0,"byteLength":36}],"buffers":[{"byteLength":36,"uri":"data:;base64,)"
                   R"(AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAA"}]})");
    write_file(scratch / "f.toml", frame("m.gltf"));
  };
}

template <class Text>
Writer in_obj(Text text) {
  return [=](const Scratch& scratch, int n) {
    write_file(scratch / "m.obj", text(n));
    write_file(scratch / "f.toml", frame("m.obj"));
  };
}

std::string list(int count, const std::function<std::string(int)>& item) {
  std::string text;
  for (int i = 0; i < count; ++i) text += (i ? "," : "") + item(i);
  return "[" + text + "]";
}

std::string all_nodes(int count) {
  return R"("scenes":[{"nodes":)" + list(count, [](int i) { return std::to_string(i); }) + "}],";
}

const std::string one_mesh = R"("meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],)";
const std::string one_node = R"("scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],)";
const std::string corners = "v 0 0 0\nv 1 0 0\nv 0 1 0\n";

double instructions(const Writer& write, int n) {
  const Scratch scratch("steps");
  write(scratch, n);
  const Answer answer = run_process({"/usr/bin/valgrind", "--tool=callgrind", "--callgrind-out-file=/dev/null",
                                     PERISCENA_BINARY_FOLDER "/periscena", "check", (scratch / "f.toml").string()});
  INFO(answer.out.substr(0, 500) << answer.error);
  REQUIRE(answer.exit_code >= 0);
  REQUIRE(answer.exit_code <= 1);
  const std::size_t said = answer.error.find("Collected : ");
  REQUIRE(said != std::string::npos);
  return std::stod(answer.error.substr(said + 12));
}

}  // namespace

TEST_CASE("what check does grows with the number of things, not with its square") {
  using std::to_string;
  const std::vector<std::pair<const char*, Writer>> kinds{
      {"objects", in_frame([](int i) { return fmt::format("[[object]]\nname = \"o{}\"\nmesh = \"box\"\n", i); })},
      {"unknown parents", in_frame([](int i) { return fmt::format("[[object]]\nparent = \"q{}\"\n", i); })},
      {"unknown meshes", in_frame([](int i) { return fmt::format("[[object]]\nmesh = \"q{}\"\n", i); })},
      {"mistakes", in_frame([](int i) { return fmt::format("[light.a{}]\nkind = 3\n", i); })},
      {"copies of a model",
       [](const Scratch& scratch, int n) {
         Scene model;
         model.add_node({.name = "post"});
         write_glb(model, scratch / "m.glb");
         in_frame([](int) { return "[[object]]\nmodel = \"m\"\n[[object]]\n"; })(scratch, n);
         write_file(scratch / "f.toml", "[model.m]\nfile = \"m.glb\"\n" + read_text(scratch / "f.toml")->text);
       }},
      {"curves", in_frame([](int i) {
         return fmt::format("[light.a{}]\nkind = \"point\"\nintensity_candela = {{ noise = [1, 2] }}\n", i);
       })},
      {"materials", in_frame([](int i) { return fmt::format("[material.a{}]\nroughness = 0.5\n", i); })},
      {"passes", in_frame([](int i) {
         return fmt::format(
             "[target.t{0}]\n[[pass]]\nname = \"p{0}\"\nkind = \"forward\"\nwrites = {{ color = \"t{0}\" }}\n", i);
       })},
      {"passes without their target", in_frame([](int i) {
         return fmt::format("[[pass]]\nname = \"p{0}\"\nkind = \"forward\"\nwrites = {{ color = \"q{0}\" }}\n", i);
       })},
      // Twice as many: hints have taken all that they may, then.
      {"passes and lights that they do not find",
       [](const Scratch& scratch, int n) {
         in_frame([](int i) {
           return fmt::format(
               "[[pass]]\nname = \"p{0}\"\nkind = \"forward\"\nlights = [\"q\"]\nwrites = {{ color = \"output\" "
               "}}\n[light.r{0}]\nkind = \"point\"\n",
               i);
         })(scratch, 2 * n);
       }},
      {"uniforms without value",
       in_shader([](int n) { return lines(n, [](int i) { return fmt::format("uniform float u{};\n", i); }); })},
      {"uniforms that the GLSL lacks",
       in_shader([](int) { return std::string(); },
                 [](int n) {
                   return "uniforms = { " + lines(n, [](int i) { return fmt::format("u{} = 1, ", i); }) + "z = 1 }\n";
                 })},
      {"declarations without an end",
       in_shader([](int n) { return lines(20 * n, [](int) { return "uniform highp "; }); })},
      {"includes of one file",
       [](const Scratch& scratch, int n) {
         write_file(scratch / "i.glsl", lines(n, [](int) { return "// a line\n"; }));
         in_shader([](int m) { return lines(m, [](int) { return "#include \"i.glsl\"\n"; }); })(scratch, n);
       }},
      {"glTF nodes of one name", in_gltf([](int n) {
         return all_nodes(n) + one_mesh + R"("nodes":)" + list(n, [](int) { return R"({"name":"a","mesh":0})"; }) + ",";
       })},
      {"glTF materials of one name", in_gltf([](int n) {
         return one_node + one_mesh + R"("materials":)" + list(n, [](int) { return R"({"name":"a"})"; }) + ",";
       })},
      {"glTF nodes with one camera", in_gltf([](int n) {
         return all_nodes(n) + R"("cameras":[{"type":"perspective","perspective":{"yfov":1,"znear":0.1}}],"nodes":)" +
                list(n, [](int) { return R"({"camera":0})"; }) + ",";
       })},
      {"glTF variants of one name", in_gltf([](int n) {
         return one_node + one_mesh + R"("extensions":{"KHR_materials_variants":{"variants":)" +
                list(n, [](int) { return R"({"name":"v"})"; }) + "}},";
       })},
      {"glTF animation channels", in_gltf([](int n) {
         return all_nodes(n) + one_mesh + R"("nodes":)" + list(n, [](int) { return R"({"mesh":0})"; }) +
                R"(,"animations":[{"samplers":)" + list(n, [](int) { return R"({"input":1,"output":2})"; }) +
                R"(,"channels":)" +
                list(n,
                     [](int i) {
                       return R"({"sampler":)" + to_string(i) + R"(,"target":{"node":)" + to_string(i) +
                              R"(,"path":"translation"}})";
                     }) +
                "}],";
       })},
      {"glTF lights, one for each node", in_gltf([](int n) {
         return all_nodes(n) + R"("extensions":{"KHR_lights_punctual":{"lights":)" +
                list(n, [](int) { return R"({"type":"point","name":"l"})"; }) + R"(}},"nodes":)" +
                list(n,
                     [](int i) { return R"({"extensions":{"KHR_lights_punctual":{"light":)" + to_string(i) + "}}}"; }) +
                ",";
       })},
      {"OBJ groups of one name",
       in_obj([](int n) { return corners + lines(n, [](int) { return "g a\nf 1 2 3\n"; }); })},
      {"corners of one OBJ face", in_obj([](int n) {
         return lines(5 * n,
                      [&](int i) {
                        const double turn = 2 * std::numbers::pi * i / (5.0 * n);
                        return fmt::format("v {:.6f} {:.6f} 0\n", std::cos(turn), std::sin(turn));
                      }) +
                "f" + lines(5 * n, [](int i) { return fmt::format(" {}", i + 1); }) + "\n";
       })},
  };
  constexpr int few = 100;
  const double nothing = instructions(kinds[0].second, 1);
  for (const auto& [kind, write] : kinds) {
    const double some = instructions(write, few) - nothing, more = instructions(write, 4 * few) - nothing;
    INFO(kind << ": " << some << " and " << more << " instructions");
    CHECK(more < 5.5 * some);
  }
}
