#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace osier_lock {

/// A number of 0..1 for each point of a lattice that repeats after `period` points.
inline float lattice_noise(int x, int y, int period) {
  const auto wrap = [&](int value) { return static_cast<std::uint32_t>((value % period + period) % period); };
  std::uint32_t h = wrap(x) * 0x9E3779B1u ^ wrap(y) * 0x85EBCA77u ^ static_cast<std::uint32_t>(period) * 0xC2B2AE3Du;
  h ^= h >> 15;
  h *= 0x2C1B3C6Du;
  h ^= h >> 12;
  h *= 0x297A2D39u;
  h ^= h >> 15;
  return static_cast<float>(h >> 8) / static_cast<float>(1 << 24);
}

/// Smooth between the points of a lattice with `period` points over the unit square; it tiles.
/// @param period_x  another number of points across; 0: the same
inline float value_noise(float u, float v, int period, int period_x = 0) {
  if (period_x == 0) period_x = period;
  const float x = u * static_cast<float>(period_x), y = v * static_cast<float>(period);
  const float left = std::floor(x), top = std::floor(y);
  float fx = x - left, fy = y - top;
  fx = fx * fx * (3 - 2 * fx);
  fy = fy * fy * (3 - 2 * fy);
  const auto at = [&](int dx, int dy) {
    const int column = ((static_cast<int>(left) + dx) % period_x + period_x) % period_x;
    return lattice_noise(column, static_cast<int>(top) + dy, period);
  };
  const float upper = at(0, 0) + fx * (at(1, 0) - at(0, 0)), lower = at(0, 1) + fx * (at(1, 1) - at(0, 1));
  return upper + fy * (lower - upper);
}

/// Several octaves of it, 0..1.
inline float layered_noise(float u, float v, int period, int octaves, int period_x = 0) {
  float sum = 0, weight = 0.5f, total = 0;
  for (int i = 0; i < octaves; ++i) {
    sum += weight * value_noise(u + 0.173f * static_cast<float>(i), v + 0.311f * static_cast<float>(i), period << i,
                                period_x << i);
    total += weight;
    weight *= 0.55f;
  }
  return sum / total;
}

/// Rounded cells: 1 in their middles, 0 at their borders; it tiles.
inline float cell_noise(float u, float v, int period) {
  const float x = u * static_cast<float>(period), y = v * static_cast<float>(period);
  const int column = static_cast<int>(std::floor(x)), row = static_cast<int>(std::floor(y));
  float nearest = 9, second = 9;
  for (int dy = -1; dy <= 1; ++dy) {
    for (int dx = -1; dx <= 1; ++dx) {
      const float px = static_cast<float>(column + dx) + lattice_noise(column + dx, row + dy, period);
      const float py = static_cast<float>(row + dy) + lattice_noise(row + dy + 57, column + dx + 19, period);
      const float distance = std::hypot(px - x, py - y);
      second = std::min(second, std::max(distance, nearest));
      nearest = std::min(nearest, distance);
    }
  }
  return std::clamp((second - nearest) * 1.6f, 0.0f, 1.0f);
}

}  // namespace osier_lock
