#include "scratch.h"
#include "thrown.h"

#include <periscena/base/file.h>
#include <periscena/scene/environment.h>

#include <cmath>
#include <functional>
#include <random>

using namespace periscena;

namespace {

Environment panorama(int width, const std::function<Vec3(const Vec3& direction)>& sky) {
  Image image(width, width / 2, Format::rgba32f);
  for (int y = 0; y < image.height(); ++y) {
    for (int x = 0; x < width; ++x) {
      const float around = 2 * pi * ((static_cast<float>(x) + 0.5f) / static_cast<float>(width) - 0.5f);
      const float down = pi * (static_cast<float>(y) + 0.5f) / static_cast<float>(image.height());
      const Vec3 light = sky({std::sin(down) * std::sin(around), std::cos(down), -std::sin(down) * std::cos(around)});
      image.set(x, y, {light.x(), light.y(), light.z(), 1});
    }
  }
  return {"sky", {std::make_shared<const Image>(std::move(image))}};
}

std::vector<Vec3> directions(int count) {
  std::mt19937 random(5);
  std::normal_distribution<float> normal;
  std::vector<Vec3> found;
  while (static_cast<int>(found.size()) < count) {
    const Vec3 d(normal(random), normal(random), normal(random));
    if (d.norm() > 0.1f) found.push_back(d.normalized());
  }
  return found;
}

/// A smooth sky with a bright side.
Vec3 bright_side(const Vec3& d) {
  const float toward = std::max(0.0f, d.dot(Vec3(0.6f, 0.5f, -0.6f).normalized()));
  return Vec3(0.2f, 0.3f, 0.6f) + Vec3(4, 3, 2) * toward * toward;
}

}  // namespace

TEST_CASE("a panorama's middle lies along -Z, its upper edge up, and its right to the right") {
  const Environment environment =
      panorama(512, [](const Vec3& d) { return Vec3(d.max(0) + Vec3(0, 0, -d.z()).max(0)); });
  const CubeImage cube = to_cube(environment);
  REQUIRE(cube.size == 128);
  for (const Vec3& d : directions(500)) {
    const Vec3 expected = d.max(0) + Vec3(0, 0, std::max(0.0f, -d.z()));
    REQUIRE((cube.at(d, 0) - expected).norm() < 0.02f);
  }
}

TEST_CASE("cube faces that are given as they are come back as they are") {
  // A colour for each face, and a gradient along s in red, along t in green.
  Environment environment{"six", {}};
  for (int face = 0; face < 6; ++face) {
    Image image(32, 32, Format::rgba32f);
    for (int y = 0; y < 32; ++y) {
      for (int x = 0; x < 32; ++x) image.set(x, y, {x / 32.0, y / 32.0, face * 1.0, 1});
    }
    environment.images.push_back(std::make_shared<const Image>(std::move(image)));
  }
  const CubeImage cube = to_cube(environment);
  REQUIRE(cube.size == 32);
  for (int face = 0; face < 6; ++face) {
    const Vec3 pixel = cube.at(cube_direction(face, (2 * 20 + 1) / 32.0f - 1, (2 * 7 + 1) / 32.0f - 1), 0);
    REQUIRE(pixel.is_near(Vec3(20 / 32.0f, 7 / 32.0f, static_cast<float>(face)), 1e-3f));
  }
  environment.images.pop_back();
  REQUIRE(thrown_slug([&] { to_cube(environment); }) == "bad-environment");
}

