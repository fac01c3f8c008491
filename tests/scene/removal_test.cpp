#include "thrown.h"

#include <periscena/model/gltf.h>
#include <periscena/scene/scene_bounds.h>

using namespace periscena;

namespace {

struct Quay {
  Scene scene;
  MeshHandle box = scene.add_mesh("box", shapes::box({1, 1, 1}));
  MaterialHandle oak = scene.add_material({.name = "oak"});

  NodeHandle add(const std::string& name, NodeHandle parent = {}, bool shows = true) {
    Node node{.name = name, .parent = parent};
    if (shows) node.mesh = box, node.material = oak;
    return scene.add_node(node);
  }
};

std::string what(const std::function<void()>& action) {
  try {
    action();
    return {};
  } catch (const Error& error) {
    return error.what();
  }
}

}  // namespace

TEST_CASE("a handle of what was removed is stale for good, and the message names what it was") {
  Quay quay;
  const NodeHandle crate = quay.add("crate");
  quay.scene.remove(crate);
  CHECK_FALSE(quay.scene.has(crate));
  CHECK_FALSE(quay.scene.find_node("crate").valid());
  CHECK_FALSE(quay.scene.node_handle(crate.index).valid());
  const NodeHandle barrel = quay.add("barrel");
  CHECK(barrel.index == crate.index);  // in its place
  CHECK(barrel != crate);
  CHECK(quay.scene.has(barrel));
  CHECK(quay.scene.node_handle(crate.index) == barrel);
  for (int round = 0; round < 2; ++round) {
    CHECK_THAT(what([&] { quay.scene.set_visible(crate, false); }),
               Catch::Contains("stale-handle") && Catch::Contains("\"crate\", was removed"));
    CHECK(thrown_slug([&] { quay.scene.remove(crate); }) == "stale-handle");
    CHECK(thrown_slug([&] { quay.scene.at(crate); }) == "stale-handle");
    CHECK(thrown_slug([&] { quay.scene.set_parent(barrel, crate); }) == "stale-handle");
    CHECK(thrown_slug([&] { quay.add("lid", crate); }) == "stale-handle");
    CHECK(thrown_slug([&] { quay.scene.add_view({"up", {}, crate}); }) == "unknown-parent");
    CHECK(thrown_slug([&] { quay.scene.add_variant({"night", {}, {}, {{crate, quay.oak}}}); }) == "unknown-material");
  }
  CHECK(quay.scene.at(barrel).visible);
  CHECK(quay.add("crate") != crate);  // the name is free again
}

TEST_CASE("a node goes with all below it, and with the lights and views that follow") {
  Quay quay;
  const NodeHandle boat = quay.add("boat"), mast = quay.add("mast", boat), top = quay.add("top", mast);
  const NodeHandle bank = quay.add("bank");
  quay.scene.add_light(Light{.name = "masthead", .kind = PointLight{}, .node = top, .tags = {"lamps"}});
  const LightHandle lamp =
      quay.scene.add_light(Light{.name = "lamp", .kind = PointLight{}, .node = bank, .tags = {"lamps"}});
  quay.scene.add_view({"deck", {}, mast});
  const ViewHandle front = quay.scene.add_view({"front", {}});
  quay.scene.add_variant({"night", {}, {}, {{top, quay.oak}, {bank, quay.oak}}});
  quay.scene.remove(boat);
  CHECK_FALSE(quay.scene.has(mast));
  CHECK_FALSE(quay.scene.has(top));
  CHECK(quay.scene.has(bank));
  REQUIRE(quay.scene.lights().size() == 1);
  CHECK(quay.scene.at(lamp).name == "lamp");  // that stood behind the other
  REQUIRE(quay.scene.views().size() == 1);
  CHECK(quay.scene.at(front).name == "front");
  CHECK(quay.scene.find_view("deck") == nullptr);
  CHECK(quay.scene.find_light("masthead") == nullptr);
  CHECK(quay.scene.has_light("lamps"));
  CHECK(quay.scene.variants()[0].choices.size() == 1);
  quay.scene.remove(lamp);
  CHECK_FALSE(quay.scene.has_light("lamps"));
  CHECK(thrown_slug([&] { quay.scene.change_light(lamp, {.name = "lamp", .kind = PointLight{}}); }) == "stale-handle");
}

