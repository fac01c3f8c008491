#include "textures.h"

#include "noise.h"

#include <periscena/image/color.h>

#include <algorithm>
#include <cmath>
#include <functional>

namespace osier_lock {

using namespace periscena;

namespace {

constexpr int size = 512;

/// What a stuff is at a place of its tile: 0..1 across and down.
struct Grain {
  Vec3 color = Vec3::ones();  ///< linear
  float height = 0;           ///< metres
  float roughness = 0.9f;
  float open = 1;  ///< to ambient light
};
using Recipe = std::function<Grain(float u, float v)>;

std::uint8_t to_byte(float value) {
  return static_cast<std::uint8_t>(std::lround(std::clamp(value, 0.0f, 1.0f) * 255));
}

void put(Image& image, int x, int y, const Vec3& rgb) {
  image.set(x, y, {double(to_byte(rgb.x())), double(to_byte(rgb.y())), double(to_byte(rgb.z())), 255});
}

float encoded(float linear) {
  return static_cast<float>(linear_to_srgb(std::clamp(linear, 0.0f, 1.0f)));
}

struct Tile {
  const char* name;
  Vec2 metres;
  bool colored, bumpy;
};

Stuff make(Scene& scene, const Tile& tile, const Recipe& recipe) {
  std::vector<Grain> grains;
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x)
      grains.push_back(recipe((static_cast<float>(x) + 0.5f) / size, (static_cast<float>(y) + 0.5f) / size));
  }
  const auto grain = [&](int x, int y) -> const Grain& {
    return grains[static_cast<std::size_t>((y + size) % size * size + (x + size) % size)];
  };
  Image color(size, size, Format::rgba8_srgb), normal(size, size, Format::rgba8), surface(size, size, Format::rgba8);
  const Vec2 pixel = tile.metres / size;
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) {
      const Grain& here = grain(x, y);
      put(color, x, y, here.color.mapped([](float value) { return encoded(value); }));
      const float slope_right = (grain(x + 1, y).height - grain(x - 1, y).height) / (2 * pixel.x());
      const float slope_up = (grain(x, y - 1).height - grain(x, y + 1).height) / (2 * pixel.y());
      put(normal, x, y, Vec3(-slope_right, -slope_up, 1).normalized() / 2 + Vec3::constant(0.5f));
      put(surface, x, y, {here.open, here.roughness, 0});
    }
  }
  const auto add = [&](const char* part, Image&& image, TextureHolds holds) {
    return scene.add_texture({.name = std::string(tile.name) + part,
                              .image = std::make_shared<const Image>(std::move(image)),
                              .holds = holds,
                              .metres_per_tile = tile.metres});
  };
  Stuff stuff;
  if (tile.colored) stuff.color = add(" color", std::move(color), TextureHolds::color);
  if (tile.bumpy) stuff.normal = add(" normal", std::move(normal), TextureHolds::data);
  // glTF's reader gives images of data back as 8-bit RGBA of no colour space, too.
  stuff.surface = add(" surface", std::move(surface), TextureHolds::data);
  return stuff;
}

float smooth(float from, float to, float value) {
  const float t = std::clamp((value - from) / (to - from), 0.0f, 1.0f);
  return t * t * (3 - 2 * t);
}

/// One of the pieces that lie in courses, each second one shifted by half a piece.
struct Laid {
  int course, number;
  Vec2 inside;  ///< 0..1 in the piece
};

Laid bond(float u, float v, int across, int courses) {
  const float row = v * static_cast<float>(courses);
  const int course = static_cast<int>(row);
  const float along = u * static_cast<float>(across) + (course % 2 ? 0.5f : 0);
  return {course, static_cast<int>(std::floor(along)) % across,
          Vec2(along - std::floor(along), row - static_cast<float>(course))};
}

