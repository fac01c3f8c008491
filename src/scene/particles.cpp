#include <periscena/scene/particles.h>

#include <periscena/base/error.h>
#include <periscena/base/names.h>

#include <fmt/format.h>

#include <cmath>
#include <numbers>

namespace periscena {
namespace {

/// 0..1, not 1. @param which  of the numbers that one beginning needs
float chance(const ParticleCloud& cloud, std::uint32_t particle, std::uint32_t life, std::uint32_t restart,
             std::uint32_t which) {
  const std::uint32_t mixed =
      scramble(particle + scramble(life + scramble(restart + scramble(which + scramble(cloud.seed)))));
  return static_cast<float>(mixed >> 8) * 0x1p-24f;
}

Vec3 chances(const ParticleCloud& cloud, std::uint32_t particle, std::uint32_t life, std::uint32_t restart,
             std::uint32_t which) {
  return {chance(cloud, particle, life, restart, which), chance(cloud, particle, life, restart, which + 1),
          chance(cloud, particle, life, restart, which + 2)};
}

void begin(const ParticleCloud& cloud, const ParticleBirth& birth, std::uint32_t number, std::uint32_t life,
           Particle& particle) {
  const Vec3 place = chances(cloud, number, life, particle.restarts, 0);
  const Vec3 push = chances(cloud, number, life, particle.restarts, 3);
  particle.alive = chance(cloud, number, life, particle.restarts, 6) < birth.emission;
  // Within the step, each begins at a time of its own: a fast emitter leaves no clumps.
  const float ago = chance(cloud, number, life, particle.restarts, 7) / cloud.steps_a_second;
  particle.position =
      cloud.from_low + (cloud.from_high - cloud.from_low).times(place) + (birth.offset - ago * birth.velocity);
  particle.velocity =
      cloud.velocity + cloud.velocity_spread.times(2 * push - Vec3::ones()) + cloud.inherit_velocity * birth.velocity;
  particle.age = 0;
}

Vec3 vector_of(const Curve::Numbers& numbers) {
  return {static_cast<float>(numbers[0]), static_cast<float>(numbers[1]), static_cast<float>(numbers[2])};
}

}  // namespace

std::uint32_t wrapped_step(std::int64_t step, std::uint32_t period) {
  const std::int64_t rest = step % period;
  return static_cast<std::uint32_t>(rest < 0 ? rest + period : rest);
}

std::uint32_t scramble(std::uint32_t value) {
  const std::uint32_t state = value * 747796405u + 2891336453u;
  const std::uint32_t word = ((state >> ((state >> 28) + 4)) ^ state) * 277803737u;
  return (word >> 22) ^ word;
}

void ParticleCloud::expect_sound(const Place& place) const {
  const auto refuse = [&](const std::string& cause, const char* mend) {
    throw Mistake("bad-particles", place, cause, mend);
  };
  const bool finite = std::isfinite(inherit_velocity) && is_finite(from_low) && is_finite(from_high) &&
                      is_finite(velocity) && is_finite(velocity_spread) && is_finite(gravity) && is_finite(wind) &&
                      std::isfinite(drag) && std::isfinite(gust) && std::isfinite(gust_size) &&
                      std::isfinite(gust_seconds) && std::isfinite(life) && std::isfinite(steps_a_second) &&
                      !bounds_low.has_nan() && !bounds_high.has_nan();
  if (!finite) refuse("particles have a number that is not finite", "look for where it comes from");
  if (count < 1 || count > most) refuse(fmt::format("there are {} particles", count), "choose 1 to 4,000,000");
  if (!(steps_a_second > 0 && life > 0 && life * steps_a_second <= 65536))
    refuse(fmt::format("particles live {} s, at {} steps a second", life, steps_a_second),
           "both must be more than 0, and a life at most 65,536 steps");
  if (life * steps_a_second < 1) {
    refuse(fmt::format("particles live {} s, less than one step of {:.4g} s", life, 1 / steps_a_second),
           "let them live longer, or take more steps a second");
  }
  if (!(drag >= 0)) refuse(fmt::format("particles have a drag of {}", drag), "choose 0 or more");
  if (!(gust >= 0 && gust_size > 0 && gust_seconds > 0)) {
    refuse(fmt::format("particles have gusts of {} m/s, {} m and {} s", gust, gust_size, gust_seconds),
           "the speed is 0 or more, size and seconds are more than 0");
  }
  if (!(gust_seconds * steps_a_second <= 65536)) {
    refuse(fmt::format("gusts last {} s, at {} steps a second", gust_seconds, steps_a_second),
           "choose less: a gust lasts at most 65,536 steps");
  }
  if (any_less(from_high, from_low) || !all_less(bounds_low, bounds_high))
    refuse("a box of particles has its low corner above its high one", "exchange them");
  if (path.count() != 3)
    refuse(fmt::format("the path of an emitter has values of {}",
                       counted(static_cast<std::size_t>(path.count()), "number")),
           "give it values of three: metres along x, y and z");
  if (emission.count() != 1)
    refuse(fmt::format("the emission of particles has values of {}",
                       counted(static_cast<std::size_t>(emission.count()), "number")),
           "give it values of one: the share of particles that begin");
  const auto [least, greatest] = emission.extremes();
  if (!(least[0] >= 0 && greatest[0] <= 1))
    refuse(fmt::format("the emission of particles goes from {:.4g} to {:.4g}", least[0], greatest[0]),
           "keep it within 0 and 1");
  if (!(inherit_velocity >= 0 && inherit_velocity <= 1))
    refuse(fmt::format("particles inherit {} of their emitter's velocity", inherit_velocity), "choose 0 to 1");
  const auto ends = path.extremes();
  for (const Curve::Numbers& end : ends) {
    for (const double number : end) {
      if (std::abs(number) > longest_path)
        refuse(fmt::format("the path of an emitter leads to {:.4g} m", number),
               "keep it within 1,000 km of the origin");
    }
  }
  if (any_less(from_low + vector_of(ends[0]), bounds_low) || any_less(bounds_high, from_high + vector_of(ends[1])))
    refuse("particles begin outside of their bounds, so they would never get on",
           path.is_constant() ? "let the bounds hold the first box" : "let the bounds hold the box all along its path");
}

std::uint32_t ParticleCloud::life_steps() const {
  return static_cast<std::uint32_t>(std::max(1l, std::lround(life * steps_a_second)));
}

std::uint32_t ParticleCloud::gust_steps() const {
  return static_cast<std::uint32_t>(std::max(1l, std::lround(gust_seconds * steps_a_second)));
}

std::int64_t ParticleCloud::step_at(double seconds) const {
  return static_cast<std::int64_t>(std::floor(seconds * static_cast<double>(steps_a_second)));
}

float ParticleCloud::drag_taken() const {
  return 1 - std::exp(-drag / steps_a_second);
}

Vec3 ParticleCloud::air(const Vec3& position, float turn) const {
  if (gust == 0) return wind;
  constexpr float circle = 2 * std::numbers::pi_v<float>;
  const Vec3 share = position / gust_size + Vec3::constant(turn);
  const Vec3 a = circle * share.mapped([](float value) { return value - std::floor(value); });
  const Vec3 s = a.mapped([](float angle) { return std::sin(angle); });
  const Vec3 c = a.mapped([](float angle) { return std::cos(angle); });
  return wind + gust * Vec3(s.z() + c.y(), s.x() + c.z(), s.y() + c.x());
}

bool ParticleCloud::has_births() const {
  return !(path.is_constant() && emission.is_constant() && vector_of(path.keys()[0].value) == Vec3::zero() &&
           emission.keys()[0].value[0] == 1);
}

ParticleBirth ParticleCloud::birth_at(std::int64_t step) const {
  const double a_second = static_cast<double>(steps_a_second), now = static_cast<double>(step) / a_second;
  const Vec3 offset = vector_of(path.at(now));
  if (path.is_constant()) return {offset, static_cast<float>(emission.number_at(now))};
  const Vec3 before = vector_of(path.at(static_cast<double>(step - 1) / a_second));
  return {offset, static_cast<float>(emission.number_at(now)), steps_a_second * (offset - before)};
}

std::vector<Particle> ParticleCloud::after_step(std::int64_t step) const {
  const std::uint32_t lasts = life_steps(), eddies = gust_steps();
  const float seconds = 1 / steps_a_second, taken = drag_taken();
  std::vector<ParticleBirth> births(lasts);  // of this step, the one before, …
  if (has_births())
    for (std::uint32_t ago = 0; ago < lasts; ++ago) births[ago] = birth_at(step - ago);
  std::vector<Particle> all(count);
  for (std::uint32_t i = 0; i < count; ++i) {
    // It is as far into its life as it is past its own first step.
    const std::uint32_t phase = scramble(i ^ scramble(seed)) % lasts, into = wrapped_step(step - phase, lasts);
    const auto life_number = static_cast<std::uint32_t>((step - phase - into) / lasts);
    Particle& particle = all[i];
    begin(*this, births[into], i, life_number, particle);
    for (std::uint32_t k = 1; k <= into && particle.alive; ++k) {
      const std::uint32_t eddy = wrapped_step(step - into + k, eddies);
      const Vec3 moving = air(particle.position, static_cast<float>(eddy) / static_cast<float>(eddies));
      particle.velocity += seconds * gravity + taken * (moving - particle.velocity);
      particle.position += seconds * particle.velocity;
      ++particle.age;
      const bool outside = any_less(particle.position, bounds_low) || any_less(bounds_high, particle.position);
      if (!outside) continue;
      ++particle.restarts;
      begin(*this, births[into - k], i, life_number, particle);
    }
    particle.left = static_cast<int>(lasts - into);
  }
  return all;
}

}  // namespace periscena
