#include "thrown.h"

#include <periscena/math/light_fit.h>

#include <random>

using namespace periscena;

TEST_CASE("a light's view holds every ball, and none of its four sides and two ends could be nearer") {
  std::mt19937 dice(5);
  std::uniform_real_distribution<float> at(-40, 40), size(0, 6);
  for (int round = 0; round < 200; ++round) {
    const Vec3 direction(at(dice), round % 5 == 0 ? -1e4f : at(dice), at(dice));
    std::vector<Sphere> spheres;
    for (int i = 0; i < 1 + round % 9; ++i) spheres.push_back({Vec3(at(dice), at(dice), at(dice)), size(dice)});
    spheres.push_back({});
    const auto camera = fit_parallel(direction, spheres);
    REQUIRE(camera);
    const Transform view = camera->view();
    Vec3 least = Vec3::Constant(1e9f), most = Vec3::Constant(-1e9f);
    for (const Sphere& sphere : spheres) {
      if (sphere.empty()) continue;
      const Vec3 seen = view.apply_to_point(sphere.center);
      least = least.cwiseMin(seen - Vec3::Constant(sphere.radius));
      most = most.cwiseMax(seen + Vec3::Constant(sphere.radius));
    }
    const float half = camera->parallel_height / 2, slack = 2e-3f;
    INFO("round " << round);
    REQUIRE(view.apply_to_direction(direction.normalized()).isApprox(Vec3(0, 0, -1), 1e-4f));
    REQUIRE(least.head<2>().minCoeff() >= -half - slack);
    REQUIRE(most.head<2>().maxCoeff() <= half + slack);
    REQUIRE(std::max(most.x() - least.x(), most.y() - least.y()) >= camera->parallel_height - 2 * slack - 1e-3f);
    REQUIRE(-most.z() >= camera->near);
    REQUIRE(-least.z() <= camera->far);
    REQUIRE(camera->far - camera->near <= 1.01f * (most.z() - least.z()) + 2 * slack + 2e-3f);
  }
}

TEST_CASE("a light has a view of a single point, and none of nothing") {
  const Sphere point{Vec3(3, 4, 5), 0};
  const auto camera = fit_parallel(Vec3(0, -1, 0), std::span(&point, 1));
  REQUIRE(camera);
  REQUIRE(camera->parallel_height > 0);
  const Vec3 seen = camera->view().apply_to_point(point.center);
  REQUIRE(seen.head<2>().norm() < camera->parallel_height / 2);
  REQUIRE(-seen.z() > camera->near);
  REQUIRE(-seen.z() < camera->far);
  REQUIRE_FALSE(fit_parallel(Vec3(0, -1, 0), {}));
  const Sphere empty;
  REQUIRE_FALSE(fit_parallel(Vec3(0, -1, 0), std::span(&empty, 1)));
}

TEST_CASE("a light that shines nowhere has no view") {
  const Sphere ball{Vec3::Zero(), 1};
  const float inf = std::numeric_limits<float>::infinity();
  for (const Vec3& direction : {Vec3(0, 0, 0), Vec3(inf, 0, 0), Vec3(0, NAN, 0)})
    REQUIRE(thrown_slug([&] { fit_parallel(direction, std::span(&ball, 1)); }) == "bad-direction");
}
