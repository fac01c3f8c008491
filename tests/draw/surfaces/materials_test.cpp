#include "passes/rendering.h"
#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/image/color.h>

#include <epoxy/gl.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int size = 32;

/// A square of 2 x 2 m that fills the picture, its image upright, in even ambient light of 1 nit.
struct Wall {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  MeshHandle square = scene->add_mesh("square", shapes::plane(2, 2));

  Wall() {
    Camera camera;
    camera.eye = {0, 0, 10};
    camera.far = 100;
    camera.parallel_height = 2;
    scene->add_view({"front", camera});
  }

  TextureHandle texture(const Image& image, TextureHolds holds, Sampling sampling = {.filter = Filter::nearest},
                        std::optional<Vec2> tile = Vec2(2, 2)) {
    return scene->add_texture({.name = "texture " + std::to_string(scene->textures().size()),
                               .image = std::make_shared<const Image>(image),
                               .holds = holds,
                               .sampling = sampling,
                               .metres_per_tile = tile});
  }

  NodeHandle show(Material material, float depth = 0, std::vector<std::string> tags = {}) {
    material.name = "material " + std::to_string(scene->materials().size());
    Node node;
    node.name = "node " + std::to_string(scene->nodes().size());
    node.mesh = square;
    node.material = scene->add_material(std::move(material));
    node.placement = Transform::rotate(Vec3::unit_x(), radians(90)).then(translate({0, 0, depth}));
    node.tags = std::move(tags);
    return scene->add_node(node);
  }

  Image render(gl::Device& device, const passes::Forward& options = {}) const {
    return render_front(device, scene, size, options);
  }
};

Material unlit(TextureHandle map = {}) {
  Material material{.shading = Material::Shading::unlit, .base_color = Vec3::ones()};
  material.base_color_map.texture = map;
  return material;
}

/// Shows a texture's green and blue as the numbers that materials get: roughness and metallic, by GLSL of its own.
Material shown_data(TextureHandle map, const Scratch& folder) {
  Material material = unlit();
  material.metallic = material.roughness = 1;
  material.metallic_roughness_map.texture = map;
  material.surface = (folder / "show.glsl").string();
  write_file(material.surface,
             "void surface(SurfacePoint point, inout Surface surface) {\n"
             "  surface.base_color = vec3(0.0, surface.roughness, surface.metallic);\n}\n");
  return material;
}

/// Four quarters: red and green above, blue and grey below.
Image quarters() {
  Image image(2, 2, Format::rgba8_srgb);
  image.set(0, 0, {255, 0, 0, 255});
  image.set(1, 0, {0, 255, 0, 255});
  image.set(0, 1, {0, 0, 255, 255});
  image.set(1, 1, {128, 128, 128, 255});
  return image;
}

}  // namespace

TEST_CASE_METHOD(TestDevice, "a texture stands upright, colour is decoded from sRGB, data is taken as it is") {
  const Scratch scratch("data");
  for (const TextureHolds holds : {TextureHolds::color, TextureHolds::data}) {
    const bool color = holds == TextureHolds::color;
    Wall wall;
    const TextureHandle map = wall.texture(quarters(), holds, {.filter = Filter::nearest}, Vec2(2, 2));
    wall.show(color ? unlit(map) : shown_data(map, scratch));
    // Coordinates count from the wall's middle, so the picture shows the image shifted by half: wrap around.
    const Image picture = wall.render(device);
    REQUIRE(rgb(picture, 24, 24) == Vec3(color ? 1 : 0, 0, 0));
    REQUIRE(rgb(picture, 8, 24) == Vec3(0, 1, 0));
    REQUIRE(rgb(picture, 24, 8) == Vec3(0, 0, 1));
    const double gray = color ? srgb_to_linear(128 / 255.0) : 128 / 255.0;
    REQUIRE(rgb(picture, 8, 8).y() == Approx(gray).margin(2e-3));
  }
}

