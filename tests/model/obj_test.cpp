#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/model/obj.h>

using namespace periscena;

namespace {

struct Obj {
  Scratch scratch{"obj-files"};

  Import read(const std::string& obj, const std::string& mtl = {}) {
    if (!mtl.empty()) write_file(scratch / "m.mtl", mtl);
    write_file(scratch / "m.obj", (mtl.empty() ? "" : "mtllib m.mtl\n") + obj);
    return read_obj(scratch / "m.obj");
  }

  void write_gray(const char* name, int width, double gray) {
    Image image(width, 1, Format::rgba8_srgb);
    for (int x = 0; x < width; ++x) image.set(x, 0, {gray + x, gray + x, gray + x, 255});
    write_png(image, scratch / name);
  }
};

const std::string square = "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nusemtl red\nf 1 2 3 4\n";

const Material& only(const Import& import) {
  REQUIRE(import.scene.materials().size() == 1);
  return import.scene.materials()[0];
}

}  // namespace

TEST_CASE_METHOD(Obj, "polygons of any shape keep their area, and indices may count from the end") {
  // An L of six corners, which a fan from its first corner would fill beyond its edge.
  const Import import = read("v 0 0 0\nv 2 0 0\nv 2 1 0\nv 1 1 0\nv 1 2 0\nv 0 2 0\nf -6 -5 -4 -3 -2 -1\n");
  REQUIRE(import.scene.meshes().size() == 1);
  REQUIRE(import.scene.meshes()[0].area() == Approx(3));
  for (const Vec3& normal : import.scene.meshes()[0].normals) REQUIRE(normal == Vec3::unit_z());
}

TEST_CASE_METHOD(Obj, "colours of corners come along, and objects of two materials become two meshes") {
  const Import import = read(
      "v 0 0 0 1 0 0\nv 1 0 0 0 1 0\nv 1 1 0 0 0 1\nv 0 1 0 1 1 1\n"
      "o gate\nusemtl red\nf 1 2 3\nusemtl blue\nf 1 3 4\n",
      "newmtl red\nKd 1 0 0\nnewmtl blue\nKd 0 0 1\n");
  const Scene& scene = import.scene;
  REQUIRE(scene.nodes().size() == 2);
  REQUIRE(scene.meshes()[0].colors[1] == Vec4(0, 1, 0, 1));
  REQUIRE(scene.materials()[scene.nodes()[1].material.index].name == "blue");
}

TEST_CASE_METHOD(Obj, "materials that say how rough and metallic they are become just that, with their maps") {
  write_gray("rough.png", 2, 100);
  write_gray("metal.png", 4, 200);
  const Import both = read(square, "newmtl red\nPr 0.4\nPm 0.2\nmap_Pr rough.png\nmap_Pm metal.png\n");
  REQUIRE(both.notes.empty());
  const Material& material = only(both);
  REQUIRE(material.shading == Material::Shading::metallic_roughness);
  REQUIRE(material.roughness == 1);
  REQUIRE(material.metallic == 1);
  const Image& map = *both.scene.textures()[material.metallic_roughness_map.texture.index].image;
  REQUIRE(map.width() == 4);
  REQUIRE(map.at(3, 0)[2] == 203);
  REQUIRE(map.at(3, 0)[1] == 101);
  REQUIRE(map.at(1, 0)[1] == 100);
  const Import rough = read(square, "newmtl red\nPr 0.4\nmap_Pr rough.png\n");
  REQUIRE(only(rough).roughness_scale_map.valid());
  REQUIRE(rough.scene.textures()[0].holds == TextureHolds::data);
  const Import plain = read(square, "newmtl red\nPr 0.4\nPm 0.2\n");
  REQUIRE(only(plain).roughness == 0.4f);
  REQUIRE(only(plain).metallic == 0.2f);
}

TEST_CASE_METHOD(Obj, "maps that are not read are told by name, with what to do instead") {
  const Import import = read(square, "newmtl red\nmap_Bump bumps.png\nmap_d holes.png\nmap_Ks shine.png\n");
  REQUIRE(import.notes.size() == 3);
  for (const Diagnostic& note : import.notes) {
    REQUIRE(note.slug == "unsupported-map");
    REQUIRE_THAT(note.message, Catch::Contains("material \"red\""));
    REQUIRE_FALSE(note.mend.empty());
  }
}

