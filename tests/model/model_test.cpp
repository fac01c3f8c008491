#include <periscena/base/error.h>
#include <periscena/base/file.h>
#include <periscena/model/model.h>

#include "scratch.h"
#include "thrown.h"

#include <catch2/catch.hpp>

using namespace periscena;

TEST_CASE("a model is read and written by the kind that its name says, in capitals or not") {
  const Scratch folder("models");
  Scene scene;
  Node node;
  node.name = "box";
  node.mesh = scene.add_mesh("box", shapes::box(Vec3::ones()));
  node.material = scene.add_material({.name = "oak"});
  scene.add_node(node);
  write_model(scene, folder / "box.GLB");
  REQUIRE(read_model(folder / "box.GLB").scene.find_mesh("box").valid());

  write_file(folder / "corner.Obj", "o corner\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
  REQUIRE(read_model(folder / "corner.Obj").scene.find_mesh("corner").valid());

  for (const ModelKind& kind : model_kinds()) CHECK(is_model("box" + std::string(kind.extension)));
  CHECK_FALSE(is_model("glb"));
  CHECK_FALSE(is_model("box.glb.toml"));
}

TEST_CASE("models of no kind are refused, with the kinds that there are") {
  CHECK_THAT(thrown_text([] { read_model("box.stl"); }),
             Catch::Contains("error[unknown-model]: models that end in \".stl\" are not read") &&
                 Catch::Contains("one of \".gltf\", \".glb\", \".obj\""));
  CHECK_THAT(
      thrown_text([] { write_model(Scene{}, "box.obj"); }),
      Catch::Contains("models that end in \".obj\" are not written") && Catch::Contains("there is only \".glb\""));
  CHECK(thrown_slug([] { read_model("box"); }) == "unknown-model");
}
