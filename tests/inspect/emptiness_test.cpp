#include <periscena/inspect/emptiness.h>
#include <periscena/passes/forward.h>
#include <periscena/passes/geometry.h>

#include <catch2/catch.hpp>

using namespace periscena;

namespace {

/// A box at the origin, seen from +Z, in one light that comes from there; a test spoils it.
struct BoxInLight {
  BoxInLight() {
    material.name = "oak";
    light.kind = DirectionalLight{.direction = Vec3(0, 0, -1)};
    view.eye = Vec3(0, 0, 5);
  }

  std::string slug() const {
    const Diagnostics found = told();
    REQUIRE(found.size() <= 1);
    return found.empty() ? "nothing" : found[0].slug;
  }

  Diagnostics told() const {
    auto scene = std::make_shared<Scene>();
    Node object;
    object.name = "box";
    object.mesh = scene->add_mesh("box", mesh);
    object.material = scene->add_material(material);
    object.placement = placement;
    if (has_object) scene->add_node(object);
    if (has_light) {
      Light added = light;
      added.name = "sun";
      scene->add_light(added);
    }
    if (ambient > 0) scene->add_light(AmbientLight{"room", Vec3::constant(ambient), Vec3::zero()});
    scene->add_view({"front", view});
    FrameGraph frame;
    frame.target("depth", {.format = Format::depth32f});
    passes::Forward pass{.scene = scene, .view = "front"};
    pass.surfaces = surfaces;
    pass.color = "output";
    pass.depth = "depth";
    frame.add(passes::forward(pass));
    const PlanResult planned = frame.plan(32, 20);
    INFO(to_text(planned.diagnostics()));
    REQUIRE(planned.ok());
    return inspect::find_empty_passes(frame, planned.value(), 0);
  }

  Mesh mesh = shapes::box(Vec3::ones());
  Material material;
  Light light;
  Camera view;
  Transform placement = Transform::identity();
  bool has_object = true, has_light = true;
  float ambient = 0;
  Surfaces surfaces = Surfaces::all;
};

/// The box without its triangles that face +Z.
Mesh without_front(const Mesh& box) {
  Mesh open = box;
  std::vector<std::uint32_t> kept;
  for (std::size_t i = 0; i + 2 < box.indices.size(); i += 3) {
    if (box.normals[box.indices[i]].z() > 0.5f) continue;
    for (std::size_t k = 0; k < 3; ++k) kept.push_back(box.indices[i + k]);
  }
  open.indices = std::move(kept);
  return open;
}

}  // namespace

TEST_CASE_METHOD(BoxInLight, "a box in view and in the light is nothing to tell") {
  REQUIRE(slug() == "nothing");
}

TEST_CASE_METHOD(BoxInLight, "a scene without objects, and one of which the pass chooses none, are told") {
  surfaces = Surfaces::blended;
  REQUIRE(slug() == "nothing-chosen");
  REQUIRE_THAT(told()[0].message, Catch::Contains("leave none of 1 object (\"box\")"));
  has_object = false;
  REQUIRE(slug() == "empty-scene");
}

TEST_CASE_METHOD(BoxInLight, "objects out of view are told with where they are") {
  view.target = Vec3(0, 0, 10);
  REQUIRE_THAT(told()[0].message, Catch::EndsWith("1 behind it (\"box\")"));
  REQUIRE_THAT(told()[0].mend, Catch::Contains("target = [0, 0, 0]"));
  view.target = Vec3(5, 0, 5);
  REQUIRE_THAT(told()[0].message, Catch::EndsWith("1 beside it (\"box\")"));
  view.target = Vec3::zero();
  view.far = 2;
  REQUIRE_THAT(told()[0].message, Catch::EndsWith("1 beyond its far of 2 m (\"box\")"));
  view.far = 100;
  view.near = 50;
  REQUIRE_THAT(told()[0].message, Catch::EndsWith("1 nearer than its near of 50 m (\"box\")"));
  REQUIRE(told()[0].slug == "nothing-in-view");
}

TEST_CASE_METHOD(BoxInLight,
                 "faces that are all turned away are told, but not of double-sided materials, nor mirrored ones") {
  // The open box seen from where its front was shows only backs.
  mesh = without_front(mesh);
  view.eye = Vec3(0, 0, 0.2f);
  view.target = Vec3(0, 0, -1);
  view.near = 0.01f;
  REQUIRE(slug() == "faces-away");
  REQUIRE_THAT(told()[0].message, Catch::EndsWith("turned away, of 1 object (\"box\")"));
  material.double_sided = true;
  REQUIRE(slug() == "nothing");
  material.double_sided = false;
  // Turned inside out by mirroring, each face still shows its outside.
  placement = Transform::scale(Vec3(-1, 1, 1));
  REQUIRE(slug() == "faces-away");
  mesh = shapes::box(Vec3::ones());
  view.eye = Vec3(0, 0, 5);
  REQUIRE(slug() == "nothing");
}

TEST_CASE_METHOD(BoxInLight, "light that is not there, off, behind, out of reach or beside its cone is told") {
  has_light = false;
  REQUIRE(slug() == "no-light");
  REQUIRE_THAT(told()[0].message, Catch::Contains("1 object (\"box\") in the dark: no light is chosen"));
  has_light = true;
  const LightKind shining = light.kind;
  light.kind = DirectionalLight{.illuminance = 0, .direction = Vec3(0, 0, -1)};
  REQUIRE(slug() == "no-light");
  light.kind = shining;
  // Only the face toward the viewer is left, and the sun shines at its back.
  mesh = shapes::plane(1, 1, 1);
  placement = Transform::rotate(Vec3::unit_x(), pi / 2);
  REQUIRE(slug() == "nothing");
  light.kind = DirectionalLight{.direction = Vec3(0, 0, 1)};
  REQUIRE(slug() == "no-light");
  REQUIRE_THAT(told()[0].message, Catch::Contains("its light reaches no face"));
  light = {};
  light.kind = PointLight{.position = Vec3(0, 0, 3)};
  REQUIRE(slug() == "nothing");
  light.kind = PointLight{.position = Vec3(0, 0, 3), .range = 2};
  REQUIRE(slug() == "no-light");
  light.kind = SpotLight{.position = Vec3(0, 0, 3), .direction = Vec3(1, 0, 0), .range = 10};
  REQUIRE(slug() == "no-light");
  light.kind = SpotLight{.position = Vec3(0, 0, 3), .direction = Vec3(0, 0, -1), .range = 10};
  REQUIRE(slug() == "nothing");
  // What shines by itself needs none, nor what is lit from all around.
  has_light = false;
  ambient = 1;
  REQUIRE(slug() == "nothing");
  ambient = 0;
  material.emission = Vec3(1, 0, 0);
  REQUIRE(slug() == "nothing");
  material.emission = Vec3::zero();
  material.shading = Material::Shading::unlit;
  REQUIRE(slug() == "nothing");
}
