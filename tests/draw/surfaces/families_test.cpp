#include "passes/rendering.h"

#include "draw/scene/surface_family.h"
#include "draw/shaders.h"
#include "draw/surfaces/surface_program.h"

#include <periscena/passes/geometry.h>
#include <periscena/passes/shaders.h>

#include <fmt/format.h>

#include <cmath>

using namespace periscena;

namespace {

constexpr int size = 96;

/// The greatest difference; of values over 1, as a share of them.
double worst(const Image& a, const Image& b) {
  double found = 0;
  for (int y = 0; y < a.height(); ++y) {
    for (int x = 0; x < a.width(); ++x) {
      for (std::size_t i = 0; i < 4; ++i) {
        const double value = a.at(x, y)[i];
        found = std::max(found, std::abs(value - b.at(x, y)[i]) / std::max(1.0, value));
      }
    }
  }
  return found;
}

/// Checks of `cells` x `cells`, dark and light by two values.
std::shared_ptr<const Image> checks(int cells, std::array<double, 4> dark, std::array<double, 4> light) {
  auto image = std::make_shared<Image>(64, 64, Format::rgba8);
  for (int i = 0; i < 64 * 64; ++i) {
    const int x = i % 64, y = i / 64;
    image->set(x, y, (x * cells / 64 + y * cells / 64) % 2 ? light : dark);
  }
  return image;
}

/// Balls in rows, each of another material: all maps, kinds of shading and ways of alpha, alone and together.
struct Balls {
  std::shared_ptr<Scene> scene = std::make_shared<Scene>();
  TextureHandle colors, data, normals;

  Balls() {
    const Sampling plain = {};
    colors = scene->add_texture(
        {.name = "colours", .image = checks(8, {255, 90, 40, 60}, {60, 160, 255, 255}), .sampling = plain});
    data = scene->add_texture({.name = "data",
                               .image = checks(6, {90, 120, 30, 255}, {250, 240, 200, 255}),
                               .holds = TextureHolds::data,
                               .sampling = plain});
    normals = scene->add_texture({.name = "normals",
                                  .image = checks(10, {150, 110, 240, 255}, {110, 140, 245, 255}),
                                  .holds = TextureHolds::data,
                                  .sampling = plain});
    Camera camera;
    camera.eye = {0, 0, 10};
    camera.far = 100;
    camera.parallel_height = 8;
    scene->add_view({"front", camera});
    scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {-0.4f, -0.6f, -1}}});
    scene->add_light(Light{.name = "lamp", .kind = PointLight{.intensity = 20, .position = {2, 3, 4}, .range = 9}});
    scene->add_light(Light{.name = "beam",
                           .kind = SpotLight{.intensity = 60, .position = {-3, -2, 5}, .direction = {0.4f, 0.3f, -1}}});
    scene->add_light(AmbientLight{.name = "room", .sky = {0.3f, 0.35f, 0.4f}, .ground = {0.2f, 0.15f, 0.1f}});
    const MeshHandle ball = scene->add_mesh("ball", shapes::sphere(0.9f, 24));
    Mesh painted = shapes::sphere(0.9f, 24);
    std::vector<Vec4> paint;
    std::vector<Vec2> second;
    for (std::size_t i = 0; i < painted.positions.size(); ++i) {
      paint.emplace_back(0.5f + 0.5f * painted.normals[i].x(), 0.8f, 0.5f - 0.5f * painted.normals[i].y(), 1.0f);
      second.emplace_back(3 * painted.uv[i].y(), 2 * painted.uv[i].x());
    }
    painted.colors = paint;
    painted.second_uv = second;
    const MeshHandle painted_ball = scene->add_mesh("painted ball", painted);
    std::vector<Material> materials(16);
    materials[1].metallic = 1;
    materials[1].roughness = 0.3f;
    materials[2].shading = Material::Shading::blinn_phong;
    materials[2].specular = {0.3f, 0.2f, 0.1f};
    materials[3].shading = Material::Shading::unlit;
    materials[4].base_color_map = {colors};
    materials[5].metallic_roughness_map = {data};
    materials[5].metallic = 0.9f;
    materials[6].roughness_scale_map = {data};
    materials[7].normal_map = {normals};
    materials[7].roughness = 0.4f;
    materials[8].occlusion_map = {data};
    materials[9].emission_map = {colors};
    materials[9].emission = {0.4f, 0.5f, 0.6f};
    materials[10].emission = {0.2f, 0.1f, 0.3f};
    materials[11].alpha_mode = Material::AlphaMode::mask;
    materials[11].base_color_map = {colors};
    materials[12].alpha_mode = Material::AlphaMode::blend;
    materials[12].alpha = 0.5f;
    materials[13].base_color_map = {colors, 1};
    materials[14].double_sided = true;
    materials[14].alpha_mode = Material::AlphaMode::mask;
    materials[14].base_color_map = {colors};
    materials[15].base_color_map = {colors, 0, {0.2f, 0.1f}, 0.5f, {2, 3}};
    materials[15].metallic_roughness_map = {data};
    materials[15].normal_map = {normals};
    materials[15].occlusion_map = {data};
    materials[15].emission_map = {colors};
    materials[15].roughness_scale_map = {data};
    materials[15].emission = {0.1f, 0.1f, 0.1f};
    for (std::size_t i = 0; i < materials.size(); ++i) {
      materials[i].name = fmt::format("material {}", i);
      Node node;
      node.name = fmt::format("ball {}", i);
      node.mesh = i % 4 == 1 ? painted_ball : ball;
      node.material = scene->add_material(materials[i]);
      node.placement = Transform::scale({i % 5 == 3 ? -1.0f : 1.0f, 1, 1})
                           .then(rotate(Vec3::unit_x(), radians(25)))
                           .then(translate({2 * static_cast<float>(i % 4) - 3, 2 * static_cast<float>(i / 4) - 3, 0}));
      scene->add_node(node);
    }
  }
};

}  // namespace

