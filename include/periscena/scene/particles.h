#pragma once

#include <periscena/base/place.h>
#include <periscena/math/curve.h>
#include <periscena/math/transform.h>

#include <cstdint>
#include <limits>
#include <vector>

namespace periscena {

/// One of a cloud, as it is at a time.
struct Particle {
  Vec3 position = Vec3::zero();  ///< metres, world
  Vec3 velocity = Vec3::zero();  ///< m/s
  int age = 0;                   ///< steps since it began, or began anew outside of the bounds
  int left = 0;                  ///< steps until it begins anew
  std::uint32_t restarts = 0;    ///< how often it left the bounds in this life
  bool alive = true;             ///< false: none was emitted when it would have begun
};

/// How particles begin at a step, where the emitter moves, starts and stops.
struct ParticleBirth {
  Vec3 offset = Vec3::zero();    ///< by which the box is moved, metres
  float emission = 1;            ///< share of the particles that begin
  Vec3 velocity = Vec3::zero();  ///< of the emitter in the step, m/s
  bool operator==(const ParticleBirth&) const = default;
};

/// How particles move: from boxes, with gravity, in wind. The same on the device and here.
///
/// Steps are of one length, and each particle lives a fixed number of them, from a start that depends on the seed, its
/// number and the count of its lives alone. So what the cloud is at a time can be found from no more than one life
/// before: the same time gives the same cloud, whatever was asked before.
struct ParticleCloud {
  std::uint32_t count = 1000;  ///< 1..most
  std::uint32_t seed = 1;
  float steps_a_second = 30;                                     ///< > 0
  float life = 10;                                               ///< seconds; rounded to whole steps, 1..65,536 of them
  Vec3 from_low = Vec3::zero(), from_high = Vec3::zero();        ///< the box that they begin in, metres
  Vec3 velocity = Vec3::zero(), velocity_spread = Vec3::zero();  ///< at the beginning: evenly within ± the spread, m/s
  Vec3 gravity = Vec3(0, -9.81f, 0);                             ///< m/s²
  Vec3 wind = Vec3::zero();                                      ///< m/s
  float drag = 0;                                                ///< 1/s: how fast they become as fast as the air; >= 0
  float gust = 0;                                                ///< m/s: how much the wind varies, >= 0
  float gust_size = 3;                                           ///< metres from one eddy to the next, > 0
  float gust_seconds = 5;                                        ///< until eddies are as they were, > 0
  /// They begin anew where they leave this box.
  Vec3 bounds_low = Vec3::constant(-std::numeric_limits<float>::infinity());
  Vec3 bounds_high = Vec3::constant(std::numeric_limits<float>::infinity());

  /// The path of the emitter, metres, three numbers: the box is moved by it. Each particle begins where the box is at
  /// that time, so what is in the air already stays behind.
  Curve path = Curve::constant({}, 3);
  /// The share of particles that begin, 0..1; 0: the emitter has stopped, and what is in the air lives on.
  Curve emission = Curve::constant({1});
  float inherit_velocity = 0;  ///< 0..1: share of the emitter's velocity along its path that is added to `velocity`

  static constexpr std::uint32_t most = 4'000'000;
  static constexpr double longest_path = 1e6;  ///< metres from the origin along each axis

  /// @throws Mistake "bad-particles"
  void expect_sound(const Place& place = Place::here()) const;

  std::uint32_t life_steps() const;
  std::uint32_t gust_steps() const;
  std::int64_t step_at(double seconds) const;  ///< number of the last whole step
  float drag_taken() const;  ///< share of the air's velocity that a step takes on: 1 - exp(-drag / steps_a_second)

  /// Does it matter when particles begin?
  bool has_births() const;
  /// @param step  with whose end they begin
  ParticleBirth birth_at(std::int64_t step) const;

  /// All of them after a step. Takes at most one life of steps for each.
  std::vector<Particle> after_step(std::int64_t step) const;

  /// The air's velocity at a place in the eddies' own time: an Arnold-Beltrami-Childress flow over the wind, which
  /// neither gathers nor thins out what drifts in it. @param turn  0..1 of `gust_seconds`
  Vec3 air(const Vec3& position, float turn) const;
};

/// A step's number within a round of so many: 0..period - 1, for negative ones, too.
std::uint32_t wrapped_step(std::int64_t step, std::uint32_t period);

/// A number that looks like chance, from its input alone.
/// @see Jarzynski and Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020 (pcg)
std::uint32_t scramble(std::uint32_t value);

}  // namespace periscena
