// Five hundred leaves that fall by your own rules, drawn in one call, and a score: catch them with the pointer.
// Keys: space holds them, r begins anew, s saves the picture, Escape ends.
//   build/release/examples/example_41_falling_leaves leaves.png [demo/generated]

#include <periscena/periscena.h>
#include <periscena/window/window_frame.h>

#include <cmath>
#include <cstdio>
#include <random>

using namespace periscena;
using namespace periscena::window;
using passes::Sprite;

constexpr int width = 960, height = 600;  // of the field, in units of its own

class Game {
 public:
  explicit Game(std::vector<Sprite>& sprites) { begin(sprites); }

  void begin(std::vector<Sprite>& sprites) {
    sprites.clear();
    speeds_.clear();
    caught = 0;
    for (int i = 0; i < 500; ++i) {
      Sprite leaf{.sheet = "leaves", .cell = "leaf " + std::to_string(i % 3)};
      leaf.width = number(18, 42);
      leaf.rotation = number(0, 6.3f);
      leaf.tint = {1, number(0.7f, 1), number(0.6f, 1)};
      leaf.order = static_cast<int>(leaf.width);
      leaf.at = {number(0, width), number(-height, height - 60)};
      sprites.push_back(leaf);
      speeds_.push_back(number(20, 70));
    }
  }

  /// A step of 1/60 s. Leaves within reach of the pointer are caught; those that reach the water begin again.
  void step(std::vector<Sprite>& sprites, const Vec2& pointer) {
    for (std::size_t i = 0; i < sprites.size(); ++i) {
      Vec2& at = sprites[i].at;
      at.y() += speeds_[i] / 60;
      at.x() += 0.6f * std::sin(at.y() / 30 + static_cast<float>(i));
      sprites[i].rotation += 0.02f * std::cos(at.y() / 30);
      const bool in_reach = (at + Vec2::constant(sprites[i].width / 2) - pointer).norm() < 28;
      if (at.y() > height) at = {number(0, width), -50};
      if (!in_reach) continue;
      ++caught;
      sprites[i] = sprites.back();
      speeds_[i] = speeds_.back();
      sprites.pop_back();
      speeds_.pop_back();
    }
  }

  int caught = 0;

 private:
  float number(float low, float high) { return low + (high - low) * static_cast<float>(random_() % 10000) / 10000; }

  std::mt19937 random_{41};
  std::vector<float> speeds_;
};

int main(int argc, char** argv) try {
  const std::filesystem::path generated = argc > 2 ? argv[2] : "demo/generated";
  FrameGraph frame;
  frame.set_background({0.05f, 0.09f, 0.13f, 1});
  frame.add(
      passes::sprites({.name = "leaves", .sheets = {read_sheet(generated / "leaves.json")}, .color = frame.output()}));
  frame.add(passes::text({.name = "score", .color = frame.output()}));
  // The picture keeps its shape, between bars; a unit of the field is as many pixels as there is room for.
  Window window({.title = "41 Falling leaves", .width = width, .height = height});
  WindowFrame shown(window, frame, {.aspect = static_cast<double>(width) / height});
  passes::Live<passes::Sprites> leaves(frame, "leaves");
  passes::Live<passes::Texts> score(frame, "score");

  std::vector<Sprite> sprites;
  Game game(sprites);
  bool runs = true;
  while (window.begin_frame()) {
    for (const Event& event : window.events()) {
      const auto* key = std::get_if<KeyPressed>(&event);
      if (key && key->key == Key::escape) window.close();
      if (key && key->key == Key::space) runs = !runs;
      if (key && key->key == Key::r) game.begin(sprites);
      if (key && key->key == Key::s) write_png(shown.runner().read("output"), argc > 1 ? argv[1] : "leaves.png");
    }
    const auto pixel = shown.pixel_at(window.pointer());
    const float unit = static_cast<float>(shown.area().width) / width;
    if (runs) game.step(sprites, pixel ? 1 / unit * *pixel : Vec2(-1000, -1000));
    leaves.change([&](passes::Sprites& options) {
      options.sprites = sprites;
      for (Sprite& leaf : options.sprites) {
        leaf.at = unit * leaf.at;
        leaf.width *= unit;
      }
    });
    score.change([&](passes::Texts& options) {
      options.texts = {
          {.wording = {.says = std::to_string(game.caught), .style = {.size = 44 * unit}},
           .at = {24 * unit, 16 * unit},
           .corner = passes::Corner::upper_right},
          {.wording = {.says = std::to_string(sprites.size()) + " in the air", .style = {.size = 20 * unit}},
           .at = {24 * unit, 68 * unit},
           .corner = passes::Corner::upper_right}};
    });
    window.set_title("41 Falling leaves: " + std::to_string(game.caught) + " caught");
    shown.draw(window.seconds());
    window.end_frame();
  }
} catch (const Error& error) {
  std::fprintf(stderr, "%s\n", error.what());
  return 1;
}