TEST_CASE_METHOD(TestDevice, "programs of families draw what the one for all draws, in any set of lights") {
  const Balls balls;
  for (const bool sun_alone : {false, true}) {
    for (const batch::Batching batching : {batch::Batching::unmerged, batch::Batching::merged}) {
      passes::Forward options;
      options.batching = batching;
      if (sun_alone) options.lights = {"sun"};
      options.programs = batch::Programs::general;
      const Image general = render_front(device, balls.scene, size, options);
      options.programs = batch::Programs::families;
      const Image families = render_front(device, balls.scene, size, options);
      CHECK(worst(general, families) < 2e-4);  // highlights round most
      double brightest = 0;
      for (int i = 0; i < size * size; ++i) brightest = std::max(brightest, families.at(i % size, i / size)[0]);
      CHECK(brightest > 0.5);
    }
  }
}

TEST_CASE_METHOD(TestDevice, "what a geometry buffer keeps is the same by families and by the program for all") {
  const Balls balls;
  const auto kept = [&](batch::Programs programs) {
    FrameGraph frame;
    passes::Geometry options{.scene = balls.scene, .view = "front"};
    options.programs = programs;
    std::vector<Image> images;
    const std::vector<std::pair<TargetUse passes::Geometry::*, Format>> parts{
        {&passes::Geometry::normal, Format::rgba16},
        {&passes::Geometry::base_color, Format::rgba32f},
        {&passes::Geometry::material, Format::rgba32f},
        {&passes::Geometry::emission, Format::rgba32f}};
    for (const auto& [part, format] : parts) {
      const TargetHandle target = frame.target(fmt::format("part {}", images.size()), {.format = format});
      frame.keep(target);
      options.*part = target;
      images.emplace_back();
    }
    options.depth = frame.target("depth", {.format = Format::depth32f});
    frame.add(passes::geometry(options));
    gl::FrameRunner runner(device, frame.plan(size, size, device.limits()).value());
    runner.run(0);
    for (std::size_t i = 0; i < images.size(); ++i) images[i] = runner.read(fmt::format("part {}", i));
    return images;
  };
  const std::vector<Image> general = kept(batch::Programs::general), families = kept(batch::Programs::families);
  for (std::size_t i = 0; i < general.size(); ++i) CHECK(worst(general[i], families[i]) < 1e-4);
}

