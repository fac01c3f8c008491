#include "skies.h"

#include "noise.h"

#include <periscena/math/vector.h>

#include <algorithm>
#include <cmath>
#include <functional>

namespace osier_lock {

using namespace periscena;

namespace {

constexpr int width = 1024, height = 512;

const Vec3 to_dusk_sun = Vec3(-0.8f, 0.34f, 0.5f).normalized();
const Vec3 to_day_sun = Vec3(-0.5f, 0.8f, 0.45f).normalized();
const Vec3 to_moon = Vec3(0.35f, 0.55f, 0.6f).normalized();

Image paint(const std::function<Vec3(const Vec3& direction)>& sky) {
  Image image(width, height, Format::rgba32f);
  for (int y = 0; y < height; ++y) {
    const float down = pi * (static_cast<float>(y) + 0.5f) / height;
    for (int x = 0; x < width; ++x) {
      const float around = 2 * pi * ((static_cast<float>(x) + 0.5f) / width - 0.5f);
      const Vec3 light = sky({std::sin(down) * std::sin(around), std::cos(down), -std::sin(down) * std::cos(around)});
      image.set(x, y, {light.x(), light.y(), light.z(), 1});
    }
  }
  return image;
}

float smooth(float from, float to, float value) {
  const float t = std::clamp((value - from) / (to - from), 0.0f, 1.0f);
  return t * t * (3 - 2 * t);
}

Vec3 mix(const Vec3& a, const Vec3& b, float share) {
  return a + share * (b - a);
}

/// Clouds on a flat layer overhead; 0..1.
float clouds(const Vec3& d, float scale, float from, float to) {
  if (d.y() <= 0.01f) return 0;
  const float x = d.x() / (d.y() + 0.14f) * scale, z = d.z() / (d.y() + 0.14f) * scale;
  return smooth(from, to, layered_noise(x * 0.02f, z * 0.05f, 64, 5)) * smooth(0.01f, 0.14f, d.y());
}

/// What is below the horizon sends back some of the sky: grass and stone.
Vec3 with_ground(const Vec3& d, const Vec3& sky, const Vec3& ground) {
  return mix(sky, ground, smooth(0.0f, -0.06f, d.y()));
}

}  // namespace

Image dusk_sky() {
  return paint([](const Vec3& d) {
    const float up = std::max(d.y(), 0.0f), toward = std::max(d.dot(to_dusk_sun), 0.0f);
    const Vec3 zenith(90, 170, 460), middle(430, 420, 700), horizon(1900, 980, 560);
    Vec3 sky = mix(mix(horizon, middle, smooth(0, 0.16f, up)), zenith, smooth(0.1f, 0.62f, up));
    sky *= 0.75f + 0.55f * toward * toward * toward;
    sky += Vec3(5200, 2300, 700) * std::pow(toward, 26.0f);
    const Vec3 lit = mix(Vec3(980, 660, 720), Vec3(3300, 1650, 820), 0.25f + 0.75f * toward * toward);
    sky = mix(sky, lit, 0.62f * clouds(d, 1.4f, 0.45f, 0.8f));
    return with_ground(d, sky, Vec3(150, 120, 80));
  });
}

Image day_sky() {
  return paint([](const Vec3& d) {
    const float up = std::max(d.y(), 0.0f), toward = std::max(d.dot(to_day_sun), 0.0f);
    const Vec3 zenith(700, 1750, 5200), horizon(4600, 6000, 8000);
    Vec3 sky = mix(horizon, zenith, std::pow(smooth(0, 0.9f, up), 0.55f));
    sky += Vec3(9000, 8200, 6800) * (0.35f * std::pow(toward, 9.0f) + std::pow(toward, 90.0f));
    sky = mix(sky, Vec3(10500, 10300, 10000) * (0.75f + 0.4f * toward), 0.85f * clouds(d, 1.0f, 0.5f, 0.72f));
    return with_ground(d, sky, Vec3(1100, 1250, 700));
  });
}

Image night_sky() {
  return paint([](const Vec3& d) {
    const float up = std::max(d.y(), 0.0f), toward = std::max(d.dot(to_moon), 0.0f);
    const Vec3 zenith(0.07f, 0.12f, 0.30f), horizon(0.36f, 0.42f, 0.62f);
    Vec3 sky = mix(horizon, zenith, smooth(0, 0.5f, up));
    sky += Vec3(0.9f, 1.0f, 1.25f) * (0.4f * std::pow(toward, 6.0f) + 2.2f * std::pow(toward, 60.0f));
    const float cloud = clouds(d, 1.2f, 0.48f, 0.8f);
    sky = mix(sky, Vec3(0.34f, 0.38f, 0.5f) * (0.5f + 2 * toward * toward), 0.7f * cloud);
    return with_ground(d, sky, Vec3(0.05f, 0.055f, 0.06f));
  });
}

}  // namespace osier_lock