/// Four bricks by eight courses, in bond.
Grain brick(float u, float v) {
  constexpr int across = 4, courses = 8;
  const auto [course, number, inside] = bond(u, v, across, courses);
  // Metres to the nearest edge.
  const float edge =
      std::min(std::min(inside.x(), 1 - inside.x()) * 0.225f, std::min(inside.y(), 1 - inside.y()) * 0.075f);
  const float ragged = edge + 0.0035f * (layered_noise(u, v, 24, 4) - 0.5f);
  const float body = smooth(0.003f, 0.009f, ragged);
  const float kind = lattice_noise(number * 7 + course * 31, course * 13 + number, 1 << 20);
  const float stain = layered_noise(u, v, 4, 4);
  const Vec3 clay = Vec3(0.26f, 0.092f, 0.056f) * (0.62f + 0.62f * kind) * (0.8f + 0.4f * layered_noise(u, v, 32, 3));
  const Vec3 smoked = Vec3(0.11f, 0.075f, 0.07f) * (0.8f + 0.4f * stain);
  const Vec3 mortar = Vec3(0.30f, 0.27f, 0.225f) * (0.65f + 0.5f * stain);
  Grain grain;
  const Vec3 fired = clay + smooth(0.72f, 0.95f, kind) * (smoked - clay);
  grain.color = mortar + body * (fired - mortar);
  grain.height = 0.006f * body + 0.0022f * layered_noise(u, v, 40, 4);
  grain.roughness = 0.93f - 0.16f * body * kind;
  grain.open = 0.55f + 0.45f * smooth(0.0f, 0.012f, ragged);
  return grain;
}

Grain stone(float u, float v) {
  const float broad = layered_noise(u, v, 3, 5), fine = layered_noise(u, v, 48, 3);
  const float pits = 0.6f * smooth(0.68f, 0.8f, layered_noise(u + 0.37f, v + 0.71f, 30, 2));
  const float lichen = smooth(0.6f, 0.75f, layered_noise(u + 0.11f, v + 0.53f, 5, 5));
  Grain grain;
  grain.color = Vec3(0.86f, 0.83f, 0.77f) * (0.66f + 0.34f * broad) * (0.86f + 0.28f * fine) * (1 - 0.45f * pits);
  grain.color = grain.color + lichen * 0.5f * (Vec3(0.72f, 0.66f, 0.38f) - grain.color);
  grain.height = 0.004f * broad + 0.0018f * fine - 0.004f * pits;
  grain.roughness = 0.82f + 0.15f * broad;
  grain.open = 1 - 0.4f * pits;
  return grain;
}

/// Lime wash over rough plaster.
Grain plaster(float u, float v) {
  const float broad = layered_noise(u, v, 3, 5), fine = layered_noise(u, v, 60, 3);
  Grain grain;
  grain.color = Vec3(1, 0.985f, 0.95f) * (0.84f + 0.16f * broad) * (0.95f + 0.05f * fine);
  grain.height = 0.003f * broad + 0.0012f * fine;
  grain.roughness = 0.93f;
  return grain;
}

/// Boards along u, with grain that winds about knots.
Grain oak(float u, float v) {
  const float warp = 0.06f * (layered_noise(u, v, 3, 3) - 0.5f);
  const float rings = 0.5f + 0.5f * std::sin(2 * pi * (9 * (v + warp) + 0.35f * layered_noise(u, v, 5, 3)) * 2);
  const float fibre = layered_noise(u * 0.25f, v, 64, 3, 8);
  const float crack = smooth(0.7f, 0.82f, layered_noise(u * 0.5f, v + 0.3f, 32, 2, 8));
  Grain grain;
  grain.color = Vec3(1, 0.93f, 0.84f) * (0.55f + 0.3f * rings + 0.25f * fibre) * (1 - 0.6f * crack);
  grain.height = 0.0012f * rings + 0.0016f * fibre - 0.003f * crack;
  grain.roughness = 0.72f + 0.2f * fibre;
  grain.open = 1 - 0.5f * crack;
  return grain;
}

/// Brushed paint on boards: faint strokes, chips, and dirt in the hollows.
Grain paint(float u, float v) {
  const float strokes = layered_noise(u * 0.125f, v, 96, 3, 12), dirt = layered_noise(u, v, 5, 5);
  const float chip = smooth(0.76f, 0.8f, layered_noise(u + 0.6f, v + 0.2f, 14, 4));
  Grain grain;
  grain.color = Vec3::ones() * (0.82f + 0.18f * dirt) * (1 - 0.5f * chip);
  grain.height = 0.00035f * strokes - 0.0008f * chip;
  grain.roughness = 0.32f + 0.2f * strokes + 0.2f * dirt + 0.25f * chip;
  return grain;
}

