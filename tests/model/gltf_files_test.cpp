#include "model/model.h"
#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>

#include <fstream>

using namespace periscena;
namespace fs = std::filesystem;

namespace {

/// A model whose vertices are interleaved, with 16-bit indices; its buffer is a file of its own, or lies in the .glb.
struct Interleaved {
  Model model;
  std::vector<float> numbers;

  Interleaved() {
    std::string vertices;
    for (int i = 0; i < 40; ++i) {
      for (const float number : {0.5f * static_cast<float>(i), static_cast<float>(i % 7), 3.0f, 0.0f, 1.0f, 0.0f,
                                 0.1f * static_cast<float>(i), 0.25f}) {
        numbers.push_back(number);
        vertices.append(reinterpret_cast<const char*>(&number), sizeof number);
      }
    }
    const std::size_t view = model.view(vertices);
    model.json["bufferViews"][view]["byteStride"] = 32;
    std::vector<double> order;
    for (int i = 0; i < 39; ++i) order.push_back(i);
    const auto accessor = [&](std::size_t in, std::size_t offset, int component, std::size_t count, const char* type) {
      return model.add(
          "accessors",
          {{"bufferView", in}, {"byteOffset", offset}, {"componentType", component}, {"count", count}, {"type", type}});
    };
    const auto positions = accessor(view, 0, 5126, 40, "VEC3"), normals = accessor(view, 12, 5126, 40, "VEC3"),
               uv = accessor(view, 24, 5126, 40, "VEC2"),
               indices = accessor(model.view(Model::bytes_of<std::uint16_t>(order)), 0, 5123, 39, "SCALAR");
    model.show(
        {{"attributes", {{"POSITION", positions}, {"NORMAL", normals}, {"TEXCOORD_0", uv}}}, {"indices", indices}});
  }

  void write(const fs::path& folder, const std::string& buffer) {
    model.json["buffers"][0]["uri"] = buffer;
    write_file(folder / "model.gltf", model.json.dump());
  }

  void expect(const Import& import) const {
    const Mesh& mesh = import.scene.meshes()[0];
    REQUIRE(mesh.positions.size() == 40);
    for (std::size_t i = 0; i < 40; ++i) {
      REQUIRE(mesh.positions[i] == Vec3(numbers[8 * i], numbers[8 * i + 1], numbers[8 * i + 2]));
      REQUIRE(mesh.normals[i] == Vec3(0, 1, 0));
      REQUIRE(mesh.uv[i] == Vec2(numbers[8 * i + 6], 0.25f));
    }
    for (std::uint32_t i = 0; i < 39; ++i) REQUIRE(mesh.indices[i] == i);
  }
};

}  // namespace

TEST_CASE("a model's buffers are read from files beside it, in parts, and give what they hold") {
  const Scratch scratch("gltf-files");
  Interleaved made;
  write_file(scratch / "model.glb", made.model.glb());
  made.expect(read_gltf(scratch / "model.glb"));
  fs::create_directories(scratch / "parts");
  write_file(scratch / "parts/two words.bin", made.model.binary);
  made.write(scratch.path(), "parts/two%20words.bin");
  made.expect(read_gltf(scratch / "model.gltf"));
  // Through a pipe there are no parts to be had.
  REQUIRE(std::system(("mkfifo '" + (scratch / "pipe.glb").string() + "'").c_str()) == 0);
  REQUIRE(std::system(("cat '" + (scratch / "model.glb").string() + "' > '" + (scratch / "pipe.glb").string() + "' &")
                          .c_str()) == 0);
  made.expect(read_gltf(scratch / "pipe.glb"));
}

TEST_CASE("files out of the model's folder, missing ones and short ones are refused") {
  const Scratch scratch("gltf-outside");
  fs::create_directories(scratch / "model");
  fs::create_directories(scratch / "model2");
  Interleaved made;
  write_file(scratch / "secret.bin", made.model.binary);
  write_file(scratch / "model2/secret.bin", made.model.binary);
  write_file(scratch / "model/short.bin", made.model.binary.substr(0, 100));
  fs::create_symlink(scratch / "secret.bin", scratch / "model/link.bin");
  const auto slug = [&](const std::string& buffer) {
    made.write(scratch / "model", buffer);
    return thrown_slug([&] { read_gltf(scratch / "model/model.gltf"); });
  };
  for (const std::string& buffer :
       {std::string("../secret.bin"), std::string("%2e%2e/secret.bin"), std::string("a/../../secret.bin"),
        (scratch / "secret.bin").string(), std::string("link.bin"), std::string("../model2/secret.bin"),
        std::string("file:///etc/passwd"), std::string("..")}) {
    CAPTURE(buffer);
    REQUIRE(slug(buffer) == "path-outside");
  }
  REQUIRE(slug("none.bin") == "unreadable-file");
  REQUIRE(slug("short.bin") == "broken-gltf");
  REQUIRE(slug("model.gltf") != "nothing");
  REQUIRE(thrown_slug([&] { read_gltf(scratch / "model"); }) == "unreadable-file");
  REQUIRE(thrown_slug([&] { read_gltf(scratch / "none.glb"); }) == "unreadable-file");
}

TEST_CASE("a model can't have GLSL read from out of its folder, nor is one written that would") {
  Interleaved made;
  made.model.add("materials", {{"extras", {{"periscena", {{"surface", "rust.glsl"}}}}}});
  const auto slug = [&](const std::string& surface) {
    made.model.json["materials"][0]["extras"]["periscena"]["surface"] = surface;
    return thrown_slug([&] { made.model.read(); });
  };
  REQUIRE(slug("shaders/rust.glsl") == "nothing");
  for (const char* outside : {"/etc/passwd", "../rust.glsl", "a/../../rust.glsl"})
    REQUIRE(slug(outside) == "path-outside");
  Scene scene;
  scene.add_material({.name = "rusty", .surface = "/somewhere/rust.glsl"});
  REQUIRE(thrown_slug([&] { encode_glb(scene); }) == "path-outside");
}

TEST_CASE("parts that are asked for again and again cost no more than the file allows") {
  // Each accessor wants all of the buffer, from another byte on: as files, all of them at once would be 200 MB.
  Model model;
  const std::string bytes(4u << 20, '\1');
  model.view(bytes);
  for (int i = 0; i < 400; ++i) {
    const std::size_t view =
        model.add("bufferViews", {{"buffer", 0}, {"byteOffset", 4 * i}, {"byteLength", (3u << 20)}});
    const std::size_t accessor = model.add(
        "accessors", {{"bufferView", view}, {"componentType", 5126}, {"count", (3u << 20) / 12}, {"type", "VEC3"}});
    model.json["meshes"].push_back({{"primitives", {{{"attributes", {{"POSITION", accessor}}}, {"mode", 0}}}}});
    model.json["nodes"].push_back({{"mesh", i}});
  }
  const Scratch scratch("gltf-parts");
  write_file(scratch / "greedy.glb", model.glb());
  REQUIRE_THAT(thrown_text([&] { read_gltf(scratch / "greedy.glb"); }), Catch::Contains("out of all proportion"));
}
