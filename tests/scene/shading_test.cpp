#include "thrown.h"

#include <periscena/scene/scene.h>
#include <periscena/scene/shading.h>

#include <cmath>
#include <map>
#include <random>

using namespace periscena;

namespace {

/// Directions evenly over the hemisphere about +Z, with the cosine as weight: the mean of f · π is its integral.
struct CosineDirections {
  std::mt19937 random{17};
  std::uniform_real_distribution<float> unit{0, 1};

  Vec3 next() {
    const float square = unit(random), around = 2 * pi * unit(random);
    const float radius = std::sqrt(square);
    return {radius * std::cos(around), radius * std::sin(around), std::sqrt(std::max(1e-9f, 1 - square))};
  }
};

Vec3 towards(float degrees_from_normal, float around_degrees = 0) {
  const float a = radians(degrees_from_normal), b = radians(around_degrees);
  return {std::sin(a) * std::cos(b), std::sin(a) * std::sin(b), std::cos(a)};
}

/// Share of a white sky that comes back towards the eye, by plain integration over a fine grid of half vectors.
double reflected_share(const Surface& surface, const Vec3& to_eye) {
  double sum = 0;
  constexpr int rings = 800, spokes = 400;
  for (int i = 0; i < rings; ++i) {
    // Fine near the normal, where the lobe of a smooth surface is.
    const double t = (i + 0.5) / rings, angle = t * t * std::numbers::pi / 2;
    const double width = 2 * t / rings * std::numbers::pi / 2;
    for (int k = 0; k < spokes; ++k) {
      const double around = 2 * std::numbers::pi * (k + 0.5) / spokes;
      const Vec3 half(static_cast<float>(std::sin(angle) * std::cos(around)),
                      static_cast<float>(std::sin(angle) * std::sin(around)), static_cast<float>(std::cos(angle)));
      const Vec3 to_light = 2 * to_eye.dot(half) * half - to_eye;
      if (to_light.z() <= 0 || to_eye.dot(half) <= 0) continue;
      // Solid angle of the light is 4 v·h times that of the half vector.
      const double solid = std::sin(angle) * width * 2 * std::numbers::pi / spokes * 4 * to_eye.dot(half);
      sum += metallic_roughness_brdf(surface, to_light, to_eye).x() * to_light.z() * solid;
    }
  }
  return sum;
}

}  // namespace

TEST_CASE("reflectance is reciprocal: light and eye may change places") {
  std::mt19937 random(3);
  std::uniform_real_distribution<float> unit(0, 1);
  for (int i = 0; i < 2000; ++i) {
    Surface surface;
    surface.base_color = {unit(random), unit(random), unit(random)};
    surface.metallic = unit(random);
    surface.roughness = unit(random);
    surface.shininess = 1 + 100 * unit(random);
    const Vec3 a = towards(89 * unit(random), 360 * unit(random)), b = towards(89 * unit(random), 360 * unit(random));
    REQUIRE(metallic_roughness_brdf(surface, a, b).is_near(metallic_roughness_brdf(surface, b, a), 1e-3f));
    REQUIRE(blinn_phong_brdf(surface, a, b).is_near(blinn_phong_brdf(surface, b, a), 1e-4f));
  }
}

TEST_CASE("in a white furnace a white metal loses only what single scattering loses") {
  // Heitz, "Understanding the Masking-Shadowing Function", JCGT 3(2), 2014: what Smith's masking hides is lost. Smooth
  // metals lose nothing; fully rough ones most: seen head on, 1 − ln 2 comes back, the integral of the appendix' terms
  // for α = 1.
  Surface white;
  white.base_color = Vec3::ones();
  white.metallic = 1;
  const std::map<float, double> least{{0.1f, 0.98}, {0.3f, 0.93}, {0.6f, 0.7}, {1.0f, 0.3}};
  for (const auto& [roughness, share] : least) {
    white.roughness = roughness;
    for (const float angle : {5.0f, 45.0f, 75.0f}) {
      INFO("roughness " << roughness << " at " << angle);
      REQUIRE(reflected_share(white, towards(angle)) < 1.002);
      REQUIRE(reflected_share(white, towards(angle)) > share);
    }
  }
  white.roughness = 1;
  REQUIRE(reflected_share(white, towards(0)) == Approx(1 - std::numbers::ln2).margin(1e-3));
}

TEST_CASE("a white dielectric's diffuse part sends back what Fresnel lets in, and little is lost") {
  Surface white, black;
  white.base_color = Vec3::ones();
  black.base_color = Vec3::zero();
  for (const float roughness : {0.1f, 0.5f, 1.0f}) {
    white.roughness = black.roughness = roughness;
    CosineDirections directions;
    for (const float angle : {5.0f, 45.0f, 75.0f}) {
      double diffuse = 0;
      constexpr int count = 200000;
      for (int i = 0; i < count; ++i) {
        const Vec3 light = directions.next();
        const Vec3 eye = towards(angle);
        diffuse +=
            (metallic_roughness_brdf(white, light, eye) - metallic_roughness_brdf(black, light, eye)).x() * pi / count;
      }
      INFO("roughness " << roughness << " at " << angle);
      // The appendix takes Fresnel at the half vector: f0 + (1 − f0)(1 − v·h)^5, at most 0.04 + 0.96 · 0.25 on average.
      REQUIRE(diffuse < 0.961);
      REQUIRE(diffuse > 0.78);
      REQUIRE(diffuse + reflected_share(black, towards(angle)) > 0.88);
    }
  }
}

