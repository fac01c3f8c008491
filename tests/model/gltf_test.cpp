#include "model/model.h"
#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/image/files.h>
#include <periscena/model/gltf.h>

#include <algorithm>
#include <cmath>

using namespace periscena;

namespace {

std::shared_ptr<const Image> checks(int size, int bright) {
  Image image(size, size, Format::rgba8_srgb);
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) image.set(x, y, {(x + y) % 2 ? double(bright) : 20.0, 2.0 * x, 3.0 * y, 255});
  }
  return std::make_shared<const Image>(std::move(image));
}

/// A scene with something of everything that glTF, or our extras, can hold.
Scene full_scene() {
  Scene scene;
  Mesh box = shapes::box({1, 2, 3});
  std::vector<Vec2> second(box.positions.size(), Vec2(0.25f, 0.5f));
  std::vector<Vec4> colors(box.positions.size(), Vec4(1, 0.5f, 0.25f, 1));
  const MeshHandle ball = scene.add_mesh("ball", shapes::sphere(1, 12));
  Mesh colored = box;
  colored.second_uv = second;
  colored.colors = colors;
  const MeshHandle crate = scene.add_mesh("crate", colored);
  Mesh wire;
  wire.primitive = Primitive::lines;
  wire.positions = std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}};
  wire.indices = std::vector<std::uint32_t>{0, 1, 1, 2};
  const MeshHandle rope = scene.add_mesh("rope", wire);
  wire.primitive = Primitive::points;
  wire.indices = std::vector<std::uint32_t>{2, 0, 1};
  scene.add_mesh("dots, shown nowhere", wire);

  const TextureHandle brick = scene.add_texture({.name = "brick",
                                                 .image = checks(8, 250),
                                                 .sampling = {.wrap_u = Wrap::mirror, .anisotropy = 4},
                                                 .metres_per_tile = Vec2(0.5f, 0.25f)});
  const TextureHandle rough = scene.add_texture({.name = "rough",
                                                 .image = checks(4, 100),
                                                 .holds = TextureHolds::data,
                                                 .sampling = {.filter = Filter::nearest, .wrap_v = Wrap::clamp}});
  Material wall{.name = "wall", .base_color = {0.1f, 0.2f, 0.3f}, .alpha = 0.5f, .metallic = 0.25f, .roughness = 0.75f};
  wall.base_color_map = {brick, 1, {0.1f, 0.2f}, 0.3f, {2, 3}};
  wall.metallic_roughness_map = {.texture = rough};
  wall.normal_map = {.texture = rough};
  wall.normal_scale = 0.5f;
  wall.occlusion_map = {.texture = rough};
  wall.occlusion_strength = 0.7f;
  wall.roughness_scale_map = {.texture = rough, .scale = {4, 4}};
  wall.emission = {0.3f, 700.1f, 3};
  wall.emission_map = {.texture = brick};
  wall.alpha_mode = Material::AlphaMode::mask;
  wall.alpha_cutoff = 0.25f;
  wall.double_sided = true;
  const MaterialHandle stone = scene.add_material(wall);
  const MaterialHandle paint = scene.add_material({.name = "paint",
                                                   .shading = Material::Shading::blinn_phong,
                                                   .specular = {0.1f, 0.2f, 0.3f},
                                                   .shininess = 77,
                                                   .surface = "streaks.glsl",
                                                   .shows = "mirror",
                                                   .shows_mirrored = true});
  const MaterialHandle sign = scene.add_material(
      {.name = "sign", .shading = Material::Shading::unlit, .alpha_mode = Material::AlphaMode::blend});

  Node gate;
  gate.name = "gate";
  gate.placement = Transform::rotate(Vec3(1, 2, 3), 0.4f).then(translate({1, 2, 3}));
  gate.motion = Motion{Motion::Kind::slide, Vec3::unit_x(), Vec3(1, 2, 3), 0.1f, 0.2f, 3, 0.4f, 0.25f, 0.125f};
  gate.tags = {"wood", "moving"};
  const NodeHandle above = scene.add_node(gate);
  Node leaf;
  leaf.name = "leaf";
  leaf.parent = above;
  leaf.mesh = crate;
  leaf.material = stone;
  leaf.placement = Transform::scale(Vec3(-1, 2, 3));
  const NodeHandle hung = scene.add_node(leaf);
  Node wheel;
  wheel.mesh = ball;
  wheel.material = paint;
  auto keys = std::make_shared<KeyedPlacement>();
  keys->scale = {1, 2, 1};
  keys->rotation_track = {Interpolation::linear, {0, 1, 2.5f}, {Quat::identity(), Quat(0, 1, 0, 0), Quat(0, 0, 1, 0)}};
  keys->translation_track = {
      Interpolation::cubic, {0, 2}, {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 1, 0}, {2, 0, 0}, {0, 0, 0}}};
  keys->repeat_seconds = 2.5f;
  wheel.keys = keys;
  scene.add_node(wheel);
  Node again = leaf;
  again.name = "the same mesh in another material";
  again.material = sign;
  scene.add_node(again);
  Node line;
  line.mesh = rope;
  line.material = sign;
  scene.add_node(line);

  scene.add_light(Light{.name = "sun",
                        .kind = DirectionalLight{.illuminance = 90000, .direction = {1, -2, 3}},
                        .color = {1, 0.9f, 0.8f},
                        .tags = {"day"}});
  scene.add_light(Light{.name = "lamp",
                        .kind = SpotLight{.intensity = 40,
                                          .position = {0, 3, 0},
                                          .direction = {0, -1, 0.5f},
                                          .range = 12,
                                          .inner_cone = 0.2f,
                                          .outer_cone = 0.6f},
                        .node = hung});
  scene.add_light(AmbientLight{"sky", {1, 2, 3}, {3, 2, 1}});
  scene.add_fog({.name = "haze", .color = {5, 6, 7}, .density = 0.03f, .half_height = 9, .base = -1});
  Variant night{"night", {std::vector<std::string>{"moving"}, {"day"}}, {{stone, paint}}, {{hung, sign}}};
  scene.add_variant(night);
  scene.add_variant({"empty", {std::vector<std::string>(), {}}, {}, {}});
  const auto light = std::make_shared<Image>(8, 4, Format::rgba32f);
  for (int i = 0; i < 32; ++i) light->set(i % 8, i / 8, {0.1 * i, 1e4, 1.0 / (i + 1), 1});
  scene.add_environment({.name = "dusk", .images = {light}, .rotation = 0.7f, .intensity = 3});
  scene.add_texture({.name = "floats", .image = light, .holds = TextureHolds::data});
  Camera camera;
  camera.eye = {1, 2, 3};
  camera.far = 50;
  scene.add_view({"far side", camera});
  camera.parallel_height = 4;
  camera.depth = DepthOrder::ordinary;
  camera.keep = Keep::both;
  camera.keep_aspect = 2.5f;
  scene.add_view({"plan", camera});
  camera.lens = Projection::orthographic({-2, 5, -1, 3, 0.5f, 40, DepthOrder::ordinary});
  scene.add_view({"shifted plan", camera});
  camera = {};
  const Projection off_axis = Projection::perspective(OffCenterPerspective{-0.1f, 0.3f, -0.2f, 0.05f, 0.1f, 10});
  camera.lens = Projection::of_matrix(off_axis.matrix(), ClipDepth::from_zero);
  scene.add_view({"tile", camera});
  return scene;
}

