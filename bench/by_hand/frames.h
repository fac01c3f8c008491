#pragma once

#include <cmath>
#include <cstdint>
#include <vector>

/// What the pictures show that both sides draw: numbers alone, which each side takes in its own way.
namespace frames {

inline constexpr float pi = 3.14159265f;

/// As good as random, 0..1, the same everywhere. @param salt  of what
inline float share(std::uint32_t i, std::uint32_t salt) {
  std::uint32_t x = i * 747796405u + salt * 2891336453u + 1u;
  x = ((x >> ((x >> 28u) + 4u)) ^ x) * 277803737u;
  return static_cast<float>(((x >> 22u) ^ x) >> 8u) / 16777216.0f;
}

struct Corner {
  float position[3], normal[3], tangent[3], uv[2];
};

struct Shape {
  std::vector<Corner> corners;
  std::vector<std::uint32_t> indices;
};

/// A tube that winds about a ring three times while it goes round it twice, and twice round a slab's worth of texture.
inline Shape knot(int along, int around) {
  Shape shape;
  const auto middle = [](float t, float(&p)[3]) {
    const float r = 0.62f + 0.24f * std::cos(3 * t);
    p[0] = r * std::cos(2 * t);
    p[1] = 0.24f * std::sin(3 * t);
    p[2] = r * std::sin(2 * t);
  };
  const auto cross = [](const float(&a)[3], const float(&b)[3], float(&out)[3]) {
    for (int i = 0; i < 3; ++i) out[i] = a[(i + 1) % 3] * b[(i + 2) % 3] - a[(i + 2) % 3] * b[(i + 1) % 3];
    const float length = std::sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2]);
    for (float& one : out) one /= length;
  };
  for (int i = 0; i <= along; ++i) {
    const float t = 2 * pi * static_cast<float>(i) / static_cast<float>(along);
    float here[3], before[3], after[3], way[3], side[3], up[3];
    middle(t, here);
    middle(t - 1e-2f, before);
    middle(t + 1e-2f, after);
    float length = 0;
    for (int k = 0; k < 3; ++k) way[k] = after[k] - before[k], length += way[k] * way[k];
    for (float& one : way) one /= std::sqrt(length);
    const float y[3] = {0, 1, 0};
    cross(way, y, side);
    cross(side, way, up);
    for (int k = 0; k <= around; ++k) {
      const float a = 2 * pi * static_cast<float>(k) / static_cast<float>(around);
      Corner corner{};
      for (int c = 0; c < 3; ++c) {
        corner.normal[c] = std::cos(a) * side[c] + std::sin(a) * up[c];
        corner.position[c] = here[c] + 0.16f * corner.normal[c];
        corner.tangent[c] = way[c];
      }
      corner.uv[0] = 16 * static_cast<float>(i) / static_cast<float>(along);
      corner.uv[1] = 2 * static_cast<float>(k) / static_cast<float>(around);
      shape.corners.push_back(corner);
    }
  }
  const auto row = static_cast<std::uint32_t>(around + 1);
  for (std::uint32_t i = 0; i < static_cast<std::uint32_t>(along); ++i) {
    for (std::uint32_t k = 0; k < static_cast<std::uint32_t>(around); ++k) {
      const std::uint32_t a = i * row + k, b = a + row;
      for (const std::uint32_t corner : {a, b, a + 1, a + 1, b, b + 1}) shape.indices.push_back(corner);
    }
  }
  return shape;
}

/// A square on the ground, its texture repeated for each metre.
inline Shape ground(float half) {
  Shape shape;
  for (int i = 0; i < 4; ++i) {
    const float x = i % 2 ? half : -half, z = i / 2 ? half : -half;
    shape.corners.push_back({{x, 0, z}, {0, 1, 0}, {1, 0, 0}, {x, z}});
  }
  shape.indices = {0, 2, 1, 1, 2, 3};
  return shape;
}