TEST_CASE("Blinn and Phong's highlight sends back its specular share when seen head on, and never much more") {
  Surface surface;
  surface.base_color = Vec3::zero();
  surface.specular = Vec3::constant(0.6f);
  for (const float shininess : {8.0f, 64.0f}) {
    surface.shininess = shininess;
    CosineDirections directions;
    double sum = 0;
    constexpr int count = 400000;
    for (int i = 0; i < count; ++i)
      sum += blinn_phong_brdf(surface, directions.next(), Vec3::unit_z()).x() * pi / count;
    // The normalisation is an approximation from above (Real-Time Rendering, 7.6).
    REQUIRE(sum == Approx(0.6).epsilon(0.08));
  }
}

TEST_CASE("the split sum's table is what integration gives for a white and for a black f0") {
  constexpr int size = 16;
  const std::vector<Vec2> table = split_sum_table(size);
  Surface metal;
  metal.metallic = 1;
  for (const int y : {3, 8, 15}) {
    for (const int x : {2, 8, 15}) {
      metal.roughness = (static_cast<float>(y) + 0.5f) / size;
      const float n_dot_v = (static_cast<float>(x) + 0.5f) / size;
      const Vec3 to_eye(std::sqrt(1 - n_dot_v * n_dot_v), 0, n_dot_v);
      const Vec2 split = table[static_cast<std::size_t>(y * size + x)];
      INFO("roughness " << metal.roughness << ", cosine " << n_dot_v);
      metal.base_color = Vec3::ones();
      REQUIRE(split.x() + split.y() == Approx(reflected_share(metal, to_eye)).margin(0.006));
      metal.base_color = Vec3::zero();
      REQUIRE(split.y() == Approx(reflected_share(metal, to_eye)).margin(0.006));
    }
  }
}

TEST_CASE("light falls with the inverse square, and is gone at its range") {
  constexpr float inf = std::numeric_limits<float>::infinity();
  for (const float d : {0.1f, 1.0f, 3.0f, 50.0f}) REQUIRE(light_falloff(d, inf) == Approx(1 / (d * d)));
  REQUIRE(light_falloff(2, 10) == Approx((1 - std::pow(0.2, 4)) / 4));
  REQUIRE(light_falloff(10, 10) == 0);
  REQUIRE(light_falloff(11, 10) == 0);
  const float inner = radians(20), outer = radians(40);
  REQUIRE(spot_falloff(std::cos(radians(10)), inner, outer) == 1);
  REQUIRE(spot_falloff(std::cos(radians(41)), inner, outer) == 0);
  const double middle = (std::cos(radians(30)) - std::cos(outer)) / (std::cos(inner) - std::cos(outer));
  REQUIRE(spot_falloff(std::cos(radians(30)), inner, outer) == Approx(middle * middle));
}

TEST_CASE("fog lets through what its formula says, with height, what the integral along the way says") {
  Fog fog;
  fog.kind = Fog::Kind::linear;
  fog.start = 10;
  fog.end = 30;
  const Vec3 eye(1, 2, 3);
  const auto through = [&](float distance) { return fog.transmittance(eye, eye + Vec3(0, 0, -distance)); };
  REQUIRE(through(5) == 1);
  REQUIRE(through(15) == Approx(0.75));
  REQUIRE(through(40) == 0);
  fog.kind = Fog::Kind::exponential;
  fog.density = 0.1f;
  REQUIRE(through(7) == Approx(std::exp(-0.7)));
  fog.kind = Fog::Kind::exponential_squared;
  REQUIRE(through(7) == Approx(std::exp(-0.49)));
  fog.kind = Fog::Kind::exponential;
  fog.half_height = 4;
  fog.base = 1;
  for (const Vec3& way : {Vec3(30, 0, 0), Vec3(10, 8, 2), Vec3(5, -6, 1), Vec3(0, 20, 0), Vec3(9, 0.001f, 0)}) {
    double depth = 0;
    constexpr int steps = 20000;
    for (int i = 0; i < steps; ++i) {
      const double y = eye.y() + way.y() * (i + 0.5) / steps;
      depth += 0.1 * std::exp2(-(y - 1) / 4) * static_cast<double>(way.norm()) / steps;
    }
    REQUIRE(fog.transmittance(eye, eye + way) == Approx(std::exp(-depth)).epsilon(1e-4));
  }
}
