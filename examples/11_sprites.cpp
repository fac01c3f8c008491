// Sprites over a finished picture, of two sheets and in one draw call: the same as 11_sprites.toml, which says the sky.
//   build/release/examples/example_11_sprites sprites.png [11_sprites.toml]

#include <periscena/periscena.h>

#include <cstdio>

using namespace periscena;
using passes::Sprite;

namespace {

std::vector<Sprite> dragonflies() {
  const struct {
    Vec2 at;
    float width, degrees;
    bool flipped;
    Vec3 tint;
    int order;
  } flies[] = {{Vec2(120, 40), 340, -14, false, Vec3(1, 1, 1), 2},
               {Vec2(40, 290), 230, 24, true, Vec3(1, 0.8f, 0.7f), 1},
               {Vec2(500, 340), 190, 8, false, Vec3(0.8f, 1, 0.7f), 1},
               {Vec2(860, 20), 140, -30, true, Vec3(1, 1, 1), 0},
               {Vec2(690, 150), 100, 12, false, Vec3(0.7f, 0.9f, 1), 0}};
  std::vector<Sprite> sprites;
  for (const auto& fly : flies) {
    sprites.push_back({.sheet = "dragonfly",
                       .at = fly.at,
                       .width = fly.width,
                       .rotation = radians(fly.degrees),
                       .tint = fly.tint,
                       .flip_across = fly.flipped,
                       .order = fly.order,
                       .cells = 4,
                       .cells_a_second = 20});
  }
  return sprites;
}

std::vector<Sprite> leaves() {
  const struct {
    int kind;
    Vec2 at;
    float width, degrees;
    int order;
  } fallen[] = {{0, Vec2(35, 20), 56, 83, 3},   {1, Vec2(96, 55), 35, 95, 0},   {2, Vec2(146, 19), 75, -107, 0},
                {0, Vec2(218, 8), 41, -25, 0},  {1, Vec2(263, 19), 58, 19, 3},  {2, Vec2(309, 61), 49, -117, 0},
                {0, Vec2(387, 15), 60, -49, 0}, {1, Vec2(427, 37), 44, 75, 0},  {2, Vec2(505, -3), 42, 38, 3},
                {0, Vec2(557, 44), 42, -87, 0}, {1, Vec2(596, -12), 47, 78, 0}, {2, Vec2(660, 9), 44, -46, 0}};
  std::vector<Sprite> sprites;
  for (const auto& leaf : fallen) {
    sprites.push_back({.sheet = "leaves",
                       .cell = "leaf " + std::to_string(leaf.kind),
                       .at = leaf.at,
                       .corner = passes::Corner::lower_right,
                       .width = leaf.width,
                       .rotation = radians(leaf.degrees),
                       .order = leaf.order});
  }
  return sprites;
}

}  // namespace

int main(int argc, char** argv) try {
  const std::filesystem::path file = argc > 2 ? argv[2] : "examples/11_sprites.toml";
  const auto scene = read_frame_file(file).scene;
  const auto generated = file.parent_path() / "../demo/generated";

  FrameGraph frame;
  const auto light = frame.target("light", {.format = Format::rgba16f});
  frame.add(passes::sky({.scene = scene, .view = "up", .environment = "dusk", .color = light}));
  frame.add(passes::tone_map({.exposure_ev100 = 10.5f, .light = light, .color = frame.output()}));
  passes::Sprites sprites{.name = "dragonflies and leaves",
                          .sheets = {read_sheet(generated / "dragonfly.json"), read_sheet(generated / "leaves.json")},
                          .sprites = dragonflies(),
                          .color = frame.output()};
  for (const Sprite& leaf : leaves()) sprites.sprites.push_back(leaf);
  frame.add(passes::sprites(sprites));

  auto device = gl::Device::headless();
  gl::FrameRunner runner(device, frame.plan(1200, 675, device.limits()).value());
  runner.run(0);
  std::printf("%s", inspect::counts_text(runner).c_str());
  write_png(runner.read("output"), argc > 1 ? argv[1] : "sprites.png");
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
