#include "model/model.h"
#include "thrown.h"

#include <periscena/model/gltf.h>

using namespace periscena;

TEST_CASE("what is not supported is a warning by name, or an error where it is required") {
  Model model;
  const auto positions = model.floats("VEC3", {0, 0, 0, 1, 0, 0, 0, 1, 0});
  model.show({{"attributes", {{"POSITION", positions}}}, {"targets", {{{"POSITION", positions}}}}});
  model.json["extensionsUsed"] = {"KHR_materials_sheen"};
  model.json["skins"] = {{{"joints", {0}}}};
  model.json["nodes"][0]["skin"] = 0;
  std::vector<std::string> slugs;
  const Import import = model.read();
  for (const Diagnostic& note : import.notes) slugs.push_back(note.slug);
  std::sort(slugs.begin(), slugs.end());
  REQUIRE(slugs == std::vector<std::string>{"unsupported-extension", "unsupported-morphs", "unsupported-skin"});
  model.json["extensionsRequired"] = {"KHR_draco_mesh_compression"};
  REQUIRE_THAT(thrown_text([&] { model.read(); }), Catch::Contains("requires KHR_draco_mesh_compression"));
}

TEST_CASE("broken files are refused with the place of what is wrong") {
  const auto broken = [](auto spoil) {
    Model model;
    const auto positions = model.floats("VEC3", {0, 0, 0, 1, 0, 0, 0, 1, 0});
    const auto indices = model.whole("SCALAR", 5123, {0, 1, 2});
    model.show({{"attributes", {{"POSITION", positions}}}, {"indices", indices}});
    spoil(model.json);
    return thrown_text([&] { model.read(); });
  };
  using Catch::Contains;
  using Json = Model::Json;
  REQUIRE(broken([](Json&) {}).empty());
  REQUIRE_THAT(broken([](Json& j) { j["accessors"][0]["count"] = 4; }),
               Contains("accessors[0] has 4 values of 12 bytes"));
  REQUIRE_THAT(broken([](Json& j) { j["accessors"][0]["count"] = 4000000000u; }),
               Contains("accessors[0] has 4000000000 values"));
  REQUIRE_THAT(broken([](Json& j) {
                 j["accessors"][0].erase("bufferView");
                 j["accessors"][0]["count"] = 900000000;
               }),
               Contains("out of all proportion"));
  REQUIRE_THAT(broken([](Json& j) { j["accessors"][0]["count"] = "three"; }),
               Contains("accessors[0].count is \"three\", but must be a whole number"));
  REQUIRE_THAT(broken([](Json& j) { j["accessors"][0]["componentType"] = 7; }), Contains("no component type"));
  REQUIRE_THAT(broken([](Json& j) { j["accessors"][0]["bufferView"] = 9; }),
               Contains("is 9, but there are 2 bufferViews"));
  REQUIRE_THAT(broken([](Json& j) { j["accessors"][0]["byteOffset"] = 1e15; }), Contains("accessors[0]"));
  REQUIRE_THAT(broken([](Json& j) {
                 j["accessors"][1]["count"] = 2;
                 j["bufferViews"][1]["byteLength"] = 3;
               }),
               Contains("buffer view of 3 bytes"));
  REQUIRE_THAT(broken([](Json& j) { j["bufferViews"][0]["byteLength"] = 1000; }), Contains("bufferViews[0] reaches"));
  REQUIRE_THAT(broken([](Json& j) { j["bufferViews"][0]["byteStride"] = 4; }), Contains("byteStride of 4"));
  REQUIRE_THAT(broken([](Json& j) { j["buffers"][0]["byteLength"] = 1000; }), Contains("says that it has 1000 bytes"));
  REQUIRE_THAT(broken([](Json& j) { j["meshes"][0]["primitives"][0]["mode"] = 9; }), Contains("must be 0 to 6"));
  REQUIRE_THAT(broken([](Json& j) { j["meshes"][0]["primitives"] = 5; }), Contains("must be a list"));
  REQUIRE_THAT(broken([](Json& j) { j["meshes"][0] = 5; }), Contains("meshes[0] is 5, but must be an object"));
  REQUIRE_THAT(broken([](Json& j) { j["nodes"][0]["mesh"] = 3; }),
               Contains("nodes[0].mesh is 3, but there are 1 meshes"));
  REQUIRE_THAT(broken([](Json& j) {
                 j["nodes"][0]["children"] = {0};
                 j["scenes"] = Json::array();
               }),
               Contains("hangs below itself"));
  REQUIRE_THAT(broken([](Json& j) {
                 j["nodes"].push_back({{"children", {0}}});
                 j["scenes"] = {{{"nodes", {0}}}};
               }),
               Contains("hangs below nodes[1]"));
  REQUIRE_THAT(broken([](Json& j) { j["nodes"][0]["matrix"] = {1, 2}; }), Contains("must be 16 numbers"));
  REQUIRE_THAT(broken([](Json& j) { j["nodes"][0]["scale"] = {1e300, 1, 1}; }), Contains("too large"));
  REQUIRE_THAT(broken([](Json& j) { j["nodes"][0]["rotation"] = {0, 0, 0, 0}; }), Contains("length 0"));
  REQUIRE_THAT(broken([](Json& j) { j["asset"]["version"] = "1.0"; }), Contains("says version 1.0"));
  REQUIRE_THAT(broken([](Json& j) { j["asset"]["minVersion"] = "2.1"; }), Contains("needs version 2.1 to be read"));
  REQUIRE_THAT(broken([](Json& j) { j.erase("asset"); }), Contains("has no \"asset\""));
  REQUIRE_THAT(broken([](Json& j) { j["scene"] = 4; }), Contains("scene is 4"));
  for (const char* path : {"../up.bin", "/etc/hostname", "a/../../b.bin", "https://example.org/a.bin", "%2e%2e/up.bin"})
    REQUIRE_THAT(broken([&](Json& j) { j["buffers"][0]["uri"] = path; }), Contains("not in the file's folder"));
  REQUIRE_THAT(broken([](Json& j) { j["buffers"][0]["uri"] = "none.bin"; }), Contains("none.bin"));
  REQUIRE_THAT(broken([](Json& j) { j["buffers"][0]["uri"] = "data:;base64,@@"; }), Contains("not base64"));
}