TEST_CASE_METHOD(TestDevice, "all 256 values of sRGB come through a texture and an sRGB target unchanged") {
  Image ramp(16, 16, Format::rgba8_srgb);
  for (int i = 0; i < 256; ++i) ramp.set(i % 16, i / 16, {double(i), double(255 - i), double(i), 255});
  Wall wall;
  Material material = unlit(wall.texture(ramp, TextureHolds::color, {.filter = Filter::nearest}, Vec2(2, 2)));
  material.base_color_map.offset = {0.5f, 0.5f};
  wall.show(material);
  FrameGraph frame;
  frame.add(passes::forward({.scene = wall.scene, .view = "front", .color = frame.output()}));
  gl::FrameRunner runner(device, frame.plan(16, 16, device.limits()).value());
  runner.run(0);
  const Image output = runner.read("output");
  for (int i = 0; i < 256; ++i)
    REQUIRE(output.at(i % 16, i / 16) == std::array<double, 4>{double(i), double(255 - i), double(i), 255});
}

TEST_CASE_METHOD(TestDevice, "mip levels of colour are averaged in linear light, those of data as numbers") {
  Image checks(64, 64, Format::rgba8_srgb);
  for (int y = 0; y < 64; ++y) {
    for (int x = 0; x < 64; ++x) checks.set(x, y, {0, (x + y) % 2 ? 255.0 : 0.0, 0, 255});
  }
  const Scratch scratch("data");
  for (const TextureHolds holds : {TextureHolds::color, TextureHolds::data}) {
    Wall wall;
    // 16 tiles across 32 pixels: each pixel covers 32 x 32 texels.
    const TextureHandle map = wall.texture(checks, holds, {.filter = Filter::linear_levels}, Vec2(0.125f, 0.125f));
    wall.show(holds == TextureHolds::color ? unlit(map) : shown_data(map, scratch));
    // Half of the light, not half of the byte (which would be 0.21); 8 bits hold it to within a step.
    REQUIRE(rgb(wall.render(device), 11, 17).y() == Approx(0.5).margin(0.008));
  }
}

TEST_CASE_METHOD(TestDevice, "tiles repeat by real size, and a map's offset, rotation and scale are glTF's") {
  Wall wall;
  const TextureHandle texture = wall.texture(quarters(), TextureHolds::color, {.filter = Filter::nearest}, Vec2(1, 1));
  Material material = unlit(texture);
  wall.show(material);
  // 1 m tiles on 2 m: the same pixel 16 pixels on.
  const Image picture = wall.render(device);
  for (int y = 0; y < 16; ++y) {
    for (int x = 0; x < 16; ++x) REQUIRE(rgb(picture, x, y) == rgb(picture, x + 16, y + 16));
  }
  REQUIRE(rgb(picture, 20, 20) == Vec3(1, 0, 0));
  // A quarter turn of the coordinates, counter-clockwise: u' = v, v' = -u.
  Wall turned;
  material = unlit(turned.texture(quarters(), TextureHolds::color, {.filter = Filter::nearest}, Vec2(2, 2)));
  material.base_color_map.rotation = radians(90);
  material.base_color_map.offset = {0.5f, 0.5f};
  turned.show(material);
  const Image quarter = turned.render(device);
  // At the upper left u, v < 0, so u' < 0.5 and v' > 0.5: the image's lower left.
  REQUIRE(rgb(quarter, 8, 8) == Vec3(0, 0, 1));
  REQUIRE(rgb(quarter, 24, 8) == Vec3(1, 0, 0));
}

