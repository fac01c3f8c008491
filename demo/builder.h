#pragma once

#include "textures.h"

#include <periscena/periscena.h>

#include <fmt/format.h>

#include <algorithm>
#include <cstdint>
#include <map>
#include <optional>
#include <string>

namespace osier_lock {

using namespace periscena;

/// SplitMix64 (Steele, Lea and Flood, OOPSLA 2014): small, and the same everywhere.
/// Two throws never stand in the arguments of one call: compilers choose which of these comes first.
class Dice {
 public:
  explicit Dice(std::uint64_t seed) : state_(seed) {}

  float between(float low, float high) {
    state_ += 0x9E3779B97F4A7C15u;
    std::uint64_t z = state_;
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9u;
    z = (z ^ (z >> 27)) * 0x94D049BB133111EBu;
    return low + (high - low) * static_cast<float>((z ^ (z >> 31)) >> 40) / static_cast<float>(1 << 24);
  }

  /// A step to the side, up to so far along x and z.
  Vec3 aside(float x, float z) {
    const float along_z = between(-z, z), along_x = between(-x, x);
    return {along_x, 0, along_z};
  }

  int pick(int count) { return std::min(count - 1, static_cast<int>(between(0, static_cast<float>(count)))); }

 private:
  std::uint64_t state_;
};

inline Transform move(const Vec3& v) {
  return translate(v);
}
inline Transform stretch(const Vec3& v) {
  return Transform::scale(v);
}
inline Transform turn(const Vec3& axis, float by_degrees) {
  return rotate(axis, radians(by_degrees));
}

inline const Vec3 x_axis = Vec3::unit_x(), y_axis = Vec3::unit_y(), z_axis = Vec3::unit_z();

/// How a material looks, beside its colour.
struct Look {
  const char* stuff = nullptr;  ///< its textures
  float roughness = 0.9f, metallic = 0;
  Vec3 emission = Vec3::zero();
};

/// A scene in the making: materials, objects and blocks, by their names.
class Builder {
 protected:
  void material(const char* name, const Vec3& color, const Look& look = {}) {
    Material made{.name = name,
                  .base_color = color,
                  .metallic = look.metallic,
                  .roughness = look.roughness,
                  .emission = look.emission};
    if (look.stuff) {
      const Stuff& stuff = stuffs_.at(look.stuff);
      made.base_color_map.texture = stuff.color;
      made.normal_map.texture = stuff.normal;
      if (stuff.color.valid()) {
        made.metallic_roughness_map.texture = made.occlusion_map.texture = stuff.surface;
      } else {
        made.roughness_scale_map.texture = stuff.surface;
      }
    }
    scene_.add_material(std::move(made));
  }

  void object(const std::string& parent, const std::string& mesh, const std::string& material, const Transform& steps,
              std::optional<Motion> motion = {}, const std::string& name = {}, std::vector<std::string> tags = {}) {
    Node node;
    node.name = name;
    node.placement = steps;
    node.motion = motion;
    node.tags = std::move(tags);
    if (!parent.empty()) node.parent = scene_.find_node(parent);
    if (!mesh.empty()) {
      node.mesh = scene_.find_mesh(mesh);
      node.material = scene_.find_material(material);
      if (!node.mesh.valid() || !node.material.valid())
        throw Mistake("demo", Place::here(), mesh + ", " + material, "");
    }
    scene_.add_node(std::move(node));
  }

  /// A box of that size, so that its textures tile by real size. Equal ones are one mesh.
  void block(const std::string& parent, const std::string& material, const Vec3& size, const Vec3& center,
             const Transform& turned = Transform::identity(), std::vector<std::string> tags = {}) {
    const std::string name = fmt::format("{:.3f} x {:.3f} x {:.3f} m", size.x(), size.y(), size.z());
    if (!scene_.find_mesh(name).valid()) scene_.add_mesh(name, shapes::box(size));
    object(parent, name, material, turned.then(move(center)), {}, {}, std::move(tags));
  }

  Scene scene_;
  Dice dice_{20260611};

 private:
  std::map<std::string, Stuff> stuffs_ = add_textures(scene_);
};

}  // namespace osier_lock
