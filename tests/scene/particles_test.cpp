#include <periscena/base/error.h>
#include <periscena/scene/particles.h>

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

using namespace periscena;

namespace {

ParticleCloud fountain() {
  ParticleCloud cloud;
  cloud.count = 4000;
  cloud.life = 2;
  cloud.from_low = {-1, 0, 2};
  cloud.from_high = {1, 0.5f, 3};
  cloud.velocity = {0, 6, 0};
  cloud.velocity_spread = {1, 0.5f, 1};
  return cloud;
}

/// Where and how fast each was when it began: as it is with no forces, undone.
std::vector<Particle> beginnings(ParticleCloud cloud, std::int64_t step) {
  cloud.gravity = cloud.wind = Vec3::zero();
  cloud.drag = cloud.gust = 0;
  std::vector<Particle> all = cloud.after_step(step);
  for (Particle& one : all) one.position -= static_cast<float>(one.age) / cloud.steps_a_second * one.velocity;
  return all;
}

}  // namespace

TEST_CASE("without air, particles fly as stones do") {
  const ParticleCloud cloud = fountain();
  const std::vector<Particle> starts = beginnings(cloud, 1000), all = cloud.after_step(1000);
  const float dt = 1 / cloud.steps_a_second;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const auto k = static_cast<float>(all[i].age);
    // Steps of velocity first, then of place: g (1 + 2 + … + k) dt².
    const Vec3 velocity = starts[i].velocity + k * dt * cloud.gravity;
    const Vec3 position =
        starts[i].position + k * dt * starts[i].velocity + 0.5f * k * (k + 1) * dt * dt * cloud.gravity;
    REQUIRE((all[i].velocity - velocity).norm() < 1e-4f);
    REQUIRE((all[i].position - position).norm() < 1e-4f);
    REQUIRE(all[i].age + all[i].left == 60);
  }
}

TEST_CASE("in steady air, particles become as fast as it is, and what they weigh lets them sink evenly") {
  ParticleCloud cloud = fountain();
  cloud.drag = 3;
  cloud.wind = {2, 0, -1};
  const std::vector<Particle> starts = beginnings(cloud, 777), all = cloud.after_step(777);
  const float dt = 1 / cloud.steps_a_second, taken = 1 - std::exp(-cloud.drag * dt);
  const Vec3 final_velocity = cloud.wind + dt / taken * cloud.gravity;  // where a step changes nothing
  for (std::size_t i = 0; i < all.size(); ++i) {
    const float left = std::exp(-cloud.drag * dt * static_cast<float>(all[i].age));
    const Vec3 velocity = final_velocity + left * (starts[i].velocity - final_velocity);
    REQUIRE((all[i].velocity - velocity).norm() < 1e-4f);
  }
}

TEST_CASE("particles begin evenly all over their box, and at all times of their lives") {
  ParticleCloud cloud = fountain();
  cloud.count = 20000;
  const std::vector<Particle> starts = beginnings(cloud, 12345);
  Vec3 mean = Vec3::zero(), square = Vec3::zero();
  double age = 0;
  for (const Particle& one : starts) {
    const Vec3 share = (one.position - cloud.from_low).over(cloud.from_high - cloud.from_low);
    REQUIRE(share.smallest() > -1e-3f);
    REQUIRE(share.largest() < 1.001f);
    mean += share;
    square += share.times(share);
    age += one.age;
  }
  // Of an even spread: 1/2 and 1/3; four standard errors of 20,000.
  const auto count = static_cast<float>(starts.size());
  CHECK((mean / count - Vec3::constant(0.5f)).abs().largest() < 4 * 0.2887f / std::sqrt(count));
  CHECK((square / count - Vec3::constant(1.0f / 3)).abs().largest() < 4 * 0.2981f / std::sqrt(count));
  CHECK(std::abs(age / count - 29.5) < 4 * 17.3 / std::sqrt(count));
  cloud.seed = 2;
  CHECK((cloud.after_step(12345)[0].position - starts[0].position).norm() > 1e-3f);
}