const Mesh& only_mesh(const Import& import) {
  REQUIRE(import.scene.meshes().size() == 1);
  return import.scene.meshes()[0];
}

}  // namespace

TEST_CASE("a scene that is written as .glb is read back equal, and written again byte by byte the same") {
  const Scene scene = full_scene();
  const std::string file = encode_glb(scene);
  const Import import = read_gltf(file, "full.glb", {});
  REQUIRE(import.notes.empty());
  REQUIRE(import.scene.mesh_names() == scene.mesh_names());
  REQUIRE(import.scene.materials() == scene.materials());
  REQUIRE(import.scene.textures() == scene.textures());
  REQUIRE(import.scene.nodes() == scene.nodes());
  REQUIRE(import.scene.lights() == scene.lights());
  REQUIRE(import.scene.views() == scene.views());
  REQUIRE(import.scene == scene);
  REQUIRE(encode_glb(import.scene) == file);
  const Scratch scratch("gltf");
  write_glb(scene, scratch / "full.glb");
  REQUIRE(read_gltf(scratch / "full.glb").scene == scene);
}

TEST_CASE("what a glTF file has no place for is written and read back equal") {
  Scene scene;
  const auto grey = std::make_shared<Image>(2, 2, Format::rgba8_srgb);
  const TextureHandle bumps = scene.add_texture({.name = "bumps", .image = grey, .holds = TextureHolds::data});
  // Numbers whose maps or modes the material does not have, and light over the range of factors.
  const MaterialHandle plain = scene.add_material({.name = "plain",
                                                   .emission = {3e38f, 1e-44f, 0},
                                                   .alpha_cutoff = 0.25f,
                                                   .normal_scale = 2,
                                                   .occlusion_strength = 0.5f});
  scene.add_material({.name = "lamp", .emission = {0.3f, 8.0000005f, 1e-44f}});
  const MaterialHandle bumpy = scene.add_material({.name = "bumpy", .normal_map = {.texture = bumps}});
  // Meshes of the same vertices.
  Mesh line;
  line.primitive = Primitive::lines;
  line.positions = std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}};
  line.indices = std::vector<std::uint32_t>{0, 1};
  const MeshHandle first = scene.add_mesh("first", line), second = scene.add_mesh("second", line);
  Mesh points = line;
  points.primitive = Primitive::points;
  scene.add_mesh("points", points);
  for (const auto& [mesh, material] : {std::pair(second, plain), {first, bumpy}, {first, plain}}) {
    Node node;
    node.mesh = mesh;
    node.material = material;
    scene.add_node(node);
  }
  const Import import = read_gltf(encode_glb(scene), "own.glb", {});
  REQUIRE(import.notes.empty());
  REQUIRE(import.scene.materials() == scene.materials());
  REQUIRE(import.scene.mesh_names() == scene.mesh_names());
  REQUIRE(import.scene.textures() == scene.textures());
  REQUIRE(import.scene.nodes() == scene.nodes());
  REQUIRE(import.scene == scene);
}