/// An edge is 1 long.
inline Shape cube() {
  Shape shape;
  for (int face = 0; face < 6; ++face) {
    const int axis = face / 2;
    const float side = face % 2 ? 1.0f : -1.0f;
    const auto first = static_cast<std::uint32_t>(shape.corners.size());
    for (int i = 0; i < 4; ++i) {
      Corner corner{};
      const float u = i % 2 ? 1.0f : -1.0f, v = i / 2 ? 1.0f : -1.0f;
      corner.normal[axis] = side;
      corner.tangent[(axis + 1) % 3] = 1;
      corner.position[axis] = 0.5f * side;
      corner.position[(axis + 1) % 3] = 0.5f * u;
      corner.position[(axis + 2) % 3] = 0.5f * v * side;
      corner.uv[0] = 0.5f + 0.5f * u;
      corner.uv[1] = 0.5f + 0.5f * v;
      shape.corners.push_back(corner);
    }
    for (const std::uint32_t corner : {0u, 1u, 2u, 2u, 1u, 3u}) shape.indices.push_back(first + corner);
  }
  return shape;
}

// B: a knot on paving.

inline constexpr int texture_size = 512;

/// Paving, sRGB with alpha, the upper row first.
inline std::vector<std::uint8_t> paving() {
  std::vector<std::uint8_t> bytes;
  for (int y = 0; y < texture_size; ++y) {
    for (int x = 0; x < texture_size; ++x) {
      const int row = y / 64, column = (x + (row % 2) * 64) % texture_size / 128;
      const bool joint = y % 64 < 5 || (x + (row % 2) * 64) % 128 < 5;
      const float tone = joint ? 0.35f
                               : 0.55f + 0.25f * share(static_cast<std::uint32_t>(8 * row + column), 3) +
                                     0.06f * share(static_cast<std::uint32_t>(y * texture_size + x), 4);
      for (const float tint : {1.0f, 0.86f, 0.7f}) bytes.push_back(static_cast<std::uint8_t>(255 * tone * tint));
      bytes.push_back(255);
    }
  }
  return bytes;
}

inline constexpr int sky_width = 256, sky_height = 128;

/// A clear evening, linear nits, three floats a pixel, the upper row first.
inline std::vector<float> sky() {
  std::vector<float> light;
  for (int y = 0; y < sky_height; ++y) {
    const float up = std::cos(pi * (static_cast<float>(y) + 0.5f) / sky_height);
    const float low = std::exp(-6 * std::abs(up)), below = up < 0 ? 0.3f : 1.0f;
    for (int x = 0; x < sky_width; ++x) {
      const float glow = 0.5f + 0.5f * std::cos(2 * pi * (static_cast<float>(x) + 0.5f) / sky_width);
      for (const float tint : {0.9f, 0.6f, 0.45f})
        light.push_back(below * (0.25f * (1.4f - tint) + 1.2f * low * tint * (0.4f + 0.6f * glow)));
    }
  }
  return light;
}

struct Pose {
  float eye[3], target[3], fov_degrees;
};
inline constexpr Pose model_pose{{0.3f, 1.5f, 2.6f}, {0, 0.42f, 0}, 45};
inline constexpr float sun_way[3] = {-0.55f, -0.75f, -0.4f}, sun_lux = 6;
inline constexpr float sun_color[3] = {1, 0.85f, 0.65f};
inline constexpr float sky_nits[3] = {0.3f, 0.36f, 0.45f}, ground_nits[3] = {0.16f, 0.13f, 0.1f};
inline constexpr float knot_height = 0.55f, knot_roughness = 0.45f, paving_roughness = 0.85f, knot_period = 12;
inline constexpr float model_ev100 = 0.5f;

// C: a hall of pillars, and lamps between them.

inline constexpr Pose hall_pose{{0, 5.5f, 15}, {0, 0.5f, 0}, 50};
inline constexpr float hall_half = 20, hall_ev100 = -1;
inline constexpr int pillars_across = 12, lamp_count = 64;

