#include "gl/device.h"
#include "gl/random_scene.h"

#include <periscena/gl/frame_runner.h>
#include <periscena/periscena.h>

using namespace periscena;

namespace {

SpriteSheet sheet() {
  auto image = std::make_shared<Image>(12, 6, Format::rgba8_srgb);
  for (int y = 0; y < 6; ++y)
    for (int x = 0; x < 12; ++x) image->set(x, y, {20.0 * x, 40.0 * y, 90.0, x % 4 == 3 ? 128.0 : 255.0});
  return SpriteSheet::grid("leaves", image, 3, 1);
}

/// Lists that a program changes while they are drawn.
struct Lists {
  passes::Sprites sprites{.name = "sprites", .sheets = {sheet()}, .filter = Filter::nearest};
  passes::Texts texts{.name = "texts"};
  passes::Particles down{.name = "down", .view = "front", .size = 0.2f};

  Lists() {
    auto scene = std::make_shared<Scene>();
    scene->add_view({"front", {.eye = {0, 0, 8}}});
    down.scene = scene;
    down.cloud.count = 200;
    down.cloud.from_low = {-3, -2, -1};
    down.cloud.from_high = {3, 2, 1};
    down.cloud.life = 2;
  }

  FrameGraph frame() const {
    FrameGraph frame;
    frame.set_background({0.1f, 0.2f, 0.3f, 1});
    const auto add = [&](auto options, auto make) {
      options.color = frame.output();
      frame.add(make(options));
    };
    add(down, [](const auto& one) { return passes::particles(one); });
    add(sprites, [](const auto& one) { return passes::sprites(one); });
    add(texts, [](const auto& one) { return passes::text(one); });
    return frame;
  }

  Image anew(gl::Device& device, double seconds) const {
    gl::FrameRunner runner(device, frame().plan(120, 80, device.limits()).value());
    runner.run(seconds);
    return runner.read("output");
  }
};

passes::Sprite random_sprite(RandomScene& random) {
  return {.cell = std::to_string(random.below(3)),
          .at = {random.number(0, 120), random.number(0, 80)},
          .width = random.number(3, 20),
          .rotation = random.number(0, 6),
          .tint = random.color(),
          .alpha = random.number(0.2f, 1),
          .order = static_cast<int>(random.below(4))};
}

passes::Text random_text(RandomScene& random) {
  const char* const said[] = {"Osier", "Lock", "42", "", "dusk\nand dawn"};
  return {.wording = {.says = said[random.below(5)], .style = {.size = 8 + 4 * static_cast<float>(random.below(3))}},
          .at = {random.number(0, 60), random.number(0, 60)}};
}

/// Adds, replaces, moves and removes.
template <class List, class Make>
void change_list(RandomScene& random, List& list, const Make& make) {
  const auto any = [&] { return static_cast<std::ptrdiff_t>(random.below(list.size())); };
  switch (list.empty() ? 0 : random.below(5)) {
    case 0:
    case 1: list.push_back(make(random)); break;
    case 2: list[static_cast<std::size_t>(any())] = make(random); break;
    case 3: list.erase(list.begin() + any()); break;
    default: std::swap(list.front(), list[static_cast<std::size_t>(any())]);
  }
}

}  // namespace