TEST_CASE_METHOD(Obj, "files out of the model's folder are refused, missing ones are told") {
  write_file(scratch / "../periscena-outside.mtl", "newmtl red\n");
  write_gray("../periscena-outside.png", 1, 5);
  for (const char* outside : {"../periscena-outside.mtl", "/etc/hostname", "a/../../periscena-outside.mtl"})
    REQUIRE(thrown_slug([&] { read(std::string("mtllib ") + outside + "\n" + square); }) == "path-outside");
  REQUIRE(thrown_slug([&] { read(square, "newmtl red\nmap_Kd ../periscena-outside.png\n"); }) == "path-outside");
  REQUIRE(thrown_slug([&] { read(square, "newmtl red\nmap_Kd ..\\periscena-outside.png\n"); }) == "path-outside");
  REQUIRE(path_within("", "none.mtl") == std::filesystem::path("none.mtl"));
  REQUIRE(path_within("no folder", "none.mtl"));
  REQUIRE_FALSE(path_within("", "../none.mtl"));
  const Import missing = read("mtllib none.mtl\n" + square);
  REQUIRE(missing.notes.size() == 1);
  REQUIRE(missing.notes[0].slug == "missing-materials");
  REQUIRE(only(missing).name == "default");
  std::filesystem::remove(scratch / "../periscena-outside.mtl");
  std::filesystem::remove(scratch / "../periscena-outside.png");
}

TEST_CASE("an OBJ file with its materials is read, with polygons, lines, and what is missing told") {
  const Scratch scratch("obj");
  write_png(Image(4, 4, Format::rgba8_srgb), scratch / "wood.png");
  write_file(scratch / "boat.mtl",
             "newmtl hull\nKd 0.2 0.4 0.6\nKs 0.5 0.5 0.5\nNs 40\nnewmtl deck\nPr 0.3\nPm 0.1\nmap_Kd wood.png\n"
             "newmtl glass\nKd 1 1 1\nd 0.5\nmap_Kd none.png\n");
  write_file(scratch / "boat.obj",
             "mtllib boat.mtl\no hull\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 0 1\n"
             "usemtl hull\nf 1/1/1 2/2/1 3/3/1 4/4/1\nusemtl deck\nf -4 -3 -2\no rope\nl 1 2 3\n");
  const Import import = read_obj(scratch / "boat.obj");
  const Scene& scene = import.scene;
  const Mesh& hull = scene.meshes()[scene.find_mesh("hull").index];
  REQUIRE(hull.triangle_count() == 2);
  REQUIRE(hull.uv[0] == Vec2(0, 1));  // v runs down
  REQUIRE(hull.area() == Approx(1));
  const Mesh& deck = scene.meshes()[scene.find_mesh("hull 2").index];
  REQUIRE(deck.normals[0] == Vec3(0, 0, 1));
  const Mesh& rope = scene.meshes()[scene.find_mesh("rope, lines").index];
  REQUIRE(rope.primitive == Primitive::lines);
  REQUIRE(rope.indices.size() == 4);
  const auto material = [&](const char* name) { return scene.materials()[scene.find_material(name).index]; };
  REQUIRE(material("hull").shading == Material::Shading::blinn_phong);
  REQUIRE(material("hull").base_color.is_near(Vec3(0.2f, 0.4f, 0.6f)));
  REQUIRE(material("deck").roughness == 0.3f);
  REQUIRE(material("deck").base_color_map.valid());
  REQUIRE(material("glass").alpha_mode == Material::AlphaMode::blend);
  REQUIRE(import.notes.size() == 1);
  REQUIRE(import.notes[0].slug == "missing-texture");
  write_file(scratch / "bad.obj", "v 0 0 0\nv 1 0 0\nf 1 2 9\n");
  REQUIRE_THAT(thrown_text([&] { read_obj(scratch / "bad.obj"); }), Catch::Contains("vertex 9, but there are 2"));
  write_file(scratch / "bad.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\n f 1/1 2/0002 3//9999999999999999999\n");
  REQUIRE_THAT(thrown_text([&] { read_obj(scratch / "bad.obj"); }),
               Catch::Contains("vertex 9999999999999999999, over"));
  write_file(scratch / "empty.obj", "# nothing\n");
  REQUIRE(thrown_slug([&] { read_obj(scratch / "empty.obj"); }) == "broken-obj");
}