TEST_CASE("vertices lie where the file has them, without a copy") {
  const Import import = read_gltf(encode_glb(full_scene()), "full.glb", {});
  const Mesh& mesh = import.scene.meshes()[0];
  // Streams of one file lie within it, one after the other.
  const auto* first = mesh.positions.bytes().data();
  for (const auto bytes : {mesh.normals.bytes(), mesh.tangents.bytes(), mesh.uv.bytes(), mesh.indices.bytes()}) {
    REQUIRE(bytes.data() > first);
    REQUIRE(bytes.data() < first + (1 << 16));
  }
}

TEST_CASE("all primitive modes make the triangles, lines and points that the standard says") {
  struct Case {
    int mode;
    Primitive primitive;
    std::vector<std::uint32_t> indices;
  };
  for (const Case& c :
       {Case{0, Primitive::points, {0, 1, 2, 3, 4}}, Case{2, Primitive::lines, {0, 1, 1, 2, 2, 3, 3, 4, 4, 0}},
        Case{3, Primitive::lines, {0, 1, 1, 2, 2, 3, 3, 4}}, Case{5, Primitive::triangles, {0, 1, 2, 1, 3, 2, 2, 3, 4}},
        Case{6, Primitive::triangles, {1, 2, 0, 2, 3, 0, 3, 4, 0}}}) {
    Model model;
    const auto positions = model.floats("VEC3", {0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0, 0, 2, 0});
    const auto normals = model.floats("VEC3", {0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1});
    model.show({{"attributes", {{"POSITION", positions}, {"NORMAL", normals}}}, {"mode", c.mode}});
    const Import import = model.read();
    INFO("mode " << c.mode);
    REQUIRE(only_mesh(import).primitive == c.primitive);
    REQUIRE(only_mesh(import).indices.copy() == c.indices);
  }
}

