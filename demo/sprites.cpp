#include "sprites.h"

#include <periscena/image/color.h>
#include <periscena/math/transform.h>

#include <fmt/format.h>

#include <cmath>
#include <functional>

using namespace periscena;

namespace {

/// Linear colour, multiplied with alpha.
struct Ink {
  Vec3 color = Vec3::zero();
  float alpha = 0;

  void lay(const Vec3& more, float cover) {
    color = color * (1 - cover) + more * cover;
    alpha = alpha * (1 - cover) + cover;
  }
};

/// Draws a picture from what is at each point, four times four points a pixel.
Image draw(int width, int height, const std::function<Ink(Vec2)>& at) {
  constexpr int grid = 4;
  Image image(width, height, Format::rgba8_srgb);
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      Ink sum;
      for (int i = 0; i < grid * grid; ++i) {
        const Vec2 point(static_cast<float>(x) + (static_cast<float>(i % grid) + 0.5f) / grid,
                         static_cast<float>(y) + (static_cast<float>(i / grid) + 0.5f) / grid);
        const Ink ink = at(point);
        sum.color += ink.color / (grid * grid);
        sum.alpha += ink.alpha / (grid * grid);
      }
      const Vec3 plain = sum.alpha > 0 ? Vec3(sum.color / sum.alpha) : Vec3::zero();
      std::array<double, 4> pixel{0, 0, 0, std::round(255.0 * static_cast<double>(sum.alpha))};
      for (int k = 0; k < 3; ++k)
        pixel[static_cast<std::size_t>(k)] = std::round(255 * linear_to_srgb(static_cast<double>(plain[k])));
      image.set(x, y, pixel);
    }
  }
  return image;
}

/// Less than 1 inside of an ellipse that is turned.
float ellipse(const Vec2& point, const Vec2& middle, const Vec2& radii, float degrees) {
  const float c = std::cos(radians(degrees)), s = std::sin(radians(degrees));
  const Vec2 from = point - middle;
  return Vec2((c * from.x() + s * from.y()) / radii.x(), (c * from.y() - s * from.x()) / radii.y()).squared_norm();
}

Ink dragonfly(const Vec2& at, float spread) {
  const Vec3 glass(0.55f, 0.72f, 0.8f), vein(0.12f, 0.16f, 0.2f), teal(0.02f, 0.22f, 0.24f), shine(0.25f, 0.75f, 0.6f);
  Ink ink;
  for (const float side : {-1.0f, 1.0f}) {
    for (const float pair : {0.0f, 1.0f}) {  // hind wings, then fore wings
      const float angle = side * (pair > 0 ? 62 + spread : 104 - spread), length = pair > 0 ? 23 : 20.5f;
      const Vec2 root(60 + 6 * pair, 48);
      const Vec2 way(std::cos(radians(angle)), std::sin(radians(angle)));
      const float wing = ellipse(at, root + way * length * 0.98f, {length, pair > 0 ? 5.2f : 6.4f}, angle);
      if (wing < 1) ink.lay(wing > 0.8f ? vein : glass, wing > 0.8f ? 0.6f : 0.42f);
      // The dark spot near each tip.
      if (ellipse(at, root + way * length * 1.7f, {3, 1.6f}, angle) < 1) ink.lay(vein, 0.9f);
    }
  }
  const float tail = (at.x() - 10) / 48;
  if (tail > 0 && tail < 1) {
    const float half = 1.5f + 0.7f * std::sin(3.1f * tail), off = std::abs(at.y() - 48);
    if (off < half) ink.lay(std::fmod(at.x(), 6.0f) < 1 ? vein : off < half * 0.4f ? shine : teal, 1);
  }
  const float thorax = ellipse(at, {64, 48}, {9, 4.6f}, 0);
  if (thorax < 1) ink.lay(thorax < 0.25f ? shine : teal, 1);
  for (const float side : {-1.0f, 1.0f}) {
    const float eye = ellipse(at, {75, 48 + side * 2.4f}, {3.2f, 2.9f}, 0);
    if (eye < 1) ink.lay(eye < 0.2f ? Vec3(0.8f, 0.6f, 0.35f) : Vec3(0.28f, 0.07f, 0.03f), 1);
  }
  return ink;
}

Ink leaf(const Vec2& at, const Vec3& color, float bend) {
  const float along = (at.y() - 3) / 58;
  Ink ink;
  if (along <= 0 || along >= 1) return ink;
  const float middle = 16 + bend * std::sin(3.14f * along), half = 5.5f * std::sin(3.14f * std::pow(along, 0.8f)),
              off = at.x() - middle;
  if (std::abs(off) < half)
    ink.lay(std::abs(off) < 0.6f ? Vec3(1.6f * color) : off > 0 ? color : Vec3(0.75f * color), 1);
  return ink;
}

Ink down(const Vec2& at) {
  Ink ink;
  const Vec2 from = at - Vec2(32, 36);
  for (int i = 0; i < 34; ++i) {
    const auto k = static_cast<float>(i);
    // Angles by the golden ratio, so that no two hairs lie on each other.
    const float angle = 2.39996f * k, length = 19 + 10 * std::sin(7.1f * k), bend = 0.25f * std::sin(5.3f * k);
    const Vec2 way(std::cos(angle), std::sin(angle));
    const float along = from.dot(way) / length,
                off = from.y() * way.x() - from.x() * way.y() - bend * along * along * length;
    if (along > 0 && along < 1 && std::abs(off) < 0.6f) ink.lay(Vec3(0.95f, 0.93f, 0.88f), 0.75f * (1 - along));
  }
  ink.lay(Vec3(0.9f, 0.88f, 0.8f), 0.5f * std::exp(-from.squared_norm() / 60));
  if (ellipse(at, {32, 37}, {1.6f, 3.2f}, 8) < 1) ink.lay(Vec3(0.16f, 0.11f, 0.05f), 1);
  return ink;
}

}  // namespace

Image willow_down() {
  return draw(64, 64, down);
}

SpriteSheet dragonfly_sheet() {
  std::vector<LoosePicture> pictures;
  for (int i = 0; i < 4; ++i) {
    const float spread = 16 * std::sin(radians(90.0f * static_cast<float>(i)));
    pictures.push_back(
        {fmt::format("wings {}", i), draw(192, 192, [&](const Vec2& at) { return dragonfly(at / 2, spread); })});
  }
  return pack_sheet("dragonfly", pictures);
}

SpriteSheet leaf_sheet() {
  const Vec3 colors[] = {{0.11f, 0.2f, 0.04f}, {0.3f, 0.26f, 0.04f}, {0.34f, 0.14f, 0.03f}};
  std::vector<LoosePicture> pictures;
  for (int i = 0; i < 3; ++i) {
    const float bend = 3.0f * static_cast<float>(i - 1);
    pictures.push_back(
        {fmt::format("leaf {}", i), draw(64, 128, [&](const Vec2& at) { return leaf(at / 2, colors[i], bend); })});
  }
  return pack_sheet("leaves", pictures);
}