Grain grass(float u, float v) {
  const float broad = layered_noise(u, v, 4, 4), blades = layered_noise(u, v, 96, 2);
  const float dry = smooth(0.5f, 0.75f, layered_noise(u + 0.4f, v + 0.1f, 7, 4));
  Grain grain;
  grain.color = Vec3(0.8f, 0.95f, 0.62f) * (0.45f + 0.35f * broad + 0.5f * blades * blades);
  grain.color = grain.color + 0.45f * dry * (Vec3(1, 0.86f, 0.5f) * 0.8f - grain.color);
  grain.height = 0.013f * blades + 0.012f * broad;
  grain.roughness = 0.95f;
  grain.open = 0.6f + 0.4f * blades;
  return grain;
}

Grain gravel(float u, float v) {
  const float pebbles = cell_noise(u, v, 40), sand = layered_noise(u, v, 90, 2), broad = layered_noise(u, v, 3, 4);
  Grain grain;
  grain.color = Vec3(0.95f, 0.88f, 0.76f) * (0.5f + 0.28f * pebbles + 0.2f * sand + 0.18f * broad);
  grain.height = 0.0028f * pebbles + 0.001f * sand;
  grain.roughness = 0.9f;
  grain.open = 0.65f + 0.35f * pebbles;
  return grain;
}

/// Overlapping slates in courses.
Grain slate(float u, float v) {
  constexpr int across = 5, courses = 6;
  const auto [course, number, inside] = bond(u, v, across, courses);
  const float x = inside.x(), y = inside.y();
  const float kind = lattice_noise(number * 5 + course * 17, course * 3 + number * 11, 1 << 20);
  const float gap = smooth(0.0f, 0.03f, std::min(x, 1 - x)) * smooth(0.0f, 0.04f, 1 - y);
  Grain grain;
  grain.color = Vec3(0.9f, 0.93f, 1) * (0.5f + 0.4f * kind + 0.2f * layered_noise(u, v, 20, 4)) * (0.25f + 0.75f * gap);
  grain.height = 0.012f * y * gap + 0.001f * layered_noise(u, v, 24, 4);
  grain.roughness = 0.5f + 0.3f * kind;
  grain.open = 0.4f + 0.6f * gap;
  return grain;
}

/// How rough metal is in places: scratches, fingerprints, stains that water left. Mid grey and up.
Grain wear(float u, float v) {
  const float stain = smooth(0.45f, 0.62f, layered_noise(u, v, 4, 5));
  const float rim = std::exp(-std::abs(layered_noise(u, v, 4, 5) - 0.5f) * 60);
  const float scratch = smooth(0.8f, 0.9f, layered_noise(u * 0.06f + 0.3f, v, 200, 2, 12));
  Grain grain;
  // The reader of this map takes its red.
  grain.open = 0.5f + 0.28f * stain + 0.2f * rim + 0.3f * scratch;
  grain.roughness = grain.open;
  return grain;
}

}  // namespace

std::map<std::string, Stuff> add_textures(Scene& scene) {
  return {{"brick", make(scene, {"brick", {0.9f, 0.6f}, true, true}, brick)},
          {"stone", make(scene, {"stone", {1.4f, 1.4f}, true, true}, stone)},
          {"plaster", make(scene, {"plaster", {2.2f, 2.2f}, true, true}, plaster)},
          {"oak", make(scene, {"oak", {1.1f, 0.55f}, true, true}, oak)},
          {"paint", make(scene, {"paint", {1.2f, 1.2f}, true, true}, paint)},
          {"grass", make(scene, {"grass", {2.6f, 2.6f}, true, true}, grass)},
          {"gravel", make(scene, {"gravel", {1.1f, 1.1f}, true, true}, gravel)},
          {"slate", make(scene, {"slate", {1.5f, 1.2f}, true, true}, slate)},
          {"wear", make(scene, {"wear", {0.8f, 0.8f}, false, false}, wear)}};
}

}  // namespace osier_lock
