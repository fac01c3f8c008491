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