TEST_CASE("what is used is not removed, and the message says by what") {
  Quay quay;
  const auto image = std::make_shared<const Image>(2, 2, Format::rgba8);
  const TextureHandle bark = quay.scene.add_texture({.name = "bark", .image = image});
  const MaterialHandle bog = quay.scene.add_material({.name = "bog oak", .base_color_map = {.texture = bark}});
  const NodeHandle crate = quay.add("crate");
  CHECK_THAT(what([&] { quay.scene.remove(quay.box); }),
             Catch::Contains("in-use") && Catch::Contains("node \"crate\""));
  CHECK_THAT(what([&] { quay.scene.remove(quay.oak); }), Catch::Contains("node \"crate\""));
  CHECK_THAT(what([&] { quay.scene.remove(bark); }), Catch::Contains("material \"bog oak\""));
  quay.scene.set_mesh(crate, quay.box, bog);
  quay.scene.remove(quay.oak);
  CHECK(thrown_slug([&] { quay.scene.set_mesh(crate, quay.box, quay.oak); }) == "unknown-mesh");
  CHECK(thrown_slug([&] { quay.scene.change_material(quay.oak, {}); }) == "stale-handle");
  quay.scene.remove(crate);
  quay.scene.remove(quay.box);
  quay.scene.remove(bog);
  quay.scene.remove(bark);
  CHECK(thrown_slug([&] { quay.scene.change_mesh(quay.box, shapes::sphere(1, 8)); }) == "stale-handle");
  CHECK(thrown_slug([&] { quay.scene.change_texture(bark, {.name = "bark", .image = image}); }) == "stale-handle");
  CHECK(quay.scene.packed() == Scene());
}

TEST_CASE("removing everything and adding it again a thousand times leaves the lists as they were") {
  Quay quay;
  std::vector<NodeHandle> nodes;
  const auto fill = [&] {
    nodes.clear();
    for (int i = 0; i < 20; ++i)
      nodes.push_back(
          quay.add("node " + std::to_string(i), i % 4 ? nodes[static_cast<std::size_t>(i) - 1] : NodeHandle{}));
    for (int i = 0; i < 5; ++i)
      quay.scene.add_light(Light{.name = "lamp " + std::to_string(i), .kind = PointLight{}, .tags = {"lamps"}});
  };
  fill();
  const Scene first = quay.scene;
  for (int round = 0; round < 1000; ++round) {
    for (std::size_t i = 0; i < nodes.size(); i += 4) quay.scene.remove(nodes[i]);
    for (int i = 5; i-- > 0;) quay.scene.remove(quay.scene.light_handle("lamp " + std::to_string(i)));
    REQUIRE(quay.scene.lights().empty());
    fill();
  }
  CHECK(quay.scene.nodes().size() == 20);
  CHECK(quay.scene.packed() == first.packed());
}

TEST_CASE("a node hangs where it was put, below one of a higher number, too") {
  Quay quay;
  const NodeHandle a = quay.add("a"), b = quay.add("b", a), c = quay.add("c");
  quay.scene.set_local_transform(c, Transform::translate({1, 0, 0}));
  quay.scene.set_local_transform(a, Transform::translate({0, 2, 0}));
  CHECK(quay.scene.is_in_order());
  quay.scene.set_parent(a, c);
  CHECK_FALSE(quay.scene.is_in_order());
  std::vector<Transform> worlds(3, Transform::identity());
  quay.scene.world_transforms(0, worlds);
  CHECK(worlds[b.index].apply_to_point(Vec3::zero()).is_near({1, 2, 0}, 1e-6f));
  CHECK_THAT(what([&] { quay.scene.set_parent(c, b); }),
             Catch::Contains("parent-cycle") && Catch::Contains("\"c\" can't hang on \"b\""));
  CHECK(thrown_slug([&] { quay.scene.set_parent(c, c); }) == "parent-cycle");
  quay.scene.set_tags(c, {"boats"});
  quay.scene.set_visible(c, false);
  CHECK(quay.scene.chosen({std::vector<std::string>{"boats"}, {}}) == std::vector<bool>{false, false, false});
  quay.scene.set_visible(c, true);
  CHECK(quay.scene.chosen({std::vector<std::string>{"boats"}, {}}) == std::vector<bool>{true, true, true});
  CHECK(quay.scene.tags() == std::vector<std::string>{"boats"});
  // A file has parents first, and no empty places.
  quay.scene.remove(b);
  const Scene read = read_gltf(encode_glb(quay.scene), "quay.glb", ".").scene;
  CHECK(read.nodes().size() == 2);
  CHECK(read.find_node("a").valid());
  CHECK(read.at(read.at(read.find_node("a")).parent).name == "c");
  quay.scene.set_parent(a, {});
  CHECK(quay.scene.is_in_order());
  quay.scene.set_tags(c, {});
  CHECK(quay.scene.tags().empty());
}