TEST_CASE("vertices of NaN, indices out of range and broken images are refused") {
  Model model;
  const auto positions = model.floats("VEC3", {0, 0, 0, std::nanf(""), 0, 0, 0, 1, 0});
  model.show({{"attributes", {{"POSITION", positions}}}});
  REQUIRE_THAT(thrown_text([&] { model.read(); }),
               Catch::Contains("meshes[0].primitives[0] can't be drawn") && Catch::Contains("NaN"));
  Model far;
  const auto triangle = far.floats("VEC3", {0, 0, 0, 1, 0, 0, 0, 1, 0});
  far.show({{"attributes", {{"POSITION", triangle}}}, {"indices", far.whole("SCALAR", 5125, {0, 1, 70})}});
  REQUIRE_THAT(thrown_text([&] { far.read(); }), Catch::Contains("index 70, but there are 3 vertices"));
  Model pictured;
  pictured.add_texture(4);
  pictured.json["materials"] = {{{"pbrMetallicRoughness", {{"baseColorTexture", {{"index", 0}}}}}}};
  REQUIRE(thrown_text([&] { pictured.read(); }).empty());
  Model absent = pictured;
  absent.json["images"][0] = {{"uri", "gone.png"}};
  REQUIRE_THAT(thrown_text([&] { absent.read(); }), Catch::Contains("gone.png"));
  Model cut = pictured;
  cut.json["bufferViews"][0]["byteLength"] = 40;
  REQUIRE_THAT(thrown_text([&] { cut.read(); }), Catch::Contains("not a good PNG"));
}

TEST_CASE("what we write beside the standard is refused with its place when it is unsound") {
  const auto refusal = [](const nlohmann::json& own) {
    Model model;
    model.json["nodes"] = {{{"extras", {{"periscena", {{"motion", own}}}}}}};
    return thrown_text([&] { model.read(); });
  };
  CHECK(refusal({{"kind", "spin"}, {"period_seconds", 4}}).empty());
  CHECK_THAT(refusal({{"kind", "spin"}, {"period_seconds", "four"}}),
             Catch::Contains("nodes[0].extras.periscena.motion is not sound: \"period_seconds\" wants a number"));
  CHECK_THAT(refusal({{"kind", "jump"}}), Catch::Contains("\"kind\" can't be \"jump\""));
  CHECK_THAT(refusal({{"axis", {0, 1, 0}}}), Catch::Contains("has no \"kind\""));
  CHECK_THAT(refusal(7), Catch::Contains("has no \"kind\""));
  // However deep it is, of what is read at all.
  nlohmann::json deep = 1;
  for (int i = 0; i < 90; ++i) deep = nlohmann::json::array({deep});
  CHECK_THAT(refusal({{"kind", "spin"}, {"axis", deep}}), Catch::Contains("\"axis\" wants 3 numbers"));
}