TEST_CASE_METHOD(TestDevice, "a normal map bends towards its red to the right and its green up, mirrored objects too") {
  for (const bool mirrored : {false, true}) {
    Wall wall;
    Image bent(1, 1, Format::rgba8);
    bent.set(0, 0, {128 + 90, 128, 128 + 90, 255});  // 45° to the right in the image
    Material material{.shading = Material::Shading::blinn_phong, .base_color = Vec3::ones(), .specular = Vec3::zero()};
    material.normal_map.texture = wall.texture(bent, TextureHolds::data);
    material.double_sided = true;
    const NodeHandle node = wall.show(material);
    if (mirrored) {
      Node twin = wall.scene->nodes()[node.index];
      twin.name = "twin";
      twin.placement = Transform::scale(Vec3(-1, 1, 1)).then(twin.placement).then(translate({0, 0, 1}));
      wall.scene->add_node(twin);
    }
    // Light from the right; what faces it turns its image's right side, which a mirrored object has on the left.
    wall.scene->add_light(Light{.name = "right", .kind = DirectionalLight{.illuminance = pi, .direction = {-1, 0, 0}}});
    const float lit = rgb(wall.render(device), 16, 16).x();
    if (mirrored) {
      REQUIRE(lit == 0);
    } else {
      REQUIRE(lit == Approx(std::sqrt(0.5)).margin(0.01));
    }
  }
}

TEST_CASE_METHOD(TestDevice,
                 "blended objects are drawn from back to front, whatever their order, masked ones cut out") {
  for (const bool swapped : {false, true}) {
    Wall wall;
    Material red = unlit(), green = unlit();
    red.base_color = {1, 0, 0};
    green.base_color = {0, 1, 0};
    red.alpha = green.alpha = 0.5f;
    red.alpha_mode = green.alpha_mode = Material::AlphaMode::blend;
    if (swapped) wall.show(green, 1);
    wall.show(red, 0);
    if (!swapped) wall.show(green, 1);
    // Green is nearer: half of it over half of red.
    REQUIRE(wall.render(device).at(9, 9) == std::array<double, 4>{0.25, 0.5, 0, 0.75});
  }
  Wall cut;
  Image holes(2, 1, Format::rgba8_srgb);
  holes.set(0, 0, {255, 255, 255, 255});
  holes.set(1, 0, {255, 255, 255, 20});
  Material mask = unlit(cut.texture(holes, TextureHolds::color));
  mask.alpha_mode = Material::AlphaMode::mask;
  mask.base_color_map.offset = {0.5f, 0};
  cut.show(mask);
  const Image picture = cut.render(device);
  REQUIRE(picture.at(5, 9) == std::array<double, 4>{1, 1, 1, 1});
  REQUIRE(picture.at(25, 9) == std::array<double, 4>{0, 0, 0, 0});
}

TEST_CASE_METHOD(TestDevice,
                 "passes choose by tags, also of what stands above, and variants dress the same scene anew") {
  Wall wall;
  Material red = unlit(), blue = unlit();
  red.base_color = {1, 0, 0};
  blue.base_color = {0, 0, 1};
  const NodeHandle boat = wall.show(red, 0, {"boat"});
  const NodeHandle water = wall.show(blue, -1, {"water"});
  Scene& scene = *wall.scene;
  Node cabin = scene.nodes()[water.index];
  cabin.name = "cabin";
  cabin.parent = boat;
  cabin.placement = Transform::scale(Vec3::constant(0.5f)).then(translate({0, 0.5f, 0}));
  cabin.tags = {};
  scene.add_node(cabin);
  const MaterialHandle red_one = scene.nodes()[boat.index].material, blue_one = scene.nodes()[water.index].material;
  scene.add_variant({"night", {{}, {"water"}}, {{red_one, blue_one}}, {}});
  const auto middle = [&](passes::Forward options) { return rgb(wall.render(device, std::move(options)), 16, 16); };
  const auto edge = [&](passes::Forward options) { return rgb(wall.render(device, std::move(options)), 2, 2); };
  REQUIRE(middle({}) == Vec3(0, 0, 1));  // the cabin stands out
  REQUIRE(edge({}) == Vec3(1, 0, 0));
  REQUIRE(middle({.tags = {"boat"}}) == Vec3(0, 0, 1));  // it belongs to the boat
  REQUIRE(edge({.tags = {"water"}}) == Vec3(0, 0, 1));
  REQUIRE(edge({.without_tags = {"boat"}}) == Vec3(0, 0, 1));
  REQUIRE(edge({.variant = "night"}) == Vec3(0, 0, 1));  // another material
  REQUIRE(edge({.tags = {"water"}, .variant = "night"}).is_zero());
}

