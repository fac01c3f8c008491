#include "lanterns.h"

#include "builder.h"

#include <cmath>

namespace osier_lock {
namespace {

struct Paper {
  const char* name;
  Vec3 color;
};
constexpr int paper_count = 5;
const Paper papers[paper_count] = {{"amber paper", {1, 0.55f, 0.16f}},
                                   {"rose paper", {1, 0.25f, 0.3f}},
                                   {"jade paper", {0.25f, 1, 0.45f}},
                                   {"sky paper", {0.25f, 0.55f, 1}},
                                   {"cream paper", {1, 0.8f, 0.5f}}};

class Lanterns : Builder {
 public:
  explicit Lanterns(Scene lock) {
    scene_ = std::move(lock);
    for (const Paper& paper : papers)
      material(paper.name, Vec3::constant(0.6f), {.roughness = 0.7f, .emission = 4.5f * paper.color});
    scene_.add_mesh("lantern", shapes::cylinder(0.11f, 0.26f, 14));
    scene_.add_mesh("lantern wood", shapes::box({1, 1, 1}));
    scene_.add_node([] {
      Node node;
      node.name = "lanterns";
      node.tags = {"lanterns"};
      return node;
    }());
  }

  Scene build() {
    for (int i = 0; i < 96; ++i) {
      const float z = -13.5f - 0.62f * static_cast<float>(i) + dice_.between(-0.3f, 0.3f);
      floating({dice_.between(-2.1f, 2.1f), 0.55f, z});
    }
    for (int i = 0; i < 24; ++i) floating({dice_.between(-2.2f, 2.2f), -0.75f, 11.5f + 0.4f * static_cast<float>(i)});
    for (int i = 0; i < 40; ++i) {
      const float z = 17 - 2.1f * static_cast<float>(i);
      standing({3.45f + dice_.between(-0.1f, 0.1f), 0.98f, z});
      standing({-3.75f + dice_.between(-0.3f, 0.1f), 0.98f, z + dice_.between(-0.6f, 0.6f)});
    }
    strings();
    while (count_ < 256) standing({dice_.between(7.4f, 16), 0.96f, dice_.between(-45, 12)});
    return std::move(scene_);
  }

 private:
  void shine(const Vec3& at) {
    const int paper = dice_.pick(8);
    const Paper& chosen = papers[paper < paper_count ? paper : 0];
    object("lanterns", "lantern", chosen.name, turn(y_axis, dice_.between(0, 90)).then(move(at)));
    scene_.add_light(Light{
        .name = fmt::format("lantern {}", ++count_),
        .kind = PointLight{.intensity = 5, .position = at + Vec3(0, 0.02f, 0), .range = dice_.between(2.6f, 3.6f)},
        .color = chosen.color,
        .tags = {"lanterns"}});
  }

  void floating(const Vec3& water) {
    object(
        "lanterns", "lantern wood", "oak1",
        stretch({0.42f, 0.05f, 0.42f}).then(turn(y_axis, dice_.between(0, 90))).then(move(water + Vec3(0, 0.03f, 0))));
    shine(water + Vec3(0, 0.19f, 0));
  }

  void standing(const Vec3& foot) {
    const float height = dice_.between(0.25f, 0.5f);
    object("lanterns", "lantern wood", "oak1",
           stretch({0.04f, height, 0.04f}).then(move(foot + Vec3(0, height / 2, 0))));
    shine(foot + Vec3(0, height + 0.13f, 0));
  }

  /// From post to post over the path, hanging through in the middle.
  void strings() {
    for (int k = 0; k < 10; ++k) {
      const float z = 4.2f - 7.6f * static_cast<float>(k);
      Vec3 before(3.3f, 3.3f, z);
      for (int i = 1; i <= 5; ++i) {
        const float t = static_cast<float>(i) / 5;
        const Vec3 at(3.3f + 3.25f * t, 3.3f - 1.1f * 4 * t * (1 - t) * 0.5f, z);
        const Vec3 way = at - before;
        object("lanterns", "lantern wood", "iron",
               stretch({way.norm(), 0.015f, 0.015f})
                   .then(turn(z_axis, degrees(std::atan2(way.y(), way.x()))))
                   .then(move((at + before) / 2)));
        if (i < 5) shine(at - Vec3(0, 0.2f, 0));
        before = at;
      }
      object("lanterns", "lantern wood", "iron", stretch({0.06f, 2.4f, 0.06f}).then(move({3.3f, 2.15f, z})));
      object("lanterns", "lantern wood", "iron", stretch({0.06f, 2.4f, 0.06f}).then(move({6.55f, 2.15f, z})));
    }
  }

  int count_ = 0;
};

}  // namespace

Scene lantern_night(Scene lock) {
  return Lanterns(std::move(lock)).build();
}

}  // namespace osier_lock