TEST_CASE("the next step follows from the one before, in each particle, before time 0, too") {
  ParticleCloud cloud = fountain();
  cloud.drag = 1;
  cloud.gust = 0.5f;
  for (const std::int64_t step : std::initializer_list<std::int64_t>{-91, -1, 0, 59, 4'000'000'000}) {
    const std::vector<Particle> now = cloud.after_step(step), next = cloud.after_step(step + 1);
    int begun = 0;
    for (std::size_t i = 0; i < now.size(); ++i) {
      if (next[i].age == 0) {
        ++begun;
        REQUIRE(now[i].left == 1);
        continue;
      }
      REQUIRE(next[i].age == now[i].age + 1);
      REQUIRE((next[i].position - now[i].position - next[i].velocity / cloud.steps_a_second).norm() < 1e-6f);
    }
    CHECK(begun == Approx(4000 / 60.0).margin(4 * std::sqrt(4000 / 60.0)));
  }
}

TEST_CASE("what leaves the bounds begins anew inside") {
  ParticleCloud cloud = fountain();
  cloud.bounds_low = {-2, -0.1f, 1};
  cloud.bounds_high = {2, 1.2f, 4};
  int restarts = 0;
  for (const Particle& one : cloud.after_step(500)) {
    REQUIRE(all_at_most(cloud.bounds_low, one.position));
    REQUIRE(all_at_most(one.position, cloud.bounds_high));
    restarts += one.restarts;
  }
  CHECK(restarts > 4000);
}

TEST_CASE("gusts neither gather nor thin out what drifts in them, and come round") {
  ParticleCloud cloud;
  cloud.gust = 0.7f;
  cloud.wind = {1, 0, 0};
  for (int i = 0; i < 50; ++i) {
    const Vec3 at(0.37f * static_cast<float>(i), 1.1f - 0.2f * static_cast<float>(i), 5);
    float divergence = 0;
    for (int k = 0; k < 3; ++k) {
      const Vec3 step = 1e-2f * Vec3::unit(k);
      divergence += (cloud.air(at + step, 0.3f)[k] - cloud.air(at - step, 0.3f)[k]) / 2e-2f;
    }
    CHECK(std::abs(divergence) < 1e-3f);
    CHECK((cloud.air(at, 0) - cloud.air(at, 1)).norm() < 1e-5f);
    CHECK((cloud.air(at, 0) - cloud.air(at + Vec3(cloud.gust_size, 0, 0), 0)).norm() < 1e-4f);
    CHECK((cloud.air(at, 0) - cloud.wind).norm() <= 0.7f * std::sqrt(12.0f));
  }
}

namespace {

/// Particles that stay where they begin: at a point that is moved along the x axis at 3 m/s, from 1 s to 5 s.
ParticleCloud carried() {
  ParticleCloud cloud;
  cloud.count = 2000;
  cloud.life = 2;
  cloud.gravity = Vec3::zero();
  cloud.path = Curve({{1, {0, 2, 0}}, {5, {12, 2, 0}}}, {.count = 3});
  return cloud;
}

}  // namespace

TEST_CASE("particles of an emitter that moves begin all along its path, and stay where they began") {
  const ParticleCloud cloud = carried();
  const std::vector<Particle> all = cloud.after_step(120);  // at 4 s
  double nearest = 12, farthest = 0;
  for (const Particle& one : all) {
    const double began = 4 - one.age / 30.0;  // at the end of a step; within it, each at a time of its own
    REQUIRE(one.position.x() <= 3 * (began - 1) + 1e-4);
    REQUIRE(one.position.x() >= 3 * (began - 1 - 1 / 30.0) - 1e-4);
    REQUIRE(one.position.y() == 2);
    REQUIRE(one.velocity == Vec3::zero());
    nearest = std::min<double>(nearest, one.position.x());
    farthest = std::max<double>(farthest, one.position.x());
  }
  CHECK(nearest == Approx(3).margin(0.15));   // two seconds ago
  CHECK(farthest == Approx(9).margin(0.15));  // now
  // Evenly: no clumps at whole steps, which are 0.1 m apart.
  double sine = 0, cosine = 0;
  for (const Particle& one : all) {
    sine += std::sin(62.831853 * one.position.x());
    cosine += std::cos(62.831853 * one.position.x());
  }
  CHECK(std::hypot(sine, cosine) / 2000 < 4 / std::sqrt(2000.0));
  // Where it stands still, all begin there.
  for (const Particle& one : cloud.after_step(30 * 8)) REQUIRE(one.position.x() == 12);
}

TEST_CASE("particles inherit a share of their emitter's velocity") {
  ParticleCloud cloud = carried();
  cloud.inherit_velocity = 0.5f;
  for (const Particle& one : cloud.after_step(120)) {
    REQUIRE(one.velocity.x() == Approx(1.5).epsilon(1e-4));
    REQUIRE(one.velocity.y() == Approx(0).margin(1e-4));
  }
}

TEST_CASE("an emitter that stops lets what is in the air live on, and starts again") {
  ParticleCloud cloud = fountain();
  cloud.emission = Curve({{0, {1}}, {3, {0}}, {6, {0.25}}}, {.ease = Curve::Ease::step});
  const auto alive = [&](double seconds) {
    const std::vector<Particle> all = cloud.after_step(cloud.step_at(seconds));
    return static_cast<double>(std::count_if(all.begin(), all.end(), [](const Particle& one) { return one.alive; })) /
           4000;
  };
  CHECK(alive(-5) == 1);
  CHECK(alive(2.9) == 1);
  CHECK(alive(4) == Approx(0.5).margin(0.04));  // half a life after it stopped
  CHECK(alive(5.01) == 0);
  CHECK(alive(7) == Approx(0.125).margin(0.02));
  CHECK(alive(100) == Approx(0.25).margin(4 * std::sqrt(0.25 * 0.75 / 4000)));
  // Those that live are where they would be without the stop.
  const std::vector<Particle> with = cloud.after_step(115);
  cloud.emission = Curve::constant({1});
  const std::vector<Particle> without = cloud.after_step(115);
  for (std::size_t i = 0; i < with.size(); ++i) {
    if (with[i].alive) REQUIRE((with[i].position == without[i].position && with[i].age == without[i].age));
  }
  // What would begin again at its bounds does so at the emitter, and not at all when that has stopped.
  cloud.bounds_low = {-2, -0.1f, 1};
  cloud.bounds_high = {2, 1.2f, 4};
  cloud.emission = Curve({{0, {1}}, {3, {0}}}, {.ease = Curve::Ease::step});
  CHECK(alive(2.9) == 1);
  CHECK(alive(3.5) < 0.1);
}

TEST_CASE("a path that is recorded as time goes on changes nothing that was") {
  ParticleCloud whole = carried();
  std::vector<Curve::Key> keys;
  for (int i = 0; i < 40; ++i) keys.push_back({0.11 * i, {std::sin(0.3 * i), 0.02 * i, 0}});
  whole.path = Curve(keys, {.count = 3});
  ParticleCloud recorded = whole;
  recorded.path = Curve({keys[0]}, {.count = 3});
  for (std::size_t i = 1; i < keys.size(); ++i) {
    recorded.path.add(keys[i]);
    recorded.path.forget_before(keys[i].seconds - recorded.life - 1 / recorded.steps_a_second);
    const std::int64_t step = whole.step_at(keys[i].seconds);
    const std::vector<Particle> a = whole.after_step(step), b = recorded.after_step(step);
    for (std::size_t k = 0; k < a.size(); ++k) REQUIRE(a[k].position == b[k].position);
  }
  CHECK(recorded.path.keys().size() < 22);
}

TEST_CASE("clouds that can't be are refused") {
  const auto refused = [](auto change) {
    ParticleCloud cloud = fountain();
    change(cloud);
    CHECK_THROWS_AS(cloud.expect_sound(), Mistake);
  };
  CHECK_NOTHROW(fountain().expect_sound());
  refused([](ParticleCloud& c) { c.count = 0; });
  refused([](ParticleCloud& c) { c.count = 4'000'001; });
  refused([](ParticleCloud& c) { c.life = 0; });
  refused([](ParticleCloud& c) { c.life = 1e9f; });
  refused([](ParticleCloud& c) { c.steps_a_second = -1; });
  refused([](ParticleCloud& c) { c.gravity.x() = NAN; });
  refused([](ParticleCloud& c) { c.from_low.y() = 2; });
  refused([](ParticleCloud& c) { c.bounds_high = c.from_low; });
  refused([](ParticleCloud& c) { c.drag = -1; });
  refused([](ParticleCloud& c) { c.gust_size = 0; });
  refused([](ParticleCloud& c) { c.path = Curve::constant({1}); });
  refused([](ParticleCloud& c) { c.path = Curve({{0, {}}, {1, {0, 1e300, 0}}}, {.count = 3}); });
  refused([](ParticleCloud& c) { c.emission = Curve::constant({1}, 3); });
  refused([](ParticleCloud& c) { c.emission = Curve({{0, {0}}, {1, {1.5}}}, {}); });
  refused([](ParticleCloud& c) { c.inherit_velocity = -1; });
  refused([](ParticleCloud& c) {
    c.bounds_high = {5, 5, 5};
    c.path = Curve({{0, {}}, {1, {5, 0, 0}}}, {.count = 3});
  });
}