TEST_CASE_METHOD(TestDevice, "mip levels are those of the surface, however small its triangles are") {
  const auto seen = [&](int segments) {
    auto scene = std::make_shared<Scene>();
    Camera camera;
    camera.eye = {0, 1.2f, 2.5f};
    scene->add_view({"front", camera});
    const TextureHandle checked = scene->add_texture(
        {.name = "checks", .image = checks(16, {20, 30, 40, 255}, {250, 240, 200, 255}), .sampling = {}});
    Node node;
    node.mesh = scene->add_mesh("ground", shapes::plane(4, 4, segments));
    node.material =
        scene->add_material({.name = "checks", .shading = Material::Shading::unlit, .base_color_map = {checked}});
    scene->add_node(node);
    return render_front(device, scene, size);
  };
  const Image whole = seen(1), fine = seen(150);
  // Pixels where a triangle ends look up between its corners; those at the edges of the ground are of both.
  int differ = 0;
  for (int i = 0; i < size * size; ++i)
    differ += std::abs(whole.at(i % size, i / size)[0] - fine.at(i % size, i / size)[0]) > 0.02;
  CHECK(differ < size * size / 200);
}

TEST_CASE("a pass makes as many programs as it draws families, but not very many") {
  std::vector<draw::SurfaceKind> states(20);
  for (std::uint32_t i = 0; i < states.size(); ++i) states[i].family.maps = i % 15;
  states[3].surface = 1;
  std::vector<bool> used(20, true);
  using batch::Programs;
  const draw::SurfaceKinds all(states, used, Programs::families);
  CHECK(all.kinds.size() == 16);
  CHECK(all.kinds[all.of_state[16]] == states[16]);
  CHECK(all.way == "16 programs, one per family of materials");
  const draw::SurfaceKinds chosen(states, used, Programs::automatic);
  CHECK(chosen.kinds.size() == 2);  // one has GLSL of its own
  CHECK(chosen.kinds[chosen.of_state[3]].surface == 1);
  CHECK(chosen.kinds[chosen.of_state[4]].family == draw::SurfaceFamily::general());
  CHECK(chosen.way == "2 general programs: 16 families would exceed the limit of 12");
  used.assign(20, false);
  used[5] = used[7] = true;
  const draw::SurfaceKinds few(states, used, Programs::automatic);
  CHECK(few.kinds.size() == 2);
  CHECK(few.kinds[few.of_state[7]] == states[7]);
  CHECK(draw::SurfaceKinds(states, used, Programs::general).way == "1 general program");
}

TEST_CASE_METHOD(TestDevice,
                 "a family says what it has, and where a vertex program may not give all that, pixels read it") {
  using draw::SurfaceFamily, draw::TextureWay;
  SurfaceFamily family;
  family.add(Material{});
  CHECK(fmt::format("{}", fmt::join(family.defines(TextureWay::arrays, 31), ", ")) ==
        "FAMILY, SHADINGS 1, BASE_COLOR_AT 7, MATERIAL_BY_VERTEX");
  Material brick{.shading = Material::Shading::blinn_phong, .alpha_mode = Material::AlphaMode::mask};
  brick.normal_map = {TextureHandle{0}};
  family.add(brick);
  CHECK(fmt::format("{}", fmt::join(family.defines(TextureWay::handles, 31), ", ")) ==
        "FAMILY, SHADINGS 3, MASKS, BASE_COLOR_AT 7, FACTORS_AT 8, EMISSION_AT 9, SPECULAR_AT 10, NUMBERS_AT 11, "
        "NORMAL_MAP 12");
  // Nobody draws with these here, but they must compile.
  for (const int outputs : {12, 13}) {
    std::vector<std::string> vertex_lines, lines = family.defines(TextureWay::arrays, outputs);
    CHECK((lines.back() == "MATERIAL_BY_VERTEX") == (outputs == 13));
    for (const std::string& line : lines) vertex_lines.push_back("#define " + line);
    const gl::Program program(
        device,
        {"by hand", gl::ShaderText::embedded("periscena/surface.vert", draw::shaders()).with_lines(vertex_lines),
         draw::surface_text(gl::ShaderText::embedded("periscena/forward.frag", passes::pass_shaders()), {}, {},
                            lines)});
    CHECK((program.interface().find_uniform("normal_maps") != nullptr));
  }
}
