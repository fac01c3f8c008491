#include "osier_bed.h"

#include "builder.h"

#include <cmath>

namespace osier_lock {
namespace {

constexpr int brick_kinds = 24, reed_kinds = 20, stem_kinds = 12;

class Bed {
 public:
  Scene build() {
    scene_.add_mesh("brick", shapes::box({0.22f, 0.066f, 0.105f}));
    scene_.add_mesh("coping", shapes::box({0.6f, 0.12f, 0.36f}));
    scene_.add_mesh("blade", shapes::cone(0.5f, 1, 4));
    scene_.add_mesh("stem", shapes::cylinder(0.5f, 1, 6));
    scene_.add_mesh("ground", shapes::plane(160, 160));
    materials();
    wall();
    plants();
    object("ground", "mud", Transform::translate({0, -0.02f, 0}), "ground");
    scene_.add_light(Light{.name = "sun",
                           .kind = DirectionalLight{.illuminance = 14000, .direction = {0.62f, -0.42f, -0.66f}},
                           .color = {1, 0.7f, 0.45f}});
    Camera camera;
    camera.eye = {-6.5f, 1.9f, 9.5f};
    camera.target = {1.5f, 0.95f, -3};
    camera.fov_y = radians(44);
    scene_.add_view({"bed", camera});
    return std::move(scene_);
  }

 private:
  void material(const std::string& name, const Vec3& color, float roughness) {
    scene_.add_material({.name = name, .base_color = color, .roughness = roughness});
  }

  void materials() {
    for (int i = 0; i < brick_kinds; ++i) {
      const float burnt = dice_.between(0, 1);
      material(fmt::format("brick {}", i), Vec3(0.36f, 0.13f, 0.085f) * (1.15f - 0.75f * burnt), 0.85f);
    }
    for (int i = 0; i < reed_kinds; ++i) {
      const float dry = dice_.between(0, 1);
      material(fmt::format("reed {}", i), (1 - dry) * Vec3(0.1f, 0.19f, 0.045f) + dry * Vec3(0.3f, 0.24f, 0.09f), 0.7f);
    }
    for (int i = 0; i < stem_kinds; ++i) {
      material(fmt::format("osier {}", i), Vec3(0.28f, 0.12f, 0.04f) * dice_.between(0.5f, 1.6f), 0.5f);
    }
    material("stone", {0.4f, 0.37f, 0.32f}, 0.8f);
    material("mud", {0.05f, 0.055f, 0.03f}, 0.95f);
  }

  void object(const char* mesh, const std::string& material, const Transform& placed, const char* tag) {
    Node node;
    node.mesh = scene_.find_mesh(mesh);
    node.material = scene_.find_material(material);
    node.placement = placed;
    node.tags = {tag};
    scene_.add_node(std::move(node));
  }

  /// Courses in running bond along a gentle curve.
  void wall() {
    constexpr int courses = 27, along = 210;
    for (int row = 0; row < courses; ++row) {
      for (int i = 0; i < along; ++i) {
        const float s = (static_cast<float>(i) + 0.5f * static_cast<float>(row % 2) - 0.5f * along) * 0.232f;
        const float out = dice_.between(-0.006f, 0.006f);
        place_on_wall("brick", fmt::format("brick {}", dice_.pick(brick_kinds)), s,
                      0.04f + 0.078f * static_cast<float>(row), out);
      }
    }
    for (int i = 0; i < 80; ++i)
      place_on_wall("coping", "stone", (static_cast<float>(i) - 39.5f) * 0.61f, 0.04f + 0.078f * courses + 0.03f, 0);
  }

  void place_on_wall(const char* mesh, const std::string& material, float along, float height, float out) {
    constexpr float radius = 32;
    const float angle = along / radius;
    object(
        mesh, material,
        Transform::rotate(Vec3::unit_y(), -angle)
            .then(Transform::translate({radius * std::sin(angle), height, radius * (1 - std::cos(angle)) - 4 + out})),
        "wall");
  }

  void plants() {
    for (int clump = 0; clump < 620; ++clump) {
      const float z = dice_.between(-3.2f, 4.5f), x = dice_.between(-14, 20);
      const Vec3 foot(x, 0, z);
      // A way through, along the wall's foot and towards the eye.
      if (std::abs(foot.x() + 1.2f - 0.55f * foot.z()) < 1.3f) continue;
      const bool osiers = dice_.between(0, 1) < 0.3f;
      for (int i = 0; i < 26; ++i) osiers ? stem(foot) : reed(foot);
    }
  }

  /// Metres; it leans up to so many degrees, and stands up to so far from the foot.
  Transform grown(const Vec3& foot, float width, float height, float lean, float aside) {
    return stretch({width, height, width})
        .then(move({0, height / 2, 0}))
        .then(turn(z_axis, dice_.between(-lean, lean)))
        .then(turn(x_axis, dice_.between(-lean, lean)))
        .then(move(foot + dice_.aside(aside, aside)));
  }

  void reed(const Vec3& foot) {
    const Transform placed = grown(foot, 0.035f, dice_.between(0.5f, 1.35f), 13, 0.3f);
    object("blade", fmt::format("reed {}", dice_.pick(reed_kinds)), placed, "plants");
  }

  void stem(const Vec3& foot) {
    const Transform placed = grown(foot, 0.016f, dice_.between(0.9f, 1.9f), 17, 0.12f);
    object("stem", fmt::format("osier {}", dice_.pick(stem_kinds)), placed, "plants");
  }

  Scene scene_;
  Dice dice_{20260714};
};

}  // namespace

Scene osier_bed() {
  return Bed().build();
}

}  // namespace osier_lock