TEST_CASE_METHOD(TestDevice, "a surface of one's own GLSL changes the material at each point, and is compiled once") {
  const Scratch scratch("surface");
  write_file(scratch / "stripes.glsl",
             "void surface(SurfacePoint point, inout Surface surface) {\n"
             "  surface.base_color = point.position.x < 0.0 ? vec3(1, 0, 0) : vec3(0, 1, 0) * point.uv.x;\n}\n");
  Wall wall;
  Material striped = unlit();
  striped.surface = "stripes.glsl";
  for (int i = 0; i < 50; ++i) wall.show(striped, -0.01f * static_cast<float>(i));
  const Image picture = wall.render(device, {.folder = scratch.path()});
  REQUIRE(rgb(picture, 4, 9) == Vec3(1, 0, 0));
  REQUIRE(rgb(picture, 24, 9).is_near(Vec3(0, (24.5f - 16) / 16, 0), 1e-4f));
  // A mistake in it is told with its own file and line.
  write_file(scratch / "stripes.glsl",
             "void surface(SurfacePoint point, inout Surface surface) {\n  surface.colour = 1;\n}\n");
  REQUIRE_THAT(thrown_text([&] { wall.render(device, {.folder = scratch.path()}); }),
               Catch::Contains("stripes.glsl:2"));
}

namespace {

int linked = 0, textures_made = 0, buffers_made = 0;
PFNGLLINKPROGRAMPROC link_program = nullptr;
PFNGLCREATETEXTURESPROC create_textures = nullptr;
PFNGLCREATEBUFFERSPROC create_buffers = nullptr;

/// Counts what is made on the device while it lives.
struct MakingCounter {
  MakingCounter() {
    linked = textures_made = buffers_made = 0;
    link_program = epoxy_glLinkProgram;
    create_textures = epoxy_glCreateTextures;
    create_buffers = epoxy_glCreateBuffers;
    epoxy_glLinkProgram = [](GLuint program) {
      ++linked;
      link_program(program);
    };
    epoxy_glCreateTextures = [](GLenum target, GLsizei count, GLuint* names) {
      textures_made += count;
      create_textures(target, count, names);
    };
    epoxy_glCreateBuffers = [](GLsizei count, GLuint* names) {
      buffers_made += count;
      create_buffers(count, names);
    };
  }
  MakingCounter(const MakingCounter&) = delete;
  MakingCounter& operator=(const MakingCounter&) = delete;
  ~MakingCounter() {
    epoxy_glLinkProgram = link_program;
    epoxy_glCreateTextures = create_textures;
    epoxy_glCreateBuffers = create_buffers;
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "a thousand objects of one material make no more on the device than one does") {
  std::array<int, 3> made_for_one{};
  for (const int count : {0, 1, 1000}) {
    Wall wall;
    const TextureHandle map = wall.texture(quarters(), TextureHolds::color);
    wall.show(unlit(map));
    Node node = wall.scene->nodes()[0];
    for (int i = 1; i < count; ++i) {
      node.name = "object " + std::to_string(i);
      node.placement = node.placement.then(translate({0, 0, -0.01f}));
      wall.scene->add_node(node);
    }
    // The first round makes the driver's entry points known, and the program.
    if (count == 0) {
      wall.render(device);
      continue;
    }
    const MakingCounter counter;
    wall.render(device);
    const std::array<int, 3> made{linked, textures_made, buffers_made};
    if (count == 1) made_for_one = made;
    REQUIRE(made[0] == 0);  // the first round made the program
    REQUIRE(made[1] >= 1);
    REQUIRE(made == made_for_one);
  }
}