TEST_CASE("the box around a scene holds what it shows, and nothing else") {
  Quay quay;
  CHECK(bounds_of(quay.scene).empty());
  quay.add("pivot", {}, false);
  const NodeHandle crate = quay.add("crate"), far = quay.add("far");
  quay.scene.set_local_transform(far, Transform::translate({10, 0, 0}));
  quay.scene.set_tags(far, {"far"});
  CHECK(bounds_of(quay.scene).max.is_near({10.5f, 0.5f, 0.5f}, 1e-5f));
  CHECK(bounds_of(quay.scene, {{}, {"far"}}).max.is_near({0.5f, 0.5f, 0.5f}, 1e-5f));
  quay.scene.set_visible(crate, false);
  CHECK(bounds_of(quay.scene).min.is_near({9.5f, -0.5f, -0.5f}, 1e-5f));
  const Transform huge = Transform::scale(Vec3::constant(1e30f));
  quay.scene.set_local_transform(far, huge.then(huge));
  CHECK(bounds_of(quay.scene).empty());
}

TEST_CASE("vertices and pixels change without the structure where their shape stays") {
  Scene scene;
  const auto version = [&] { return scene.versions().structure; };
  const MeshHandle box = scene.add_mesh("box", shapes::box({1, 1, 1}));
  const TextureHandle bark = scene.add_texture({.name = "bark", .image = std::make_shared<Image>(8, 4, Format::rgba8)});
  const NodeHandle node = scene.add_node({.mesh = box, .material = scene.add_material({.name = "wood"})});
  CHECK_FALSE(scene.changing_nodes()[node.index]);
  std::uint64_t before = version();
  scene.change_mesh(box, shapes::box({2, 1, 1}));
  CHECK(version() == before + 1);  // it becomes dynamic
  CHECK(scene.changing_nodes()[node.index]);
  CHECK_FALSE(scene.moving_nodes()[node.index]);
  scene.change_mesh(box, shapes::box({3, 1, 1}));
  CHECK(version() == before + 1);
  CHECK(scene.versions().meshes == 2);
  CHECK(scene.mesh_version(box.index) == 2);
  CHECK(scene.at(box).bounds().size().x() == 3);
  CHECK(scene.mesh_version(scene.add_mesh("other", shapes::box({1, 1, 1})).index) == 0);
  before = version();
  scene.change_mesh(box, shapes::sphere(1, 8));
  CHECK(version() == before + 1);
  Mesh broken = shapes::sphere(1, 8);
  broken.normals = {};
  CHECK(thrown_slug([&] { scene.change_mesh(box, broken); }) == "broken-mesh");
  CHECK(thrown_slug([&] { scene.change_mesh(box, {}); }) == "broken-mesh");

  before = version();
  Image part(3, 2, Format::rgba8);
  part.set(1, 1, {1, 2, 3, 4});
  scene.change_texture(bark, part, 5, 2);
  CHECK(version() == before);
  CHECK(scene.versions().textures == 1);
  CHECK(scene.at(bark).image->at(6, 3) == std::array<double, 4>{1, 2, 3, 4});
  const auto refused = [&](const Image& image, int left, int top) {
    return thrown_slug([&] { scene.change_texture(bark, image, left, top); });
  };
  CHECK(refused(part, 6, 2) == "pixel-outside");
  CHECK(refused(part, 5, 3) == "pixel-outside");
  CHECK(refused(part, -1, 0) == "pixel-outside");
  CHECK(refused(part, 2147483647, 0) == "pixel-outside");
  CHECK(refused(Image(), 0, 0) == "image-format");
  CHECK(refused(Image(2, 2, Format::rgba32f), 0, 0) == "image-format");
  CHECK(refused(Image::outline(2, 2, Format::rgba8), 0, 0) == "image-format");
  scene.change_texture(bark, {.name = "bark", .image = std::make_shared<Image>(8, 4, Format::rgba8_srgb)});
  CHECK(version() == before);
  CHECK(scene.at(bark).name == "bark");
  scene.change_texture(
      bark, {.name = "bark", .image = std::make_shared<Image>(8, 4, Format::rgba8), .sampling = {.anisotropy = 2}});
  CHECK(version() == before + 1);
  scene.remove(bark);
  CHECK(refused(part, 0, 0) == "stale-handle");
}