TEST_CASE("indices of 8, 16 and 32 bits, strides, sparse and normalised values are read as they are meant") {
  for (const int type : {5121, 5123, 5125}) {
    Model model;
    const auto positions = model.floats("VEC3", {0, 0, 0, 1, 0, 0, 0, 1, 0});
    const auto indices = model.whole("SCALAR", type, {2, 0, 1});
    model.show({{"attributes", {{"POSITION", positions}}}, {"indices", indices}});
    const Import import = model.read();
    // Without normals each face gets its own, and its own corners, in the order of the indices.
    REQUIRE(only_mesh(import).positions[0] == Vec3(0, 1, 0));
    REQUIRE(only_mesh(import).normals[0] == Vec3(0, 0, 1));
  }
  SECTION("interleaved") {
    Model model;
    const std::size_t view = model.view(Model::bytes_of<float>({0, 0, 0, 0, 0, 1, 1, 0, 0, 0, 0, 1, 0, 1, 0, 0, 0, 1}));
    model.json["bufferViews"][view]["byteStride"] = 24;
    const auto positions =
        model.add("accessors", {{"bufferView", view}, {"componentType", 5126}, {"count", 3}, {"type", "VEC3"}});
    const auto normals =
        model.add("accessors",
                  {{"bufferView", view}, {"byteOffset", 12}, {"componentType", 5126}, {"count", 3}, {"type", "VEC3"}});
    model.show({{"attributes", {{"POSITION", positions}, {"NORMAL", normals}}}});
    const Import import = model.read();
    REQUIRE(only_mesh(import).positions.copy() == std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}});
    REQUIRE(only_mesh(import).normals[2] == Vec3(0, 0, 1));
  }
  SECTION("sparse, over nothing and over values") {
    for (const bool over_values : {false, true}) {
      Model model;
      const auto positions = over_values
                                 ? model.floats("VEC3", {9, 9, 9, 1, 0, 0, 0, 1, 0})
                                 : model.add("accessors", {{"componentType", 5126}, {"count", 3}, {"type", "VEC3"}});
      const std::size_t at = model.view(Model::bytes_of<std::uint16_t>({0, 2})),
                        values = model.view(Model::bytes_of<float>({5, 6, 7, 8, 9, 10}));
      model.json["accessors"][positions]["sparse"] = {{"count", 2},
                                                      {"indices", {{"bufferView", at}, {"componentType", 5123}}},
                                                      {"values", {{"bufferView", values}}}};
      model.show({{"attributes", {{"POSITION", positions}}}, {"mode", 0}});
      const Import import = model.read();
      REQUIRE(only_mesh(import).positions.copy() ==
              std::vector<Vec3>{{5, 6, 7}, over_values ? Vec3(1, 0, 0) : Vec3(0, 0, 0), {8, 9, 10}});
    }
  }
  SECTION("normalised whole numbers, and quantised positions") {
    Model model;
    const auto positions = model.whole("VEC3", 5122, {0, 0, 0, 300, 0, 0, 0, -200, 0});
    const auto colors = model.whole("VEC3", 5121, {255, 0, 51, 0, 255, 0, 0, 0, 255});
    const auto uv = model.whole("VEC2", 5123, {0, 0, 65535, 0, 0, 13107});
    model.json["accessors"][colors]["normalized"] = true;
    model.json["accessors"][uv]["normalized"] = true;
    model.json["extensionsRequired"] = {"KHR_mesh_quantization"};
    model.show({{"attributes", {{"POSITION", positions}, {"COLOR_0", colors}, {"TEXCOORD_0", uv}}}, {"mode", 0}});
    const Import import = model.read();
    const Mesh& mesh = only_mesh(import);
    REQUIRE(mesh.positions[1] == Vec3(300, 0, 0));
    REQUIRE(mesh.colors[0].is_near(Vec4(1, 0, 0.2f, 1)));
    REQUIRE(mesh.uv[2].is_near(Vec2(0, 0.2f)));
  }
}

TEST_CASE("a normal map without tangents gets them, also along the second texture coordinates") {
  for (const int set : {0, 1}) {
    Model model;
    const auto positions = model.floats("VEC3", {0, 0, 0, 1, 0, 0, 0, 1, 0});
    const auto normals = model.floats("VEC3", {0, 0, 1, 0, 0, 1, 0, 0, 1});
    // Set 0 runs along x, set 1 along y; v is down in the image.
    const auto along_x = model.floats("VEC2", {0, 1, 1, 1, 0, 0}), along_y = model.floats("VEC2", {0, 0, 0, 1, 1, 0});
    model.add_texture(4);
    model.json["materials"] = {{{"normalTexture", {{"index", 0}, {"texCoord", set}}}}};
    model.show({{"attributes",
                 {{"POSITION", positions}, {"NORMAL", normals}, {"TEXCOORD_0", along_x}, {"TEXCOORD_1", along_y}}},
                {"material", 0}});
    const Import import = model.read();
    const Vec4 tangent = only_mesh(import).tangents[0];
    REQUIRE(tangent.is_near(set == 0 ? Vec4(1, 0, 0, 1) : Vec4(0, 1, 0, 1)));
  }
}

