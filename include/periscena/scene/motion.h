#pragma once

#include <periscena/math/transform.h>

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace periscena {

/// A motion as a function of absolute time, so the same time gives the same place. It happens before the node's own
/// placement: axis and pivot are in the node's mesh coordinates.
struct Motion {
  enum class Kind {
    swing,  ///< to and fro about the axis, `from` to `to` and back, easing in and out like a cosine
    spin,   ///< round and round about the axis, a turn in each period
    slide,  ///< to and fro along the axis, `from` to `to` metres and back, easing like a cosine
  };
  Kind kind = Kind::swing;
  Vec3 axis = Vec3::unit_y();
  Vec3 pivot = Vec3::zero();
  float from = 0;    ///< radians, or metres for slide
  float to = 0;      ///< radians, or metres for slide
  float period = 1;  ///< seconds, > 0
  float phase = 0;   ///< periods ahead

  /// Of a swing or slide: the share of each period that it rests at `from` (about time 0) and at `to` (half a period
  /// later). 0 or more, together less than 1.
  float hold_from = 0, hold_to = 0;

  /// @param node  of which it is, for messages; @throws Mistake "not-finite", "bad-motion"
  void expect_sound(std::string_view node, const Place& place) const;

  /// Where the motion has taken a point at `seconds`.
  Transform at(double seconds) const;

  bool operator==(const Motion&) const = default;
};

/// How values between two keys come about (glTF 2.0, appendix C).
enum class Interpolation {
  step,    ///< the earlier key's, until the next
  linear,  ///< straight; rotations along the shorter arc at even speed
  cubic,   ///< Hermite's cubic through the keys, with their tangents
};

/// Keys of a value over time. Before the first key it has the first's value, after the last the last's.
/// @tparam Value  Vec3, or Quat for rotations
template <class Value>
struct Track {
  Interpolation interpolation = Interpolation::linear;
  std::vector<float> times;  ///< seconds, growing
  /// One for each time; for cubic three: the tangent into the key, its value, the tangent out of it (per second)
  std::vector<Value> values;

  bool empty() const { return times.empty(); }

  /// @pre not empty
  Value at(double seconds) const;

  bool operator==(const Track& other) const;
};

/// A placement whose scale, rotation and translation, in that order of happening, are keyed.
struct KeyedPlacement {
  Vec3 scale = Vec3::ones();  ///< where it has no track
  Quat rotation = Quat::identity();
  Vec3 translation = Vec3::zero();
  Track<Vec3> scale_track;
  Track<Quat> rotation_track;
  Track<Vec3> translation_track;

  /// More than 0: after so many seconds it begins again.
  float repeat_seconds = 0;

  Transform at(double seconds) const;

  /// @throws Mistake "bad-keys": times that do not grow, counts that do not fit, numbers that are not finite
  void expect_sound(std::string_view node, Place place = Place::here()) const;

  bool operator==(const KeyedPlacement& other) const;
};

/// Calls a step function at a fixed rate, whatever the times are that it is asked for: for simulations that only know
/// how to go on from where they are.
///
///     FixedSteps steps(120);  // a second
///     steps.run_to(2.5, [&](double seconds) { water.step(1 / 120.0); }, [&] { water.reset(); });
///
/// Asked for an earlier time, it starts again. A gap is capped, so that a minute's pause does not take a minute to
/// catch up on.
class FixedSteps {
 public:
  /// @param rate  steps a second, > 0; @param most  steps in one call, >= 1: what is beyond is left out
  /// @throws Mistake "bad-rate"
  explicit FixedSteps(double rate, int most = 1000, Place place = Place::here());

  struct Ran {
    int steps = 0;
    bool restarted = false;  ///< the time lies before that of the last call: `restart` was called
    bool skipped = false;    ///< the gap was longer than `most` steps
  };

  /// Runs the steps that are due at absolute time `seconds`. @param restart  brings the simulation back to time 0
  template <class Step, class Restart>
  Ran run_to(double seconds, Step step, Restart restart) {
    Ran ran;
    const std::int64_t due = due_at(seconds);
    if (due < done_) {
      restart();
      done_ = 0;
      ran.restarted = true;
    }
    if (due - done_ > most_) {
      done_ = due - most_;
      ran.skipped = true;
    }
    for (; done_ < due; ++ran.steps) step(step_time(done_++));
    return ran;
  }

 private:
  double step_time(std::int64_t step) const { return static_cast<double>(step) / rate_; }
  std::int64_t due_at(double seconds) const;

  double rate_;
  std::int64_t most_;
  std::int64_t done_ = 0;
};

}  // namespace periscena