TEST_CASE("irradiance from harmonics is brute-force integration within the bound of order 2") {
  const CubeImage cube = to_cube(panorama(256, bright_side));
  const auto coefficients = irradiance_harmonics(cube);
  double largest = 0;
  for (const Vec3& n : directions(40)) {
    DoubleVec3 sum = DoubleVec3::zero();
    double weights = 0;
    for (int face = 0; face < 6; ++face) {
      for (int y = 0; y < cube.size; ++y) {
        for (int x = 0; x < cube.size; ++x) {
          const float s = (2 * static_cast<float>(x) + 1) / static_cast<float>(cube.size) - 1;
          const float t = (2 * static_cast<float>(y) + 1) / static_cast<float>(cube.size) - 1;
          const double w = std::pow(1 + s * s + t * t, -1.5);
          const double cosine = std::max(0.0f, n.dot(cube_direction(face, s, t)));
          sum += w * cosine *
                 cube.levels[0][static_cast<std::size_t>(face)][static_cast<std::size_t>(y * cube.size + x)]
                     .cast<double>();
          weights += w;
        }
      }
    }
    const Vec3 exact = (sum * 4 / weights).cast<float>();
    largest = std::max(largest, static_cast<double>((evaluate_harmonics(coefficients, n) - exact).abs().largest()));
  }
  // A cosine squared has harmonics up to order 2 and, cut off at 0, a fourth-order rest: 1/24 of the lobe's strength is
  // what the missing order 4 of the cosine can pass on at most (Ramamoorthi and Hanrahan: 1 % on average, 9 % at
  // worst).
  REQUIRE(largest < 0.09 * 4);
  REQUIRE(largest < 0.03 * 4);
}

TEST_CASE("a constant sky stays exactly as it is at every roughness, and as irradiance") {
  const Vec3 gray(0.3f, 1.7f, 250.1f);
  const CubeImage cube = to_cube(panorama(64, [&](const Vec3&) { return gray; }));
  const CubeImage filtered = prefilter(cube);
  REQUIRE(static_cast<int>(filtered.levels.size()) == prefiltered_levels);
  for (const auto& level : filtered.levels) {
    for (const auto& face : level) {
      for (const Vec3& pixel : face) REQUIRE(pixel.is_near(gray, 1e-6f));
    }
  }
  for (const Vec3& n : directions(50)) REQUIRE(evaluate_harmonics(irradiance_harmonics(cube), n).is_near(gray, 2e-5f));
}

TEST_CASE("prefiltering widens a bright spot, keeps about its light, and more so the rougher") {
  const Vec3 spot = Vec3(0.2f, 0.9f, 0.3f).normalized();
  const CubeImage filtered = prefilter(
      to_cube(panorama(256, [&](const Vec3& d) { return Vec3::constant(d.dot(spot) > 0.97f ? 100.0f : 0.0f); })));
  float last = filtered.at(spot, 0).x();
  for (int level = 1; level < prefiltered_levels; ++level) {
    const float at_spot = filtered.at(spot, level).x();
    REQUIRE(at_spot < last + 1e-3f);
    last = at_spot;
  }
  REQUIRE(filtered.at(-spot, prefiltered_levels - 1).x() == Approx(0).margin(1e-3));
  REQUIRE(last < 10);
}

TEST_CASE("what was computed is taken from the cache, and a spoilt cache is computed anew") {
  const Scratch scratch("environments");
  const Environment environment = panorama(64, bright_side);
  const EnvironmentLight fresh = light_of(environment, scratch / "cache");
  std::vector<std::filesystem::path> files;
  for (const auto& entry : std::filesystem::directory_iterator(scratch / "cache")) files.push_back(entry.path());
  REQUIRE(files.size() == 1);
  const auto same = [&](const EnvironmentLight& other) {
    return other.irradiance == fresh.irradiance && other.specular.levels == fresh.specular.levels;
  };
  REQUIRE(same(light_of(environment, scratch / "cache")));
  const std::string whole = read_bytes(files[0]);
  std::mt19937 random(1);
  for (int i = 0; i < 60; ++i) {
    std::string spoilt = whole.substr(0, i < 20 ? random() % whole.size() : whole.size());
    if (!spoilt.empty()) spoilt[random() % spoilt.size()] ^= static_cast<char>(1 + random() % 255);
    write_file(files[0], spoilt);
    REQUIRE(same(light_of(environment, scratch / "cache")));
  }
  // Another sky has another place.
  light_of(panorama(64, [](const Vec3&) { return Vec3::ones(); }), scratch / "cache");
  REQUIRE(std::distance(std::filesystem::directory_iterator(scratch / "cache"), {}) == 2);
  // No cache at all is no failure.
  write_file(scratch / "file", "not a folder");
  REQUIRE(same(light_of(environment, scratch / "file")));
}