TEST_CASE("nodes, instances, animation, lights, cameras and variants end up where they should") {
  Model model;
  const auto positions = model.floats("VEC3", {0, 0, 0, 1, 0, 0, 0, 1, 0});
  model.json["materials"] = {{{"name", "day"}}, {{"name", "night"}}};
  const std::size_t mesh = model.add(
      "meshes",
      {{"primitives",
        {{{"attributes", {{"POSITION", positions}}},
          {"material", 0},
          {"extensions", {{"KHR_materials_variants", {{"mappings", {{{"material", 1}, {"variants", {0}}}}}}}}}}}}});
  model.json["extensions"]["KHR_materials_variants"]["variants"] = {{{"name", "late"}}};
  model.json["extensions"]["KHR_lights_punctual"]["lights"] = {{{"type", "point"}, {"intensity", 5}}};
  const auto offsets = model.floats("VEC3", {0, 0, 0, 10, 0, 0, 20, 0, 0});
  const auto times = model.floats("SCALAR", {1, 3});
  const auto places = model.floats("VEC3", {0, 0, 0, 0, 8, 0});
  model.json["nodes"] = {{{"name", "root"}, {"translation", {0, 1, 0}}, {"children", {1, 2, 3}}},
                         {{"name", "moving"}, {"mesh", mesh}, {"scale", {2, 2, 2}}},
                         {{"name", "row"},
                          {"mesh", mesh},
                          {"extensions", {{"EXT_mesh_gpu_instancing", {{"attributes", {{"TRANSLATION", offsets}}}}}}}},
                         {{"name", "eye"},
                          {"camera", 0},
                          {"rotation", {0, 1, 0, 0}},
                          {"extensions", {{"KHR_lights_punctual", {{"light", 0}}}}}}};
  model.json["scenes"] = {{{"nodes", {0}}}};
  model.json["cameras"] = {{{"type", "perspective"}, {"perspective", {{"yfov", 0.5}, {"znear", 0.25}}}}};
  model.json["animations"] = {{{"channels", {{{"sampler", 0}, {"target", {{"node", 1}, {"path", "translation"}}}}}},
                               {"samplers", {{{"input", times}, {"output", places}, {"interpolation", "LINEAR"}}}}}};
  const Import import = model.read();
  const Scene& scene = import.scene;
  std::vector<Transform> worlds(scene.nodes().size(), Transform::identity());
  const NodeHandle moving = scene.find_node("moving");
  for (const auto& [time, height] : std::map<double, float>{{0, 1}, {1, 1}, {2, 5}, {3, 9}, {60, 9}}) {
    scene.world_transforms(time, worlds);
    REQUIRE(worlds[moving.index].apply_to_point({1, 0, 0}).is_near(Vec3(2, height, 0)));
  }
  std::vector<float> along;
  for (std::size_t i = 0; i < worlds.size(); ++i) {
    if (scene.nodes()[i].mesh.valid() && i != moving.index) along.push_back(worlds[i].apply_to_point(Vec3::zero()).x());
  }
  REQUIRE(along == std::vector<float>{0, 10, 20});
  const View& view = scene.views().at(0);
  REQUIRE(view.camera.eye.is_near(Vec3(0, 1, 0)));
  REQUIRE((view.camera.target - view.camera.eye).is_near(Vec3(0, 0, 1), 1e-5f));
  REQUIRE(view.camera.fov_y == 0.5f);
  const Light& light = scene.lights().at(0);
  REQUIRE(light.node == scene.find_node("eye"));
  REQUIRE(light.strength() == 5);
  const auto late = scene.materials_of_nodes(scene.find_variant("late"));
  REQUIRE(late[moving.index] == scene.find_material("night"));
  REQUIRE(scene.nodes()[moving.index].material == scene.find_material("day"));
}

TEST_CASE("files cut short or spoilt at any byte are read or refused, never more") {
  const std::string whole = encode_glb(full_scene());
  for (std::size_t size = 0; size < whole.size(); size += 1 + size / 40)
    REQUIRE_FALSE(thrown_slug([&] { read_gltf(whole.substr(0, size), "cut.glb", {}); }).empty());
  std::uint32_t state = 7;
  for (int i = 0; i < 1500; ++i) {
    std::string spoilt = whole;
    for (int k = 0; k <= i % 3; ++k) {
      state = state * 1664525u + 1013904223u;
      spoilt[(state >> 8) % (i % 2 ? 6000 : spoilt.size())] = static_cast<char>(state >> 24);
    }
    thrown_slug([&] { read_gltf(spoilt, "spoilt.glb", {}); });
  }
}