TEST_CASE_METHOD(TestDevice,
                 "lists of sprites, texts and particles that change give the picture of a frame declared so") {
  RandomScene random(17);
  Lists lists;
  const FrameGraph frame = lists.frame();
  gl::FrameRunner runner(device, frame.plan(120, 80, device.limits()).value());
  runner.run(0);
  passes::Live<passes::Sprites> live_sprites(frame, "sprites");
  passes::Live<passes::Texts> live_texts(frame, "texts");
  passes::Live<passes::Particles> live_down(frame, "down");
  for (int step = 0; step < 120; ++step) {
    for (std::size_t edit = random.below(4); edit > 0; --edit) {
      if (random.below(2) == 0) change_list(random, lists.sprites.sprites, random_sprite);
      if (random.below(2) == 0) change_list(random, lists.texts.texts, random_text);
      if (random.below(4) == 0) lists.sprites.least_alpha = random.below(2) == 0 ? 0 : 0.6f;
      if (random.below(4) == 0) lists.down.tint = random.color();
      if (random.below(8) == 0) lists.down.cloud.wind = {random.number(-1, 1), 0, 0};
      if (random.below(8) == 0)
        lists.down.cloud.path = Curve({{0, {random.number(-2, 2)}}, {random.number(1, 4), {}}}, {.count = 3});
      if (random.below(8) == 0) lists.down.cloud.emission = Curve::constant({random.number(0, 1)});
      if (random.below(8) == 0) lists.down.adds = !lists.down.adds;
      live_sprites.change([&](auto& one) {
        one.sprites = lists.sprites.sprites;
        one.least_alpha = lists.sprites.least_alpha;
      });
      live_texts.change([&](auto& one) { one.texts = lists.texts.texts; });
      live_down.change([&](auto& one) {
        one.tint = lists.down.tint;
        one.cloud = lists.down.cloud;
        one.adds = lists.down.adds;
      });
    }
    const double seconds = 0.1 * (step % 30);
    const auto asked = device.programs().counts().shared;
    runner.run(seconds);
    CHECK(device.programs().counts().shared == asked);  // nothing was made again
    if (step % 4 != 3) continue;
    INFO("step " << step << ", " << lists.sprites.sprites.size() << " sprites, " << lists.texts.texts.size()
                 << " texts");
    REQUIRE(runner.read("output") == lists.anew(device, seconds));
  }
}

TEST_CASE_METHOD(TestDevice, "texts of ever other sizes do not fill the device") {
  Lists lists;
  lists.texts.texts = {{.wording = {.says = "Osier Lock at dusk", .style = {.size = 10}}}};
  const FrameGraph frame = lists.frame();
  gl::FrameRunner runner(device, frame.plan(120, 80, device.limits()).value());
  passes::Live<passes::Texts> live(frame, "texts");
  const auto made = device.programs().counts().shared;
  for (int i = 0; i < 240; ++i) {
    live.change([&](auto& one) { one.texts[0].wording.style.size = 10 + static_cast<float>(i); });
    runner.run(0);
  }
  // Some times the pass began with an empty atlas: a program was asked for again.
  CHECK(device.programs().counts().shared > made);
  CHECK(device.programs().counts().shared < made + 40);
  lists.texts.texts[0].wording.style.size = 249;
  CHECK(runner.read("output") == lists.anew(device, 0));
}

TEST_CASE_METHOD(TestDevice, "of a thousand sprites, those that changed are sent") {
  RandomScene random(5);
  Lists lists;
  for (int i = 0; i < 1000; ++i) lists.sprites.sprites.push_back(random_sprite(random));
  for (passes::Sprite& sprite : lists.sprites.sprites) sprite.order = 0;
  const FrameGraph frame = lists.frame();
  gl::FrameRunner runner(device, frame.plan(120, 80, device.limits()).value());
  runner.run(0);
  const auto sent = [&] {
    runner.run(0);
    return runner.counts(1).bytes_sent;
  };
  CHECK(sent() == 0);
  passes::Live<passes::Sprites> live(frame, "sprites");
  live.change([](auto& one) { one.sprites[400].at.x() += 1; });
  CHECK(sent() == 64);
  live.change([](auto& one) { one.sprites[400].at.x() += 1; });
  live.change([](auto& one) { one.sprites[409].at.x() += 1; });
  CHECK(sent() == 640);
  live.change([](auto& one) { one.sprites.pop_back(); });
  CHECK(sent() == 0);
  live.change([](auto& one) { one.sprites.clear(); });
  CHECK(sent() == 0);
  CHECK(runner.counts(1).draw_calls == 0);
}
