// A flag whose vertices the program moves in each frame, and a board that the pointer paints on: mesh and texture are
// changed where they are, no buffer is made again. Keys: l shows the left half of the picture alone, by a lens whose
// axis is at the picture's edge; s saves the picture, Escape ends.
//   build/release/examples/example_44_flag_and_brush flag.png

#include <periscena/periscena.h>
#include <periscena/window/window_frame.h>

#include <algorithm>
#include <cmath>
#include <cstdio>

using namespace periscena;
using namespace periscena::window;

constexpr int columns = 32, rows = 12, board_pixels = 128, brush = 9;

/// 2.4 x 1.2 m, waving more the farther it is from its mast.
Mesh flag(float seconds, const Stream<std::uint32_t>& indices) {
  std::vector<Vec3> positions, normals;
  for (int y = 0; y <= rows; ++y) {
    for (int x = 0; x <= columns; ++x) {
      const float along = 2.4f * static_cast<float>(x) / columns, up = 1.2f * static_cast<float>(y) / rows;
      const float angle = 4 * along - 5 * seconds, wide = 0.12f * along;
      positions.push_back({along, up, wide * std::sin(angle)});
      normals.push_back(Vec3(-0.12f * std::sin(angle) - 4 * wide * std::cos(angle), 0, 1).normalized());
    }
  }
  return {.positions = std::move(positions), .normals = std::move(normals), .indices = indices, .dynamic = true};
}

/// Two triangles for each cell of the flag: they never change.
Stream<std::uint32_t> flag_indices() {
  std::vector<std::uint32_t> indices;
  for (std::uint32_t at = 0; at < (columns + 1) * rows; ++at) {
    if (at % (columns + 1) == columns) continue;
    for (const std::uint32_t step : {0, 1, columns + 2, 0, columns + 2, columns + 1}) indices.push_back(at + step);
  }
  return indices;
}

int main(int argc, char** argv) try {
  Window window({.title = "44 Flag and brush", .width = 960, .height = 600});
  auto scene = std::make_shared<Scene>();
  const Stream<std::uint32_t> indices = flag_indices();
  const MeshHandle cloth = scene->add_mesh("flag", flag(0, indices));
  auto white = std::make_shared<Image>(board_pixels, board_pixels, Format::rgba8);
  std::fill(white->bytes().begin(), white->bytes().end(), std::byte{235});
  const TextureHandle paint =
      scene->add_texture({.name = "paint", .image = white, .sampling = {.filter = Filter::linear}});
  Material board{.name = "board", .shading = Material::Shading::unlit, .base_color = {1, 1, 1}};
  board.base_color_map.texture = paint;
  board.base_color_map.scale = board.base_color_map.offset = {0.5f, 0.5f};  // shapes count metres, from their middle
  scene->add_node(
      {.name = "flag",
       .mesh = cloth,
       .material = scene->add_material({.name = "wool", .base_color = {0.7f, 0.1f, 0.08f}, .double_sided = true}),
       .placement = Transform::translate({-2.6f, 0.4f, 0})});
  scene->add_node({.name = "mast",
                   .mesh = scene->add_mesh("mast", shapes::cylinder(0.04f, 3)),
                   .material = scene->add_material({.name = "oak", .base_color = {0.3f, 0.2f, 0.1f}}),
                   .placement = Transform::translate({-2.64f, 0.15f, 0})});
  scene->add_node({.name = "board",
                   .mesh = scene->add_mesh("board", shapes::plane(2, 2)),
                   .material = scene->add_material(board),
                   .placement = Transform::rotate(Vec3::unit_x(), pi / 2).then(Transform::translate({1.4f, 0.4f, 0}))});
  scene->add_light(Light{.name = "sun", .kind = DirectionalLight{.illuminance = 3, .direction = {0.5f, -1, -0.8f}}});
  scene->add_light(AmbientLight{.name = "sky", .sky = {0.3f, 0.35f, 0.4f}, .ground = {0.1f, 0.1f, 0.1f}});
  Camera camera{.eye = {0, 0.4f, 5}, .target = {0, 0.4f, 0}, .fov_y = radians(40)};
  const ViewHandle view = scene->add_view({"front", camera});
  FrameGraph frame;
  auto color =
      frame.target("color", {.format = Format::rgba8_srgb, .samples = 4, .clear_color = {0.2f, 0.3f, 0.4f, 1}});
  auto depth = frame.target("depth", {.format = Format::depth32f, .samples = 4});
  frame.add(passes::forward({.name = "picture", .scene = scene, .view = "front", .color = color, .depth = depth}));
  frame.add(passes::resolve({.name = "show", .from = {.target = color}, .to = {.target = frame.output()}}));
  WindowFrame shown(window, frame);
  Image dab(brush, brush, Format::rgba8);
  for (int i = 0; i < brush * brush; ++i) dab.set(i % brush, i / brush, {20, 60, 160, 255});
  while (window.begin_frame()) {
    const float width = static_cast<float>(window.width()), height = static_cast<float>(window.height());
    for (const Event& event : window.events()) {
      if (const auto* moved = std::get_if<PointerMoved>(&event)) {
        // Where the ray through the pointer meets the board, from its upper left corner, in metres.
        const Vec3 way =
            sight_through(camera, width / height, {moved->position.x() / width, moved->position.y() / height});
        const Vec3 hit = camera.eye - camera.eye.z() / way.z() * way - Vec3(0.4f, 1.4f, 0);
        const int x = static_cast<int>(hit.x() / 2 * board_pixels) - brush / 2,
                  y = static_cast<int>(-hit.y() / 2 * board_pixels) - brush / 2;
        if (x >= 0 && y >= 0 && x <= board_pixels - brush && y <= board_pixels - brush)
          scene->change_texture(paint, dab, x, y);
      }
      const auto* key = std::get_if<KeyPressed>(&event);
      if (key && key->key == Key::escape) window.close();
      if (key && key->key == Key::s) write_png(shown.runner().read("output"), argc > 1 ? argv[1] : "flag.png");
      if (key && key->key == Key::l) {
        const float top = camera.near * std::tan(camera.fov_y / 2), left = -top * width / height;
        camera.lens =
            camera.lens ? std::nullopt
                        : std::optional(Projection::perspective(OffCenterPerspective{left, 0, -top, top, camera.near}));
        scene->set_camera(view, camera);
      }
    }
    scene->change_mesh(cloth, flag(static_cast<float>(window.seconds()), indices));
    shown.draw(window.seconds());
    window.end_frame();
  }
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
