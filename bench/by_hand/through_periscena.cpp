// The pictures that the twins here draw by hand, through Periscena, said as users would say them:
//
//   build/release/bench/through_periscena --frame ring|model|lamps|cubes|bloom --output picture.png

#include "by_hand/frames.h"
#include "twin.h"

#include <periscena/periscena.h>

#include <fmt/format.h>

#include <cstring>

using namespace periscena;

namespace {

Vec3 vector_of(const float (&numbers)[3]) {
  return {numbers[0], numbers[1], numbers[2]};
}

Mesh mesh_of(const frames::Shape& shape) {
  std::vector<Vec3> positions, normals;
  std::vector<Vec4> tangents;
  std::vector<Vec2> uv;
  for (const frames::Corner& corner : shape.corners) {
    positions.push_back(vector_of(corner.position));
    normals.push_back(vector_of(corner.normal));
    tangents.emplace_back(corner.tangent[0], corner.tangent[1], corner.tangent[2], 1);
    uv.emplace_back(corner.uv[0], corner.uv[1]);
  }
  Mesh mesh;
  mesh.positions = positions;
  mesh.normals = normals;
  mesh.tangents = tangents;
  mesh.uv = uv;
  mesh.indices = shape.indices;
  return mesh;
}

void look(Scene& scene, const frames::Pose& pose) {
  scene.add_view(
      {"front", {.eye = vector_of(pose.eye), .target = vector_of(pose.target), .fov_y = radians(pose.fov_degrees)}});
}

FrameGraph model(int samples) {
  auto scene = std::make_shared<Scene>();
  look(*scene, frames::model_pose);
  auto paving = std::make_shared<Image>(frames::texture_size, frames::texture_size, Format::rgba8);
  const std::vector<std::uint8_t> bytes = frames::paving();
  std::transform(bytes.begin(), bytes.end(), paving->bytes().begin(),
                 [](std::uint8_t byte) { return std::byte(byte); });
  const TextureUse map{scene->add_texture({.name = "paving", .image = paving, .sampling = {}})};
  Node knot;
  knot.name = "knot";
  knot.mesh = scene->add_mesh("knot", mesh_of(frames::knot(360, 48)));
  knot.material = scene->add_material(
      {.name = "knot", .base_color = Vec3::ones(), .roughness = frames::knot_roughness, .base_color_map = map});
  knot.placement = Transform::translate({0, frames::knot_height, 0});
  knot.motion = Motion{.kind = Motion::Kind::spin, .axis = Vec3::unit_y(), .period = frames::knot_period};
  scene->add_node(knot);
  Node ground;
  ground.name = "ground";
  ground.tags = {"ground"};
  ground.mesh = scene->add_mesh("ground", mesh_of(frames::ground(12)));
  ground.material = scene->add_material(
      {.name = "paving", .base_color = Vec3::ones(), .roughness = frames::paving_roughness, .base_color_map = map});
  scene->add_node(ground);
  scene->add_light(
      Light{.name = "sun",
            .kind = DirectionalLight{.illuminance = frames::sun_lux, .direction = vector_of(frames::sun_way)},
            .color = vector_of(frames::sun_color)});
  scene->add_light(
      AmbientLight{.name = "air", .sky = vector_of(frames::sky_nits), .ground = vector_of(frames::ground_nits)});
  auto panorama = std::make_shared<Image>(frames::sky_width, frames::sky_height, Format::rgba32f);
  const std::vector<float> sky = frames::sky();
  for (std::size_t i = 0; 3 * i < sky.size(); ++i) {
    panorama->set(static_cast<int>(i) % frames::sky_width, static_cast<int>(i) / frames::sky_width,
                  {sky[3 * i], sky[3 * i + 1], sky[3 * i + 2], 1});
  }
  scene->add_environment({"evening", {panorama}});

  FrameGraph frame;
  const passes::Defaults shared{.scene = scene, .view = "front"};
  const auto map_depth =
      frame.target("sun.depth", {.format = Format::depth32f, .size = TargetSize::pixels(2048, 2048)});
  const auto color = frame.target("light", {.format = Format::rgba16f, .samples = samples});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(passes::shadow_map(shared, {.light = "sun", .without_tags = {"ground"}, .depth = map_depth}));
  frame.add(passes::sky(shared, {.environment = "evening", .color = color}));
  frame.add(passes::forward(shared, {.shadows = {map_depth}, .color = color, .depth = depth}));
  frame.add(passes::tone_map({.exposure_ev100 = frames::model_ev100, .light = color, .color = frame.output()}));
  return frame;
}

FrameGraph lamps() {
  auto scene = std::make_shared<Scene>();
  look(*scene, frames::hall_pose);
  const MeshHandle cube = scene->add_mesh("cube", mesh_of(frames::cube()));
  const auto add = [&](const frames::Pillar& pillar, const std::string& name) {
    Node node;
    node.name = name;
    node.mesh = cube;
    node.material =
        scene->add_material({.name = name, .base_color = vector_of(pillar.color), .roughness = pillar.roughness});
    node.placement = Transform::scale(vector_of(pillar.size)).then(translate(vector_of(pillar.at)));
    scene->add_node(node);
  };
  for (int i = 0; i < frames::pillars_across * frames::pillars_across; ++i)
    add(frames::pillar(i), fmt::format("pillar {}", i));
  add({{0, -0.5f, 0},
       {2 * frames::hall_half, 1, 2 * frames::hall_half},
       {frames::floor_color[0], frames::floor_color[1], frames::floor_color[2]},
       frames::floor_roughness},
      "floor");
  for (int i = 0; i < frames::lamp_count; ++i) {
    const frames::Lamp lamp = frames::lamp(i);
    scene->add_light(
        Light{.name = fmt::format("lamp {}", i),
              .kind = PointLight{.intensity = lamp.candela, .position = vector_of(lamp.at), .range = lamp.range},
              .color = vector_of(lamp.color)});
  }
  FrameGraph frame;
  const passes::Defaults shared{.scene = scene, .view = "front"};
  const auto normal = frame.target("kept.normal", {.format = Format::rgba16});
  const auto base_color = frame.target("kept.base_color", {.format = Format::rgba8_srgb});
  const auto material = frame.target("kept.material", {.format = Format::rgba8});
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  const auto light = frame.target("light", {.format = Format::rgba16f});
  frame.add(
      passes::geometry(shared, {.normal = normal, .base_color = base_color, .material = material, .depth = depth}));
  frame.add(passes::deferred(
      shared, {.depth = depth, .normal = normal, .base_color = base_color, .material = material, .color = light}));
  frame.add(passes::tone_map({.exposure_ev100 = frames::hall_ev100, .light = light, .color = frame.output()}));
  return frame;
}

FrameGraph cubes() {
  auto scene = std::make_shared<Scene>();
  look(*scene, frames::field_pose);
  const MeshHandle mesh = scene->add_mesh("cube", mesh_of(frames::cube()));
  std::vector<MaterialHandle> materials;
  for (const frames::CubeMaterial& material : frames::cube_materials) {
    materials.push_back(scene->add_material({.name = fmt::format("material {}", materials.size()),
                                             .base_color = vector_of(material.color),
                                             .metallic = material.metallic,
                                             .roughness = material.roughness}));
  }
  for (int i = 0; i < frames::cube_count; ++i) {
    const frames::Cube cube = frames::cube(i);
    Node node;
    node.mesh = mesh;
    node.material = materials[static_cast<std::size_t>(cube.material)];
    node.placement = Transform::scale(Vec3::constant(cube.edge)).then(translate(vector_of(cube.at)));
    node.motion =
        Motion{.kind = Motion::Kind::spin, .axis = Vec3::unit_y(), .period = cube.period, .phase = cube.phase};
    scene->add_node(node);
  }
  scene->add_light(
      Light{.name = "sun",
            .kind = DirectionalLight{.illuminance = frames::field_lux, .direction = vector_of(frames::field_way)}});
  FrameGraph frame;
  frame.set_background({0.05f, 0.07f, 0.1f, 1});
  frame.add(passes::forward({.scene = scene,
                             .view = "front",
                             .color = frame.output(),
                             .depth = frame.target("depth", {.format = Format::depth32f})}));
  return frame;
}

FrameGraph bloom() {
  FrameGraph frame;
  const auto lamps = frame.target("lamps", {.format = Format::rgba16f, .origin = Origin::outside_texture});
  const auto glowing = frame.target("glowing", {.format = Format::rgba16f});
  frame.add(passes::bloom({.strength = frames::bloom_strength,
                           .radius = frames::bloom_radius,
                           .spread = frames::bloom_spread,
                           .light = lamps,
                           .color = glowing}));
  frame.add(passes::tone_map({.exposure_ev100 = frames::bloom_ev100, .light = glowing, .color = frame.output()}));
  return frame;
}

/// What the frame takes from outside.
gl::Texture lamps_texture(int width, int height) {
  Image image(width, height, Format::rgba32f);
  const std::vector<float> light = frames::lamps(width, height);
  std::memcpy(image.bytes().data(), light.data(), image.bytes().size());
  gl::Texture texture(width, height, Format::rgba16f, "lamps");
  texture.upload(image);
  return texture;
}

FrameGraph frame_of(const TwinOptions& options) {
  if (options.frame == "ring") return read_frame_file(PERISCENA_SOURCE_FOLDER "/examples/01_first_picture.toml").graph;
  if (options.frame == "model") return model(options.samples);
  if (options.frame == "lamps") return lamps();
  if (options.frame == "cubes") return cubes();
  if (options.frame == "bloom") return bloom();
  throw Mistake("unknown-frame", {}, fmt::format("no frame is called \"{}\"", options.frame));
}

}  // namespace

int main(int argc, char** argv) {
  const TwinOptions options = read_twin_options(argc, argv);
  return run_twin(options, [&] {
    static gl::Device device = gl::Device::headless();
    static gl::Texture lamps;
    std::vector<gl::Outside> outside;
    if (options.frame == "bloom") {
      lamps = lamps_texture(options.width, options.height);
      outside.push_back({.target = "lamps", .name = lamps.name()});
    }
    const auto runner = std::make_shared<gl::FrameRunner>(
        device, frame_of(options).plan(options.width, options.height, device.limits()).value(), outside);
    return Twin{[=](double seconds) { runner->run(seconds); }, [=] { return runner->read("output"); }};
  });
}