struct Pillar {
  float at[3], size[3], color[3], roughness;
};
inline Pillar pillar(int i) {
  const auto n = static_cast<std::uint32_t>(i);
  const float height = 0.6f + 2.2f * share(n, 11);
  return {{2.6f * (static_cast<float>(i % pillars_across) - 5.5f), height / 2,
           2.6f * (static_cast<float>(i / pillars_across) - 5.5f)},
          {0.5f + 0.5f * share(n, 12), height, 0.5f + 0.5f * share(n, 13)},
          {0.3f + 0.5f * share(n, 14), 0.3f + 0.4f * share(n, 15), 0.25f + 0.4f * share(n, 16)},
          0.3f + 0.6f * share(n, 17)};
}
inline constexpr float floor_color[3] = {0.4f, 0.38f, 0.35f}, floor_roughness = 0.7f;

struct Lamp {
  float at[3], color[3], candela, range;
};
inline Lamp lamp(int i) {
  const auto n = static_cast<std::uint32_t>(i);
  return {{30 * (share(n, 21) - 0.5f), 0.5f + 1.6f * share(n, 22), 30 * (share(n, 23) - 0.5f)},
          {0.5f + 0.5f * share(n, 24), 0.4f + 0.4f * share(n, 25), 0.3f + 0.6f * share(n, 26)},
          4 + 6 * share(n, 27),
          4 + 2 * share(n, 28)};
}

// D: a field of cubes, each of which turns.

inline constexpr int cube_count = 20000, cubes_across = 200;
inline constexpr Pose field_pose{{0, 42, 78}, {0, 0, 6}, 50};

struct Cube {
  float at[3], edge, period, phase;
  int material;
};
inline Cube cube(int i) {
  const auto n = static_cast<std::uint32_t>(i);
  return {
      {static_cast<float>(i % cubes_across) - 99.5f, 2 * share(n, 31), static_cast<float>(i / cubes_across) - 49.5f},
      0.4f + 0.3f * share(n, 32),
      2 + 3 * share(n, 33),
      share(n, 34),
      static_cast<int>(n * 2654435761u >> 16u) % 5};
}
struct CubeMaterial {
  float color[3], metallic, roughness;
};
inline constexpr CubeMaterial cube_materials[5] = {{{0.7f, 0.25f, 0.2f}, 0, 0.6f},
                                                   {{0.25f, 0.5f, 0.65f}, 0, 0.35f},
                                                   {{0.8f, 0.65f, 0.3f}, 1, 0.4f},
                                                   {{0.35f, 0.55f, 0.3f}, 0, 0.9f},
                                                   {{0.75f, 0.75f, 0.72f}, 1, 0.25f}};
inline constexpr float field_way[3] = {0.4f, -1, -0.35f}, field_lux = 3;

// E: bloom over a picture of lamps at night, whose light has a wide range.

/// Linear nits with alpha, four floats a pixel, the upper row first.
inline std::vector<float> lamps(int width, int height) {
  std::vector<float> light;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const float u = (static_cast<float>(x) + 0.5f) / 64, v = (static_cast<float>(y) + 0.5f) / 64;
      const float column = std::floor(u), row = std::floor(v), across = u - column - 0.5f, down = v - row - 0.5f;
      const bool in_lamp = across * across + down * down < 0.02f;
      const float bright = std::exp2(std::fmod(column * 3 + row * 5, 9.0f)), dark = 0.5f + v / 12;
      const float lamp[3] = {bright, bright * (0.7f + 0.05f * std::fmod(column, 5.0f)), bright * 0.5f};
      const float night[3] = {0.02f * dark, 0.03f * dark, 0.05f * dark};
      for (int i = 0; i < 3; ++i) light.push_back(in_lamp ? lamp[i] : night[i]);
      light.push_back(1);
    }
  }
  return light;
}
inline constexpr float bloom_strength = 0.15f, bloom_radius = 0.12f, bloom_spread = 0.8f, bloom_ev100 = 1;

}  // namespace frames
