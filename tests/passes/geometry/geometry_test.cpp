#include "passes/rendering.h"

#include <periscena/model/gltf.h>

using namespace periscena;

namespace {

constexpr int size = 32;

/// What a parallel camera sees from +Z: x and y from -1 to 1.
struct Flat {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();

  Flat() {
    Camera camera;
    camera.eye = {0, 0, 10};
    camera.far = 100;
    camera.parallel_height = 2;
    scene->add_view({"front", camera});
  }

  NodeHandle show(const std::string& name, Mesh mesh, Material material, float depth = 0) {
    Node node;
    node.name = material.name = name;
    node.mesh = scene->add_mesh(name, std::move(mesh));
    node.material = scene->add_material(std::move(material));
    node.placement = Transform::translate({0, 0, depth});
    return scene->add_node(node);
  }

  Image render(gl::Device& device, double seconds = 0, const passes::Forward& options = {}) const {
    return render_front(device, scene, size, options, seconds);
  }
};

Material white() {
  return {.shading = Material::Shading::unlit, .base_color = Vec3::ones()};
}

/// Facing +Z, from x0 to x1, and y from -1 to 1; corners: lower left, lower right, upper left, upper right.
Mesh strip(float x0, float x1) {
  Mesh mesh;
  mesh.positions = std::vector<Vec3>{{x0, -1, 0}, {x1, -1, 0}, {x0, 1, 0}, {x1, 1, 0}};
  mesh.normals = std::vector<Vec3>(4, Vec3::unit_z());
  mesh.indices = std::vector<std::uint32_t>{0, 1, 2, 2, 1, 3};
  return mesh;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "colours and second texture coordinates of some meshes do not meddle with the others") {
  Flat flat;
  const Mesh plain = strip(-1, -0.5f);
  Mesh colored = strip(-0.5f, 0), mapped = strip(0, 0.5f), both = strip(0.5f, 1);
  const Vec4 red(1, 0, 0, 1), blue(0, 0, 1, 1);
  colored.colors = std::vector<Vec4>{red, red, blue, blue};
  both.colors = std::vector<Vec4>(4, Vec4(1, 1, 0, 1));
  // The first set points at the black texel, the second at the green one.
  for (Mesh* mesh : {&mapped, &both}) {
    mesh->uv = std::vector<Vec2>(4, Vec2(0.25f, 0.5f));
    mesh->second_uv = std::vector<Vec2>(4, Vec2(0.75f, 0.5f));
  }
  Image image(2, 1, Format::rgba8_srgb);
  image.set(0, 0, {0, 0, 0, 255});
  image.set(1, 0, {0, 255, 0, 255});
  const TextureHandle texture = flat.scene->add_texture(
      {.name = "t", .image = std::make_shared<const Image>(image), .sampling = {.filter = Filter::nearest}});
  Material by_second = white();
  by_second.base_color_map = {.texture = texture, .uv_set = 1};
  flat.show("plain", plain, white());
  flat.show("colored", colored, white());
  flat.show("mapped", mapped, by_second);
  flat.show("both", both, by_second);
  const Image picture = flat.render(device);
  for (int y = 0; y < size; ++y) {
    REQUIRE(rgb(picture, 4, y) == Vec3(1, 1, 1));
    const float up = 1 - (static_cast<float>(y) + 0.5f) / size;
    REQUIRE(rgb(picture, 12, y).is_near(Vec3(1 - up, 0, up), 1e-4f));
    REQUIRE(rgb(picture, 20, y) == Vec3(0, 1, 0));
    REQUIRE(rgb(picture, 28, y) == Vec3(0, 1, 0));
  }
}

TEST_CASE_METHOD(TestDevice, "lines and points are drawn among triangles, hidden by what is nearer, lit or not") {
  Flat flat;
  Mesh line, points;
  line.primitive = Primitive::lines;
  line.positions = std::vector<Vec3>{{-1, 0.03125f, 0}, {1, 0.03125f, 0}};
  line.indices = std::vector<std::uint32_t>{0, 1};
  points.primitive = Primitive::points;
  points.positions = std::vector<Vec3>{{-0.53125f, -0.53125f, 0}, {0.53125f, -0.53125f, 0}};
  points.colors = std::vector<Vec4>{{1, 0, 0, 1}, {0, 1, 0, 1}};
  points.indices = std::vector<std::uint32_t>{0, 1};
  flat.show("line", line, white());
  flat.show("points", points, white());
  Material blue = white();
  blue.base_color = {0, 0, 1};
  flat.show("before it", strip(0.5f, 1), blue, 1);
  const Image picture = flat.render(device);
  for (int x = 0; x < size; ++x) {
    for (int y = 0; y < size; ++y) {
      CAPTURE(x, y);
      const Vec3 expected = x >= 24             ? Vec3(0, 0, 1)
                            : y == 15           ? Vec3(1, 1, 1)
                            : x == 7 && y == 24 ? Vec3(1, 0, 0)
                                                : Vec3(0, 0, 0);
      REQUIRE(rgb(picture, x, y) == expected);
    }
  }
}

TEST_CASE_METHOD(TestDevice,
                 "a light follows the object that it hangs on, at any time, and shines as far as its range") {
  Flat flat;
  flat.show("wall", strip(-1, 1),
            {.shading = Material::Shading::blinn_phong, .base_color = Vec3::ones(), .specular = Vec3::zero()});
  Node arm;
  arm.name = "arm";
  arm.motion = Motion{.kind = Motion::Kind::slide, .axis = Vec3::unit_x(), .from = -0.75f, .to = 0.75f, .period = 10};
  const NodeHandle hung = flat.scene->add_node(arm);
  flat.scene->add_light(
      Light{.name = "lamp", .kind = PointLight{.intensity = pi, .position = {0, 0, 0.5f}, .range = 1}, .node = hung});
  for (const double seconds : {0.0, 2.5, 5.0, 60.0 + 7.5}) {
    const Image picture = flat.render(device, seconds);
    const float x = arm.motion->at(seconds).apply_to_point({0, 0, 0}).x();
    for (int px = 0; px < size; ++px) {
      const Vec3 place((static_cast<float>(px) + 0.5f) * 2 / size - 1, 1.0f / size, 0);
      const Vec3 way = Vec3(x, 0, 0.5f) - place;
      const float expected = light_falloff(way.norm(), 1) * way.z() / way.norm();
      CAPTURE(seconds, px);
      REQUIRE(rgb(picture, px, size / 2 - 1).x() == Approx(expected).margin(1e-3));
    }
  }
}

TEST_CASE_METHOD(TestDevice, "a scene that went through a .glb is drawn with the same bytes") {
  Flat flat;
  Material lit{.base_color = {0.7f, 0.3f, 0.2f}, .metallic = 0.4f, .roughness = 0.3f};
  Image bumps(8, 8, Format::rgba8);
  for (int i = 0; i < 64; ++i) bumps.set(i % 8, i / 8, {128.0 + i, 128.0 - i / 2, 255, 255});
  lit.normal_map.texture = flat.scene->add_texture({.name = "bumps",
                                                    .image = std::make_shared<const Image>(bumps),
                                                    .holds = TextureHolds::data,
                                                    .metres_per_tile = Vec2(0.5f, 0.5f)});
  flat.show("ball", shapes::sphere(0.8f), lit);
  Material glass{.base_color = {0, 0.5f, 1}, .alpha = 0.4f, .alpha_mode = Material::AlphaMode::blend};
  const NodeHandle pane = flat.show("pane", strip(-0.2f, 0.6f), glass, 2);
  flat.scene->add_variant({"clear", {}, {}, {{pane, flat.scene->find_material("ball")}}});
  flat.scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 4, .direction = {1, -1, -1}}});
  flat.scene->add_light(AmbientLight{"sky", Vec3::constant(0.4f), Vec3::constant(0.1f)});
  Image sky(4, 2, Format::rgba32f);
  for (int i = 0; i < 8; ++i) sky.set(i % 4, i / 4, {0.1 * i, 0.5, 1.0 / (i + 1), 1});
  flat.scene->add_environment({.name = "sky around", .images = {std::make_shared<const Image>(sky)}, .rotation = 1});
  const auto again = std::make_shared<const Scene>(read_gltf(encode_glb(*flat.scene), "a.glb", {}).scene);
  for (const char* variant : {"", "clear"}) {
    passes::Forward options;
    options.environment = "sky around";
    options.variant = variant;
    const Image before = flat.render(device, 0, options);
    REQUIRE(render_front(device, again, size, options) == before);
    REQUIRE(rgb(before, 16, 16).sum() > 0.1f);
  }
}
