#include "passes/light_markers/marker_lines.h"

#include <periscena/base/cases.h>

#include <algorithm>
#include <cmath>

namespace periscena::passes {
namespace {

constexpr float turn = 2 * std::numbers::pi_v<float>;
constexpr int circle_sides = 64;

/// The same as in forward.frag.
const std::array<Vec4, 6> part_tints{{{1, 0.62f, 0.15f, 1},
                                      {0.1f, 0.72f, 0.66f, 1},
                                      {0.5f, 0.3f, 0.95f, 1},
                                      {0.95f, 0.25f, 0.4f, 1},
                                      {0.55f, 0.8f, 0.15f, 1},
                                      {0.35f, 0.45f, 0.65f, 1}}};

/// Two directions at right angles to one and to each other, length 1.
std::array<Vec3, 2> around(const Vec3& axis) {
  const Vec3 other = std::abs(axis.y()) < 0.9f ? Vec3::unit_y() : Vec3::unit_x();
  const Vec3 right = axis.cross(other).normalized();
  return {right, Vec3(right.cross(axis))};
}

/// The brightest channel shows fully, and none goes dark: markers are for seeing.
Vec4 marker_color(const Light& light) {
  const float most = light.color.largest();
  const Vec3 hue = most > 0 ? light.color / most : Vec3::ones();
  return {std::max(hue.x(), 0.12f), std::max(hue.y(), 0.12f), std::max(hue.z(), 0.12f), 1};
}

class Marker {
 public:
  Marker(const Vec4& color, std::vector<LineBlock>& lines) : color_(color), lines_(lines) {}

  void line(const Vec3& from, const Vec3& to) { add(from, to, Vec4::zero()); }

  void circle(const Vec3& center, const Vec3& right, const Vec3& up, float radius) {
    Vec3 last = center + right * radius;
    for (int i = 1; i <= circle_sides; ++i) {
      const float angle = turn * static_cast<float>(i) / circle_sides;
      const Vec3 next = center + (right * std::cos(angle) + up * std::sin(angle)) * radius;
      line(last, next);
      last = next;
    }
  }

  /// A star of one size on every picture.
  void star(const Vec3& center) {
    for (int i = 0; i < 4; ++i) {
      const float angle = turn * static_cast<float>(i) / 8, size = i % 2 == 0 ? 14.0f : 9.0f;
      const float x = size * std::cos(angle), y = size * std::sin(angle);
      add(center, center, {-x, -y, x, y});
    }
  }

  void arrow(const Vec3& from, const Vec3& to) {
    line(from, to);
    const Vec3 along = to - from;
    for (const Vec3& side : around(along.normalized())) {
      for (const float sign : {-1.0f, 1.0f}) line(to, to - along * 0.22f + side * (sign * 0.1f * along.norm()));
    }
  }

 private:
  void add(const Vec3& from, const Vec3& to, const Vec4& aside) {
    LineBlock line;
    line.from.set_head(from);
    line.to.set_head(to);
    line.aside = aside;
    line.color = color_;
    lines_.push_back(line);
  }

  Vec4 color_;
  std::vector<LineBlock>& lines_;
};

void add_arrows(const Vec3& direction, const Camera& camera, Marker& marker) {
  const float length = 0.22f * (camera.target - camera.eye).norm();
  const auto sides = around(direction);
  const Vec3 offsets[] = {Vec3::zero(), sides[0], -sides[0], sides[1], -sides[1]};
  for (const Vec3& offset : offsets) {
    const Vec3 head = camera.target + offset * (0.3f * length);
    marker.arrow(head - direction * length, head);
  }
}

void add_cone(const Vec3& tip, const Vec3& direction, float angle, float reach, Marker& marker) {
  const auto sides = around(direction);
  const float along = reach * std::cos(angle), across = reach * std::sin(angle);
  const Vec3 center = tip + direction * along;
  marker.circle(center, sides[0], sides[1], across);
  for (const Vec3& side : sides) {
    for (const float sign : {-1.0f, 1.0f}) marker.line(tip, center + side * (sign * across));
  }
  // What bulges beyond the cone's rim: as far as light reaches straight ahead.
  constexpr int steps = 16;
  for (const Vec3& side : sides) {
    Vec3 last = center - side * across;
    for (int i = 1; i <= 2 * steps; ++i) {
      const float at = angle * (static_cast<float>(i) / steps - 1);
      const Vec3 next = tip + (direction * std::cos(at) + side * std::sin(at)) * reach;
      marker.line(last, next);
      last = next;
    }
  }
}

}  // namespace

gl::BlockLayout LineBlock::layout() {
  return gl::describe_block<LineBlock>("Lines", "lines")
      .member("from", &LineBlock::from)
      .member("to", &LineBlock::to)
      .member("aside", &LineBlock::aside)
      .member("color", &LineBlock::color);
}

ReachBlock ReachBlock::of(const Light& light, const Transform& world, float reach) {
  ReachBlock block;
  std::visit(Cases{[](const DirectionalLight&) {},
                   [&](const PointLight& one) {
                     block.position.set_head(one.position);
                     block.direction.w() = std::numbers::pi_v<float>;
                   },
                   [&](const SpotLight& one) {
                     block.position.set_head(one.position);
                     block.direction.set_head(one.direction);
                     block.direction.w() = one.outer_cone;
                   }},
             light.placed(world));
  block.position.w() = reach;
  block.color = marker_color(light);
  return block;
}

gl::BlockLayout ReachBlock::layout() {
  return gl::describe_block<ReachBlock>("Reaches", "reaches")
      .member("position", &ReachBlock::position)
      .member("direction", &ReachBlock::direction)
      .member("color", &ReachBlock::color);
}

void add_marker(const Light& light, const Transform& world, const Camera& camera, float reach, bool circles,
                std::vector<LineBlock>& into) {
  Marker marker(marker_color(light), into);
  const auto ball = [&](const PointLight& one) {
    marker.star(one.position);
    if (!circles) return;
    const Vec3 x = Vec3::unit_x(), y = Vec3::unit_y(), z = Vec3::unit_z();
    marker.circle(one.position, x, y, reach);
    marker.circle(one.position, y, z, reach);
    marker.circle(one.position, z, x, reach);
  };
  const auto cone = [&](const SpotLight& one) {
    marker.star(one.position);
    add_cone(one.position, one.direction, one.outer_cone, reach, marker);
  };
  std::visit(Cases{[&](const DirectionalLight& one) { add_arrows(one.direction, camera, marker); }, ball, cone},
             light.placed(world));
}

void add_part(const draw::ShadowPartBlock& part, std::size_t number, std::vector<LineBlock>& into) {
  if (!(part.texel > 0)) return;
  const Mat4 to_world = part.to_map.inverse();
  std::array<Vec3, 8> corners;
  for (std::size_t i = 0; i < corners.size(); ++i) {
    const float x = static_cast<float>(i & 1), y = static_cast<float>(i >> 1 & 1), depth = static_cast<float>(i >> 2);
    const Vec4 corner = to_world * Vec4(part.tile[0] + x * part.tile[2], part.tile[1] + y * part.tile[3], depth, 1);
    corners[i] = corner.head<3>() / corner.w();
  }
  Marker marker(part_tints[number % part_tints.size()], into);
  for (std::size_t i = 0; i < corners.size(); ++i) {
    for (const std::size_t bit : {1u, 2u, 4u}) {
      if (!(i & bit)) marker.line(corners[i], corners[i | bit]);
    }
  }
}

}  // namespace periscena::passes
